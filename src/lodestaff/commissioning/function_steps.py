"""Steps that let the installation work with the grid: power of the array, balance, the batteries, export."""

from lodestaff.commissioning.rules import ArrayPower, Between, Confirmed
from lodestaff.commissioning.shares import site_export_kw, zero_band_kw
from lodestaff.commissioning.step import OPEN_KIND, Measure, Step
from lodestaff.commissioning.string_steps import array_part
from lodestaff.job import Job, Unit
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.questions import Led, led

LOSS_LOW_PCT, LOSS_HIGH_PCT = -3.0, 10.0  # converter losses with the meters' error; common practice
EXPORT_REACH = 0.8  # of the limit, that a test must come to


def unit_steps(job: Job, topology: Topology, before: tuple[str, ...], absent: frozenset[str]) -> list[Step]:
    """Of each unit what it has: power of its array, its balance, its battery."""
    steps: list[Step] = []
    for unit in job.units:
        port = topology.unit(unit.id)
        if port.module_level:
            steps.append(_branch(job, unit, before))
        else:
            steps += _power_steps(job, unit, before, absent)
        if port.arrays and port.battery:
            steps.append(_balance(unit, before))
        elif port.battery:
            text = (
                f"{unit.name}: it charges from what is left over, and gives when the circuits ask; its "
                "meter agrees."
            )
            steps.append(
                Step(f"battery-works-{unit.id}", "function", text, Confirmed(), before, proves=(unit.id,))
            )
    return steps


def _branch(job: Job, unit: Unit, before: tuple[str, ...]) -> Step:
    text = (
        f"{unit.name}: all {unit.count} units behind the modules report; each gives what its neighbours on "
        "the same face give."
    )
    parts = tuple(
        dict.fromkeys(array_part(s) for s in job.strings if s.unit == unit.id and job.modules_in(s.id))
    )
    return Step(
        f"power-{unit.id}",
        "function",
        text=text,
        rule=Confirmed(),
        waits_for=before,
        caution=job.pack.caution("module_units"),
        measure=Measure("confirm", unit.id),
        proves=(unit.id, *parts),
    )


def _power_steps(job: Job, unit: Unit, before: tuple[str, ...], absent: frozenset[str]) -> list[Step]:
    steps, sheet, bank = [], job.sheet_of(unit), job.bank_of(unit)
    free = (
        "the battery charging so that nothing holds the array back"
        if bank
        else "nothing holding the array back"
    )
    whose = f"{unit.name}, tracker" if len(job.units) > 1 else "tracker"
    used = [t for t in sheet.trackers if any(job.modules_in(s.id) for s in job.strings_on(unit.id, t.name))]
    if bank is None and array_kw(job, unit) > sheet.rated_kw:
        free += (
            ", the other trackers' isolators open: together they are more than it gives"
            if len(used) > 1
            else f", in a sun that gives less than its {plain(sheet.rated_kw)} kW"
        )
    for tracker in sheet.trackers:
        strings = [s for s in job.strings_on(unit.id, tracker.name) if job.modules_in(s.id)]
        there = [s for s in strings if s.id not in absent]
        if not strings:
            continue
        parts = [(job.sheets.modules[f.module], n) for s in there for f, n in job.modules_in(s.id)]
        watts = sum(module.pmp_w * count for module, count in parts)
        names = ", ".join(string.name for string in there)
        gamma = parts[0][0].gamma_pmp_pct_per_k if parts else 0.0
        needs = "" if there else "no string of this tracker is in yet"
        faces = {f.id for s in there for f, _ in job.modules_in(s.id)}
        if not needs and len(faces) > 1:
            needs = f"{OPEN_KIND}: its strings lie on {len(faces)} faces, and one sun meter shows one of them"
        steps.append(
            Step(
                f"power-{unit.id}-{tracker.name.lower()}",
                "function",
                f"Power of {whose} {tracker.name} ({'strings' if len(there) > 1 else 'string'} "
                f"{names or 'none yet'}), {free}.",
                ArrayPower(watts, gamma, sheet.max_dc_kw),
                before,
                needs=needs,
                measure=Measure("tracker power", unit.id, tracker.name),
                proves=tuple(dict.fromkeys(array_part(string) for string in strings)),
            )
        )
    return steps


def array_kw(job: Job, unit: Unit) -> float:
    """The modules on a unit at standard conditions, kW."""
    strings = [string for string in job.strings if string.unit == unit.id]
    return (
        sum(job.sheets.modules[f.module].pmp_w * n for s in strings for f, n in job.modules_in(s.id)) / 1000
    )


def _balance(unit: Unit, before: tuple[str, ...]) -> Step:
    rule = Between(
        4.0, "%", LOSS_LOW_PCT, LOSS_HIGH_PCT, "converter losses and meters' error, common practice"
    )
    text = (
        f"{unit.name}: sun = into the battery + to the site ± losses; what is missing, of the largest flow."
    )
    return Step(
        f"balance-{unit.id}",
        "function",
        text,
        rule,
        before,
        measure=Measure("balance", unit.id),
        proves=(unit.id,),
    )


def export_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """The export limit, tried at what keeps it; open for a unit that keeps none. Nothing without a grid."""
    if not job.mains.grid:
        return []
    steps: list[Step] = []
    for group in led(topology):
        name = "export" if not steps else f"export-{group.units[0]}"
        steps.append(_export(job, topology, group, name, before))
    return steps


def _free_units(job: Job, topology: Topology, group: Led) -> list[str]:
    """Units that keep no limit: they are off while another's is tried."""
    free = {
        name for other in led(topology) if other.ct is None and other is not group for name in other.units
    }
    return [unit.name for unit in job.units if unit.id in free and unit.id not in group.units]


def _export(job: Job, topology: Topology, group: Led, name: str, before: tuple[str, ...]) -> Step:
    names = ", ".join(unit.name for unit in job.units if unit.id in group.units)
    whose = "" if len(job.units) == len(group.units) else f" of {names}"
    limit, margin = site_export_kw(job), job.pack.value("meter_error_share")
    measure = Measure("export", group.units[0])
    proves = tuple(f"{unit}-feed" for unit in group.units if f"{unit}-feed" in topology.parts)
    proves += ("meter",) if group.whole and "meter" in topology.parts else ()
    bank = any(job.bank_of(unit) for unit in job.units if unit.id in group.units)
    still = "battery held, loads off" if bank else "loads off"
    free = _free_units(job, topology, group)
    still += f", {' and '.join(free)} off" if free else ""
    if group.ct is None:
        text = f"Export limit{whose}: what keeps it, and that it does."
        needs = (
            f"{names} obeys no transformer that is noted: its maker's statement of what it follows, "
            "else it feeds all it makes"
        )
        return Step(name, "function", text, Confirmed(), before, needs=needs, proves=proves)
    if not group.whole:
        text = f"Export limit{whose}: tried where it is counted."
        needs = (
            f"{group.ct.name} isn't on the supply: it proves no limit of export; a meter at the "
            "supply that does"
        )
        return Step(name, "function", text, Confirmed(), before, needs=needs, proves=proves)
    if limit > 0:
        text = f"Export limit{whose}: {still}; export stays at or below {text_of(limit, 'kW')}."
        rule = Between(
            limit,
            "kW",
            low=None,
            high=limit * (1 + margin.value),
            source=str(margin.cite()),
            reach=EXPORT_REACH * limit,
        )
        return Step(name, "function", text, rule, before, measure=measure, proves=proves)
    band = zero_band_kw(job, group.units)
    if band is None:
        text = f"Zero export{whose}: {still}; export stays near nothing."
        needs = "the band of a limit of zero, from the unit's sheet or the pack"
        return Step(name, "function", text, Confirmed(), before, needs=needs, proves=proves)
    kw, words = band
    text = (
        f"Zero export{whose}: {still}, more sun than they take; export stays within "
        f"{text_of(kw, 'kW')} of nothing."
    )
    return Step(
        name, "function", text, Between(0.0, "kW", None, kw, words), before, measure=measure, proves=proves
    )
