"""Records for the checks of the array."""

from collections.abc import Iterator

from lodestaff.catalogue import Tracker
from lodestaff.catalogue.families import states
from lodestaff.checks.array import Coincidence, OnTracker, Ratio, StringOn, StringVolts
from lodestaff.checks.branches import Branch
from lodestaff.checks.connectors import HomeRuns, Joint
from lodestaff.checks.finding import soft
from lodestaff.electrical.strings import Lengths, ModuleVolts, string_lengths
from lodestaff.energy.array import plane_conditions
from lodestaff.energy.clear import together
from lodestaff.energy.mismatch import module_points, parallel_loss
from lodestaff.energy.sun import sun_over_year
from lodestaff.job import Face, Job, ModuleString, Unit
from lodestaff.job.array import array_run
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.selectors import place, sky
from lodestaff.reckoning.string_volts import cold_factor, volts_of
from lodestaff.reckoning.strung import plane_of


def string_limits(job: Job, string: ModuleString) -> tuple[ModuleVolts, Lengths] | None:
    """A string's module volts (the worst of its faces) and the lengths that fit; None while it has no
    module."""
    parts = job.modules_in(string.id)
    if not parts:
        return None
    volts = max((volts_of(job, face) for face, _ in parts), key=lambda face_volts: face_volts.hot_c)
    tracker = tracker_of(job, string)
    most_v = min(
        job.sheet_of(job.unit(string.unit)).max_dc_v, job.sheets.modules[parts[0][0].module].max_system_v
    )
    return volts, string_lengths(volts, tracker.v_min, tracker.v_max, tracker.v_start, most_v)


def tracker_of(job: Job, string: ModuleString) -> Tracker:
    return next(
        tracker for tracker in job.sheet_of(job.unit(string.unit)).trackers if tracker.name == string.tracker
    )


@makes
def string_volts(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[StringVolts]:
    for string in job.strings:
        limits, sheet = string_limits(job, string), job.sheet_of(job.unit(string.unit))
        regulated = job.optimisers_on(string) == "all"  # they set its volts; ARR-OPT asks for them
        if limits is None or sheet.module_level or regulated:  # behind modules there is no string to check
            continue
        volts, lengths = limits
        parts = job.modules_in(string.id)
        yield StringVolts(
            id=string.id,
            name=string.name,
            module=job.sheets.modules[parts[0][0].module],
            volts=volts,
            lengths=lengths,
            tracker=tracker_of(job, string),
            max_dc_v=sheet.max_dc_v,
            module_places=tuple(
                f"faces/{face.id}/modules/{module.id}"
                for face, _ in parts
                for module in face.modules
                if module.string == string.id
            ),
            soft_low=soft(record_low=job.site.record_low_c),
            soft_high=soft(record_high=job.site.record_high_c),
            cold_factor=cold_factor(job),
        )


@makes
def on_trackers(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[OnTracker]:
    cables = {cable.id: cable for cable in job.cables}
    for unit in job.units:
        loaded = [
            (tracker, on) for tracker in job.sheet_of(unit).trackers if (on := _strings(job, unit, tracker))
        ]
        for number, (tracker, strings) in enumerate(() if job.sheet_of(unit).module_level else loaded):
            faces = {face for string in strings for face in string.faces}
            cable = cables.get(array_run(unit.id, tracker.name))
            yield OnTracker(
                owner=f"{unit.id}/{tracker.name}",
                unit=unit.name if len(job.units) > 1 else "",
                tracker=tracker,
                strings=strings,
                factor=job.pack.value("isc_factor"),
                fuses=job.pack.table("string_fuses"),
                coincidence=_coincidence(reckoner, job, strings) if len(faces) > 1 else None,
                clipped_kwh=reckoner.sunlit.clipped_kwh(job, unit, number),
                mismatch_share=_mismatch(reckoner, job, unit, tracker.name)
                if deep and len(strings) > 1
                else None,
                fuse_least=job.pack.values.get("string_fuse_least"),
                fitted_a=cable.string_fuse_a if cable is not None else None,
                run=cable.id if cable is not None else "",
            )


def _strings(job: Job, unit: Unit, tracker: Tracker) -> tuple[StringOn, ...]:
    """The strings with modules on a tracker."""
    rows = [(string, job.modules_in(string.id)) for string in job.strings_on(unit.id, tracker.name)]
    return tuple(
        StringOn(
            id=string.id,
            name=string.name,
            count=sum(n for _, n in parts),
            module=job.sheets.modules[parts[0][0].module],
            faces=tuple(face.name for face, _ in parts),
        )
        for string, parts in rows
        if parts
    )


def _coincidence(reckoner: Reckoner, job: Job, strings: tuple[StringOn, ...]) -> Coincidence:
    """How far the highest currents of strings on unlike faces come together under a clear sky."""
    parts = [(string, face, n) for string in strings for face, n in job.modules_in(string.id)]
    brightest: dict[str, tuple[Face, float]] = {}
    for string, face, _ in parts:  # in series the brightest of a string's faces gives the most
        known = brightest.get(string.id)
        if known is None or face.height_m * face.width_m > known[0].height_m * known[0].width_m:
            brightest[string.id] = (face, string.isc_a)
    planes = tuple((face.tilt_deg, face.azimuth_deg) for face, _ in brightest.values())
    isc = tuple(amps for _, amps in brightest.values())
    key = ("together", place(job), planes, isc)
    joined = reckoner.memo.get(key, lambda: together(place(job), planes, isc))
    return Coincidence(joined.sum_a, joined.apart_a(isc))


def _mismatch(reckoner: Reckoner, job: Job, unit: Unit, tracker: str) -> float | None:
    """What the tracker's strings lose in parallel; strings on several faces are left out, for they have no
    one curve."""
    strings = []
    for string in job.strings_on(unit.id, tracker):
        parts = job.modules_in(string.id)
        if len(parts) != 1:
            return None
        face, count = parts[0]
        points, plane = module_points(job.sheets.modules[face.module]), plane_of(job, face)
        strings.append((points, count, plane))
    key = ("mismatch", *sky(job), tuple(strings))

    def reckon() -> float:
        sun, weather = sun_over_year(place(job)), reckoner.sunlit.seen(job)
        return parallel_loss(
            [(points, count, *plane_conditions(plane, sun, weather)) for points, count, plane in strings]
        )

    return reckoner.memo.get(key, reckon)


@makes
def branches(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Branch]:
    """Branches of units behind modules: one module on one unit."""
    for unit in job.units:
        sheet = job.sheets.microinverters.get(unit.sheet)
        if sheet is None:
            continue
        strings = [s.id for s in job.strings if s.unit == unit.id]
        faces = [face for face in job.faces if any(face.count_of(name) for name in strings)]
        for face in faces:
            yield Branch(
                id=unit.id,
                name=unit.name,
                face=face.name,
                module=job.sheets.modules[face.module],
                volts=volts_of(job, face),
                unit=sheet,
                units=unit.count,
                modules=sum(face.count_of(name) for face in faces for name in strings),
                most_rise=job.pack.values.get("generation_drop_pct"),
                nominal_v=job.pack.value("nominal_v").value * len(unit.legs),
                first=face is faces[0],
                soft_low=soft(record_low=job.site.record_low_c),
            )


@makes
def ratios(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Ratio]:
    clipped = reckoner.year(job).series.clipped_kw
    for index, unit in enumerate(job.units):
        sheet = job.sheet_of(unit)
        if not sheet.trackers:
            continue
        on = [part for s in job.strings if s.unit == unit.id for part in job.modules_in(s.id)]
        by_tracker = (
            reckoner.sunlit.clipped_kwh(job, unit, number)
            for number in range(len(reckoner.sunlit.trackers(job, unit)))
        )
        yield Ratio(
            owner=unit.id,
            unit=unit.name,
            array_kw=sum(job.sheets.modules[face.module].pmp_w * count / 1000 for face, count in on),
            rated_kw=sheet.rated_kw,
            max_dc_kw=sheet.max_dc_kw if states(sheet, "max_dc_kw") else None,
            clipped_kwh=float(clipped[index].sum() / 4) + sum(by_tracker),
            low=job.pack.value("dc_ac_low"),
            high=job.pack.value("dc_ac_high"),
            several=len(job.units) > 1,
        )


@makes
def home_runs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[HomeRuns]:
    """The strings of each tracker with what joins them to it; units behind modules have their own trunk."""
    several = len(job.units) > 1
    for unit in job.units:
        sheet = job.sheet_of(unit)
        for tracker in () if sheet.module_level else sheet.trackers:
            strings = [s for s in job.strings_on(unit.id, tracker.name) if job.modules_in(s.id)]
            run = array_run(unit.id, tracker.name)
            cable = next((cable for cable in job.cables if cable.id == run), None)
            if strings:
                yield HomeRuns(
                    owner=f"{unit.id}/{tracker.name}",
                    name=f"Tracker {tracker.name}{f' of {unit.name}' if several else ''}",
                    strings=tuple(_joint(job, string) for string in strings),
                    inputs=tracker.inputs,
                    run=run,
                    cold_v=max(string_most_v(job, string) for string in strings),
                    factor=job.pack.value("array_current_factor"),
                    isolator_v=cable.isolator_v if cable is not None else None,
                    isolator_a=cable.isolator_a if cable is not None else None,
                    soft=soft(record_low=job.site.record_low_c),
                )


def _joint(job: Job, string: ModuleString) -> Joint:
    module = job.sheets.modules[job.modules_in(string.id)[0][0].module]
    optimised = job.optimisers_on(string) == "all"
    optimiser = job.sheets.optimisers.get(string.optimiser)
    own = optimiser.connector if optimiser is not None else None
    return Joint(
        string.id,
        string.name,
        behind="optimisers" if optimised else "modules",
        end=own if optimised else module.connector,
        home_run=string.connector.value if string.connector.firm else None,
        joined=string.joined_on_roof,
        isc_a=module.isc_a,
    )


def string_most_v(job: Job, string: ModuleString) -> float:
    """The most that a string puts on its run: its modules' open circuit at the record low; behind optimisers
    what their unit lets them come to."""
    if job.optimisers_on(string) == "all":
        return job.sheet_of(job.unit(string.unit)).max_dc_v
    return sum(n * volts_of(job, face).voc_cold_v for face, n in job.modules_in(string.id))
