"""Arrangements of a job's modules on its trackers: which fit, what each makes in a year, and the changes to
it."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from lodestaff.catalogue import Tracker
from lodestaff.electrical.arrange import Alike, Counts, Found, Taker, Way, arrange, below
from lodestaff.electrical.strings import Lengths, string_lengths
from lodestaff.energy.calendar import STEP_H, Floats
from lodestaff.energy.in_series import Groups, in_series_kw
from lodestaff.energy.modules import ModulesAt
from lodestaff.energy.shade import GROUPS
from lodestaff.job import Change, Face, Job, ModuleString, Unit, edit
from lodestaff.job.array import PlacedModule
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.shade import shaded_modules
from lodestaff.reckoning.string_volts import volts_of
from lodestaff.reckoning.strung import plane_of
from lodestaff.roof.solids import standings

SAMPLE_EVERY = 5  # steps of the year by which strings of unlike modules are told apart
KEEP = 10
STRINGS = ("ARR-VOC", "ARR-VMP", "ARR-ISC")


@dataclass(frozen=True)
class Class:
    """Modules that are alike: of one face, shaded or not, in the order in which a cable would join them."""

    face: Face
    shaded: bool
    modules: tuple[PlacedModule, ...]
    each_kwh: tuple[float, ...]  # of each alone, in a year

    @property
    def kwh(self) -> float:
        """Of the middle one."""
        return sorted(self.each_kwh)[len(self.each_kwh) // 2]

    @property
    def name(self) -> str:
        return f"{self.face.name}, shaded" if self.shaded else self.face.name


@dataclass(frozen=True)
class Fit:
    """Lengths of a class of modules on a tracker, and what bounds them; least > most where none fits."""

    unit: str
    tracker: str
    modules: str
    least: int
    most: int
    why: str


@dataclass(frozen=True)
class Arrangement:
    """One way: its strings in words, the year in kWh at the trackers, what mismatch and limits take, the
    least margin to the maximum voltage, and the changes that make it so."""

    strings: tuple[tuple[str, str, str], ...]  # unit's name, tracker, modules in words
    kwh: float
    alone_kwh: float
    left: int
    margin_v: float
    changes: tuple[Change, ...]

    @property
    def lost_share(self) -> float:
        """By mismatch and limits, of what the modules used would make alone."""
        return 1 - self.kwh / self.alone_kwh if self.alone_kwh > 0 else 0.0


@dataclass(frozen=True)
class Arranged:
    """The best ways, best first; how many were looked at and whether that was all; which lengths fit; and
    the year of the job as it stands."""

    ways: tuple[Arrangement, ...]
    looked_at: int
    exact: bool
    fits: tuple[Fit, ...]
    now_kwh: float
    now_blocks: tuple[str, ...]  # checks of the strings that the job as it stands fails


def arranged(
    reckoner: Reckoner, job: Job, keep: int = KEEP, step: Callable[[int], bool] = lambda looked_at: True
) -> Arranged:
    """The best arrangements of the modules that are not part of what stood there before.

    Raises JobError where there is nothing to arrange. Order: energy of the year after mismatch and limits,
    to half a per cent; then units evenly filled, fewer home runs, fewer lengths.
    """
    search = _Setting(reckoner, job)
    if not search.classes or not search.takers:
        what = "no module that is free to be moved" if search.takers else "no unit with trackers of its own"
        raise JobError(
            f"the job has {what}", "arrange", "place modules on a face; add a unit that takes them"
        )
    thing: Found = arrange(search.kinds, search.takers, search.string_kwh, keep=3 * keep, step=step)
    unlike: dict[object, Way] = {}
    for way in thing.ways:  # the same strings on other inputs of a unit are no other way
        rows = [(t.unit, o.strings) for t, o in zip(search.takers, way.options, strict=True) if o.strings]
        unlike.setdefault(tuple(sorted(rows)), way)
    told = (search.told(way) for way in [*unlike.values()][:keep])
    most = sum(sum(group.each_kwh) for group in search.classes)
    ways = sorted(told, key=lambda way: below(way.kwh, most))
    standing = findings(reckoner, job, deep=False, stations=frozenset({"array"}))
    return Arranged(
        tuple(ways),
        thing.looked_at,
        exact=thing.exact,
        fits=search.fits,
        now_kwh=search.year_kwh(job),
        now_blocks=tuple(dict.fromkeys(f.code for f in standing if f.blocks and f.code in STRINGS)),
    )


class _Setting:
    """What a search needs of a job."""

    def __init__(self, reckoner: Reckoner, job: Job) -> None:
        self.reckoner, self.job = reckoner, job
        self.units = tuple(u for u in job.units if not u.existing and job.sheet_of(u).trackers)
        kept = {s.id for s in job.strings if s.unit not in {unit.id for unit in self.units}}
        self.kept_strings = tuple(string for string in job.strings if string.id in kept)
        self.classes = tuple(_classes(reckoner, job, kept))
        self.trackers = tuple(
            (unit, tracker) for unit in self.units for tracker in job.sheet_of(unit).trackers
        )

    @cached_property
    def kinds(self) -> tuple[Alike, ...]:
        sheets = self.job.sheets.modules
        return tuple(
            Alike(len(c.modules), c.kwh, c.face.module, sheets[c.face.module].isc_a * self._bright(c))
            for c in self.classes
        )

    def _bright(self, group: Class) -> float:
        return 1 + self.job.sheets.modules[group.face.module].bifacial_gain

    @cached_property
    def fits(self) -> tuple[Fit, ...]:
        return tuple(
            self._fit(unit, tracker, group)
            for unit, tracker in self.trackers
            if not self.job.sheet_of(unit).module_level
            for group in self.classes
        )

    @cached_property
    def takers(self) -> tuple[Taker, ...]:
        factor = self.job.pack.value("isc_factor").value
        fits = {(fit.unit, fit.tracker, fit.modules): fit for fit in self.fits}
        rows = []
        for unit, tracker in self.trackers:
            micro = self.job.sheets.microinverters.get(unit.sheet)
            rated = self.job.sheet_of(unit).rated_kw
            if micro is not None:
                nothing, room = ((0, 0),) * len(self.classes), unit.count * micro.modules
                taker = Taker(unit.id, tracker.name, nothing, parallel=1, isc_most_a=0.0, rated_kw=rated)
                rows.append(replace(taker, alone=True, room=room))
                continue
            mine = [fits[unit.name, tracker.name, group.name] for group in self.classes]
            lengths = tuple((fit.least, fit.most) if fit.least <= fit.most else (0, 0) for fit in mine)
            isc = tracker.isc_max_a / (1.0 if tracker.isc_with_factor else factor)
            taker = Taker(
                unit.id, tracker.name, lengths, parallel=tracker.inputs, isc_most_a=isc, rated_kw=rated
            )
            rows.append(
                replace(taker, like=f"{unit.id} {lengths} {tracker.inputs} {isc} {tracker.imp_max_a}")
            )
        return tuple(rows)

    def _fit(self, unit: Unit, tracker: Tracker, group: Class) -> Fit:
        """Lengths between start and the least volts, and the maximum; with optimisers by their sheet."""
        module, sheet = self.job.sheets.modules[group.face.module], self.job.sheet_of(unit)
        optimised = [s for s in self.job.strings if s.unit == unit.id and self.job.optimisers_on(s) == "all"]
        own = self.job.sheets.optimisers.get(optimised[0].optimiser) if optimised else None
        if own is not None:
            most_w = own.most_string_w or module.pmp_w * 64
            least = (own.least_in_string or 1) * own.modules
            most = int(min((own.most_in_string or 64) * own.modules, most_w // module.pmp_w))
            return Fit(
                unit.name, tracker.name, group.name, least=least, most=most, why="its optimisers' sheet"
            )
        volts, most_v = volts_of(self.job, group.face), min(sheet.max_dc_v, module.max_system_v)
        lengths: Lengths = string_lengths(volts, tracker.v_min, tracker.v_max, tracker.v_start, most_v)
        why = (
            f"{tracker.v_start:g} V to start, {tracker.v_min:g} to {tracker.v_max:g} V, at most {most_v:g} V"
        )
        return Fit(unit.name, tracker.name, group.name, least=lengths.least, most=lengths.most, why=why)

    # --- energy ----------------------------------------------------------------------------------
    @cached_property
    def _series(self) -> tuple[tuple[Groups, float, float], ...]:
        """For each class: the bypass groups of its middle module in daylight, how many alike, and its
        volts."""
        rows, sunlit = [], self.reckoner.sunlit
        for group in self.classes:
            sheet = self.job.sheets.modules[group.face.module]
            stands = standings(self.job, group.face)
            middle = group.modules[group.each_kwh.index(group.kwh)]
            at = ModulesAt(
                plane_of(self.job, group.face),
                1,
                vmp_v=sheet.vmp_v,
                rise=sheet.voc_v / sheet.vmp_v - 1,
                standing=stands.get(middle.id),
            )
            if at.standing is None:
                whole: Floats = sunlit.module_kw(self.job, at.plane)[sunlit.lit(self.job)] / GROUPS
                rows.append((whole[None, :].astype(np.float32), float(GROUPS), sheet.vmp_v / GROUPS))
            else:
                rows.append((sunlit.shaded(self.job, at).groups_kw, 1.0, sheet.vmp_v / GROUPS))
        day = np.flatnonzero(np.sum([row[0].sum(axis=0) for row in rows], axis=0) > 0)[::SAMPLE_EVERY]
        return tuple((np.ascontiguousarray(row[0][:, day]), row[1], row[2]) for row in rows)

    def string_kwh(self, counts: Counts) -> float:
        """A string's year; of unlike modules by every fifth step of daylight, against those modules alone."""
        alone = sum(n * group.kwh for n, group in zip(counts, self.classes, strict=True))
        used = [index for index, n in enumerate(counts) if n]
        if len(used) < 2 and not self.classes[used[0]].shaded:
            return alone
        parts = [self._series[index] for index in used]
        numbers = [float(counts[index]) for index in used]
        powers = np.concatenate([groups for groups, _, _ in parts])
        each = np.concatenate(
            [np.full(len(groups), n * many) for (groups, many, _), n in zip(parts, numbers, strict=True)]
        )
        volts = np.concatenate([np.full(len(groups), volt) for groups, _, volt in parts])
        together = float(in_series_kw(powers, each, volts, rise=self._rise).sum())
        apart = float((powers * each[:, None]).sum())
        return alone * min(1.0, together / apart) if apart > 0 else 0.0

    @cached_property
    def _rise(self) -> float:
        sheet = self.job.sheets.modules[self.classes[0].face.module]
        return sheet.voc_v / sheet.vmp_v - 1

    # --- a way as it would be built ------------------------------------------------------------------
    def told(self, way: Way) -> Arrangement:
        """A way with its modules, its true year and its margins."""
        rows, changes = self._changes(way)
        job = edit(self.job, *changes)
        added = [s for s in job.strings if not job.sheet_of(job.unit(s.unit)).module_level]
        margins = [_margin_v(job, s) for s in added if job.optimisers_on(s) != "all"]
        used = [sum(counts[i] for o in way.options for counts in o.strings) for i in range(len(self.classes))]
        alone = sum(sum(group.each_kwh[:n]) for n, group in zip(used, self.classes, strict=True))
        left = sum(len(group.modules) for group in self.classes) - way.used
        return Arrangement(
            rows,
            self.year_kwh(job),
            alone_kwh=alone + self._kept_kwh,
            left=left,
            margin_v=min(margins, default=float("inf")),
            changes=changes,
        )

    @cached_property
    def _kept_kwh(self) -> float:
        """What stood there before makes, in every way alike."""
        sun = self.reckoner.sunlit.dc_kw(self.job)
        kept = [index for index, unit in enumerate(self.job.units) if unit not in self.units]
        return float(sun[kept].sum() * STEP_H)

    def year_kwh(self, job: Job) -> float:
        """DC energy of the year after mismatch and the limits of trackers and units."""
        sun = self.reckoner.sunlit.dc_kw(job)
        most = np.array([_most_dc_kw(job, unit) for unit in job.units])
        return float(np.minimum(sun, most[:, None]).sum() * STEP_H)

    def _changes(self, way: Way) -> tuple[tuple[tuple[str, str, str], ...], tuple[Change, ...]]:
        """Strings in words, and the changes: strings anew, each module on its own."""
        place = dict.fromkeys(range(len(self.classes)), 0)
        strings: list[ModuleString] = []
        moved: dict[str, str] = {}
        rows = []
        taken = {string.id for string in self.kept_strings} | {string.name for string in self.kept_strings}
        fresh = (str(n) for n in range(1, 1000) if f"string-{n}" not in taken and str(n) not in taken)
        for (unit, tracker), option in zip(self.trackers, way.options, strict=True):
            for counts in option.strings:
                name = next(fresh)
                string = self._string(f"string-{name}", name, unit, tracker)
                strings.append(string)
                for index, n in enumerate(counts):
                    group, start = self.classes[index], place[index]
                    for module in group.modules[start : start + n]:
                        moved[f"faces/{group.face.id}/modules/{module.id}/string"] = string.id
                    place[index] = start + n
                words = " + ".join(f"{n} {self.classes[i].name}" for i, n in enumerate(counts) if n)
                rows.append((unit.name, tracker.name, words))
        for index, group in enumerate(self.classes):
            for module in group.modules[place[index] :]:
                moved[f"faces/{group.face.id}/modules/{module.id}/string"] = ""
        every = [string.model_dump(mode="json") for string in (*self.kept_strings, *strings)]
        changes = (Change("strings", every), *(Change(path, string) for path, string in moved.items()))
        return tuple(rows), changes

    def _string(self, new_id: str, name: str, unit: Unit, tracker: Tracker) -> ModuleString:
        """A string that keeps what was said of its unit's strings."""
        before = [s for s in self.job.strings if s.unit == unit.id]
        model = next((s for s in before if s.tracker == tracker.name), before[0] if before else None)
        return ModuleString(
            id=new_id,
            name=name,
            unit=unit.id,
            tracker=tracker.name,
            optimisers=model.optimisers if model else "none",
            optimiser=model.optimiser if model else "",
        )


def _classes(reckoner: Reckoner, job: Job, kept: set[str]) -> list[Class]:
    """The modules that may be moved, by face and by whether shade takes what is worth naming."""
    note = job.pack.value("shade_note_share").value
    classes = []
    for face in job.faces:
        free = [module for module in face.modules if module.string not in kept]
        seen = {module.id: module for module in shaded_modules(reckoner, job, face)}
        for shaded in (False, True):
            mine = [m for m in free if (seen[m.id].lost_share > note) is shaded]
            if mine:
                ordered = tuple(_in_order(mine))
                classes.append(Class(face, shaded, ordered, tuple(seen[m.id].kwh for m in ordered)))
    return classes


def _in_order(modules: list[PlacedModule]) -> list[PlacedModule]:
    """Row by row from the eaves, to and fro, as a cable would go."""
    rows: dict[float, list[PlacedModule]] = {}
    for module in modules:
        rows.setdefault(round(module.y_m, 1), []).append(module)
    ordered: list[PlacedModule] = []
    for number, height in enumerate(sorted(rows)):
        ordered += sorted(rows[height], key=lambda module: module.x_m, reverse=bool(number % 2))
    return ordered


def _margin_v(job: Job, string: ModuleString) -> float:
    """What is left to the maximum voltage at the record low."""
    parts = job.modules_in(string.id)
    most = job.sheet_of(job.unit(string.unit)).max_dc_v
    bounds = [most, *(job.sheets.modules[face.module].max_system_v for face, _ in parts)]
    return min(bounds) - sum(n * volts_of(job, face).voc_cold_v for face, n in parts)


def _most_dc_kw(job: Job, unit: Unit) -> float:
    """DC power that a unit uses: by its sheet; without a battery no more than it turns into AC."""
    sheet = job.sheet_of(unit)
    if job.bank_of(unit) is not None:
        return sheet.max_dc_kw
    return min(sheet.max_dc_kw, sheet.rated_kw / sheet.efficiency[-1][1])
