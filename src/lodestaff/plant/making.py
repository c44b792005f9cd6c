"""The parts of a simulated site as they are made from a job, with what is wrong with them."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from typing import TYPE_CHECKING

from lodestaff.energy.mismatch import module_points
from lodestaff.job import Job
from lodestaff.plant.array import BuiltString
from lodestaff.plant.settings import UnitSettings
from lodestaff.plant.unit import Battery, PlantUnit
from lodestaff.topology import Topology

if TYPE_CHECKING:
    from lodestaff.plant.light import Light

SHADE, BAD_JOINT_OHM = 0.2, 8.0


def wired(job: Job) -> tuple[str, ...]:
    """Strings with modules in them that were laid now, apart from units behind modules."""
    return tuple(
        s.id
        for s in job.strings
        if job.modules_in(s.id)
        and not job.sheet_of(job.unit(s.unit)).module_level
        and not job.unit(s.unit).existing
    )


def plain(job: Job) -> tuple[str, ...]:
    """Strings without an optimiser."""
    names = {s.id: s for s in job.strings}
    return tuple(name for name in wired(job) if job.optimisers_on(names[name]) == "none")


def unlike(job: Job) -> tuple[str, str] | None:
    """Two plain strings of one unit on different trackers, of unlike volts."""
    volts = {
        name: sum(job.sheets.modules[f.module].voc_v * n for f, n in job.modules_in(name))
        for name in plain(job)
    }
    by = {s.id: s for s in job.strings}
    for kept in volts:
        for other in volts:
            same = by[kept].unit == by[other].unit and by[kept].tracker != by[other].tracker
            if same and abs(volts[kept] / volts[other] - 1) > 0.1:
                return kept, other
    return None


def strings(job: Job, faults: Collection[str]) -> dict[str, BuiltString]:
    """The strings as they lie on the roof."""
    built: dict[str, BuiltString] = {}
    for string in job.strings:
        if not job.modules_in(string.id):
            continue
        counts: dict[tuple[str, str, bool], int] = {}
        everywhere = job.optimisers_on(string) == "all"
        for roof, module in job.placed_in(string.id):
            key = (roof.id, roof.module, everywhere or bool(module.optimiser))
            counts[key] = counts.get(key, 0) + 1
        parts = tuple((name, module_points(job.sheets.modules[m]), n) for (name, m, _), n in counts.items())
        freed = frozenset(place for place, (*_, has) in enumerate(counts) if has)
        built[string.id] = BuiltString(string.id, f"{string.unit}/{string.tracker}", parts, freed)
    names, all_plain = wired(job), plain(job)
    if "module-missing" in faults and names:
        last = built[names[-1]]
        *rest, (face, points, count) = last.parts
        built[last.id] = replace(last, parts=(*rest, (face, points, count - 1)))
    if all_plain:
        last = built[all_plain[-1]]
        built[last.id] = replace(
            last,
            reversed="string-reversed" in faults,
            broken="string-open" in faults,
            shaded=SHADE if "string-shaded" in faults else 1.0,
            ohm=BAD_JOINT_OHM if "string-resistance" in faults else 0.0,
        )
    if "strings-swapped" in faults and (pair := unlike(job)):
        first, other = pair
        built[first], built[other] = (
            replace(built[other], id=first, tracker=built[first].tracker),
            replace(built[first], id=other, tracker=built[other].tracker),
        )
    return built


def alone(string: BuiltString, face: str) -> BuiltString:
    """One module of a string on a face."""
    parts = tuple((name, points, 1) for name, points, _ in string.parts if name == face)[:1]
    return BuiltString(string.id, string.tracker, parts)


def unit(job: Job, name: str, soc: float, faults: Collection[str]) -> PlantUnit:
    """A converter fresh from its box, with its battery."""
    decided = job.unit(name)
    sheet, bank = job.sheet_of(decided), job.bank_of(decided)
    battery = None
    if bank is not None:
        cells = job.sheets.batteries[bank.sheet]
        silent = "battery-module-missing" in faults and bank.modules > 1
        modules = bank.modules - int(silent)
        capacity = cells.module_kwh * modules * bank.state_of_health
        series = cells.modules_in_series(modules) or 1
        battery = Battery(cells, modules, capacity, soc * capacity, series=series)
        battery.heard = "battery-protocol" not in faults and not (
            "battery-address" in faults and bank.modules > 1
        )
    fresh = UnitSettings(charge_kw=sheet.charge_kw, discharge_kw=sheet.discharge_kw)
    return PlantUnit(name, sheet, battery, fresh)


def behind_modules(
    job: Job, unit: PlantUnit, own: list[BuiltString], light: Light, faults: Collection[str]
) -> None:
    """Each module of a branch at its own best point, up to what its unit gives."""
    count = max(1, job.unit(unit.id).count)
    most_w = 1000 * unit.sheet.rated_kw / count
    unit.modules_w = {
        string.id: [
            min(light.module_w(face, points), most_w)
            for face, points, number in string.parts
            for _ in range(number)
        ]
        for string in own
    }
    if "module-unit-silent" in faults and own and not job.unit(unit.id).existing:
        unit.modules_w[own[0].id][0] = 0.0
    watts = sum(sum(row) for row in unit.modules_w.values())
    unit.pv_there_kw = min(watts / 1000 * unit.sheet.eta_mppt, unit.sheet.max_dc_kw)
    first = own[0] if own else None
    volts = first.parts[0][1].vmp_v if first is not None else 0.0
    for tracker in unit.sheet.trackers:
        assert unit.trackers is not None
        unit.trackers[tracker.name] = (volts, watts / volts if volts else 0.0)


def shutdowns(topology: Topology, unit: str) -> tuple[str, ...]:
    """The devices that part a unit's array on the roof."""
    return tuple(part.id for part in topology.parts.values() if part.kind == "shutdown" and part.of == unit)
