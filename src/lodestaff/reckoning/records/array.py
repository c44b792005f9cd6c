"""Records for the checks of the array."""

from collections.abc import Iterator

import numpy as np

from lodestaff.catalogue.families import states
from lodestaff.checks.array import OnTracker, Ratio, StringVolts
from lodestaff.checks.branches import Branch
from lodestaff.checks.finding import soft
from lodestaff.electrical.strings import Lengths, ModuleVolts, string_lengths
from lodestaff.energy.array import FAIMAN, Plane, plane_conditions
from lodestaff.energy.mismatch import module_points, parallel_loss
from lodestaff.energy.sun import sun_over_year
from lodestaff.job import Job, ModuleString, Unit
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.selectors import place, trackers
from lodestaff.reckoning.string_volts import volts_of


def string_limits(job: Job, string: ModuleString) -> tuple[ModuleVolts, Lengths] | None:
    """A string's module volts (the worst of its faces) and the lengths that fit; None while it has no module."""
    parts = job.modules_in(string.id)
    if not parts:
        return None
    volts = max((volts_of(job, face) for face, _ in parts), key=lambda one: one.hot_c)
    unit = next(one for one in job.units if one.id == string.unit)
    sheet = job.sheet_of(unit)
    tracker = next(one for one in sheet.trackers if one.name == string.tracker)
    module = job.sheets.modules[parts[0][0].module]
    most_v = min(sheet.max_dc_v, module.max_system_v)
    return volts, string_lengths(volts, tracker.v_min, tracker.v_max, tracker.v_start, most_v)


def string_volts(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[StringVolts]:
    site = job.site
    for string in job.strings:
        found = string_limits(job, string)
        if found is None or _module_level(job, string):
            continue
        volts, lengths = found
        parts = job.modules_in(string.id)
        unit = next(one for one in job.units if one.id == string.unit)
        sheet = job.sheet_of(unit)
        places = tuple(
            f"faces/{face.id}/modules/{module.id}"
            for face, _ in parts
            for module in face.modules
            if module.string == string.id
        )
        yield StringVolts(
            string.id,
            string.name,
            sum(count for _, count in parts),
            job.sheets.modules[parts[0][0].module],
            volts,
            lengths,
            next(one for one in sheet.trackers if one.name == string.tracker),
            sheet.max_dc_v,
            places,
            soft(record_low=site.record_low_c),
            soft(record_high=site.record_high_c),
            site.record_low_c.value is not None,
            string.optimisers != "none",
        )


def _module_level(job: Job, string: ModuleString) -> bool:
    """Whether a converter stands behind each module: then there is no string to check."""
    return job.sheet_of(next(one for one in job.units if one.id == string.unit)).module_level


def on_trackers(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[OnTracker]:
    for unit in job.units:
        if job.sheet_of(unit).module_level:
            continue
        number = -1
        for tracker in job.sheet_of(unit).trackers:
            strings = []
            for string in job.strings_on(unit.id, tracker.name):
                parts = job.modules_in(string.id)
                if parts:
                    module = job.sheets.modules[parts[0][0].module]
                    strings.append(
                        (string.id, string.name, sum(n for _, n in parts), module, tuple(f.name for f, _ in parts))
                    )
            if not strings:
                continue
            number += 1
            faces = {face for *_, on in strings for face in on}
            coincide = _coincidence(reckoner, job, unit, number) if len(faces) > 1 else None
            yield OnTracker(
                unit.name if len(job.units) > 1 else "",
                tracker,
                tuple(strings),
                job.pack.value("isc_factor"),
                job.pack.table("string_fuses"),
                coincide,
                reckoner.tracker_clipped_kwh(job, unit, number),
                _mismatch(reckoner, job, unit, tracker.name) if deep and len(strings) > 1 else None,
                job.pack.values.get("string_fuse_least"),
            )


def _coincidence(reckoner: Reckoner, job: Job, unit: Unit, number: int) -> float:
    """The year's highest sum of the strings' powers over the sum of their highest."""
    tracker = trackers(job, unit)[number]
    if not tracker.strings:
        return 1.0
    series = [
        np.sum([reckoner.module_kw(job, plane) * count for plane, count in string.planes], axis=0)
        for string in tracker.strings
    ]
    highest = sum(float(one.max()) for one in series)
    return float(np.sum(series, axis=0).max()) / highest if highest > 0 else 1.0


def _mismatch(reckoner: Reckoner, job: Job, unit: Unit, tracker: str) -> float | None:
    """What the tracker's strings lose in parallel; strings on several faces are left out, for they have no one curve."""
    strings = []
    for string in job.strings_on(unit.id, tracker):
        parts = job.modules_in(string.id)
        if len(parts) != 1:
            return None
        face, count = parts[0]
        module = job.sheets.modules[face.module]
        points = module_points(module)
        u0, u1 = FAIMAN[face.mounting]
        plane = Plane(face.tilt_deg, face.azimuth_deg, module.pmp_w / 1000, module.gamma_pmp_pct_per_k, u0, u1)
        strings.append((points, count, plane))
    key = ("mismatch", place(job), job.site.weather, tuple(strings))

    def reckon() -> float:
        sun, weather = sun_over_year(place(job)), reckoner.weather(job)
        return parallel_loss(
            [(points, count, *plane_conditions(plane, sun, weather)) for points, count, plane in strings]
        )

    return reckoner.memo.get(key, reckon)


def branches(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Branch]:
    """Branches of units behind modules: one module on one unit."""
    for unit in job.units:
        sheet = job.sheets.microinverters.get(unit.sheet)
        if sheet is None:
            continue
        strings = [s.id for s in job.strings if s.unit == unit.id]
        faces = [face for face in job.faces if any(face.count_of(name) for name in strings)]
        modules = sum(face.count_of(name) for face in faces for name in strings)
        for face in faces:
            yield Branch(unit.id, unit.name, face.name, job.sheets.modules[face.module], volts_of(job, face), sheet, unit.count,
                         modules, face is faces[0], soft(record_low=job.site.record_low_c))  # fmt: skip


def ratios(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Ratio]:
    clipped = reckoner.year(job).series.clipped_kw
    for index, unit in enumerate(job.units):
        sheet = job.sheet_of(unit)
        if not sheet.trackers:
            continue
        array_kw = sum(
            job.sheets.modules[face.module].pmp_w * count / 1000
            for string in job.strings
            if string.unit == unit.id
            for face, count in job.modules_in(string.id)
        )
        lost = float(clipped[index].sum() / 4) + sum(
            reckoner.tracker_clipped_kwh(job, unit, number) for number in range(len(trackers(job, unit)))
        )
        yield Ratio(
            unit.name,
            array_kw,
            sheet.rated_kw,
            sheet.max_dc_kw if states(sheet, "max_dc_kw") else None,
            lost,
            job.pack.value("dc_ac_low"),
            job.pack.value("dc_ac_high"),
            len(job.units) > 1,
        )
