"""Steps that let the installation work with the grid: power of the array, balance, the batteries, export."""

import math

from lodestaff.catalogue import Tracker
from lodestaff.commissioning.clipping import Clip
from lodestaff.commissioning.rules import Asked, Between, Confirmed, SunPower
from lodestaff.commissioning.step import Measure, Step
from lodestaff.commissioning.string_steps import array_part
from lodestaff.electrical.battery_power import least_powers
from lodestaff.job import Job, ModuleString, Unit
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.questions import led

LOSS_LOW_PCT, LOSS_HIGH_PCT = -3.0, 10.0  # converter losses with the meters' error; common practice
SHUTDOWN_V, SHUTDOWN_S = 30.0, 30.0
SUN: tuple[Asked, ...] = ("poa_w_m2", "module_c")
TWO_SUNS: tuple[Asked, ...] = (*SUN, "poa_2_w_m2", "module_2_c")


def unit_steps(job: Job, topology: Topology, before: tuple[str, ...], absent: frozenset[str]) -> list[Step]:
    """Of each unit what it has: power of its array, its balance, its battery."""
    steps: list[Step] = []
    for unit in job.units:
        port = topology.unit(unit.id)
        if unit.existing:
            steps.append(_looked_over(job, unit, before))
            continue
        if port.module_level:
            steps.append(_branch(job, unit, before))
        else:
            steps += _power_steps(job, unit, before, absent)
        if port.arrays and not port.battery and not port.module_level:
            steps += _ac_power(job, unit, before, absent)
        if port.arrays and port.battery:
            steps.append(_balance(unit, before))
        elif port.battery:
            text = (
                f"{unit.name}: it charges from what is left over, and gives when the circuits ask; its "
                "meter agrees."
            )
            steps.append(
                Step(
                    f"battery-works-{unit.id}",
                    "function",
                    text,
                    Confirmed(),
                    before,
                    needs=_unled(job, topology, unit),
                    measure=Measure("confirm", unit.id, doing="battery works"),
                    proves=(unit.id,),
                )
            )
    return steps


def _unled(job: Job, topology: Topology, unit: Unit) -> str:
    """What a battery lacks that obeys no transformer beside the grid: it knows of no circuit."""
    follows = any(group.ct is not None for group in led(topology) if unit.id in group.units)
    if follows or not job.mains.grid:
        return ""
    return f"{unit.name} obeys no transformer that is noted: without one it knows of no circuit to serve"


def _looked_over(job: Job, unit: Unit, before: tuple[str, ...]) -> Step:
    """What stood there before: its condition, and that it works as it did."""
    parts = tuple(
        dict.fromkeys(array_part(s) for s in job.strings if s.unit == unit.id and job.modules_in(s.id))
    )
    text = (
        f"{unit.name}, there before: its condition and photos recorded; it works as it did, its own meter or "
        "screen agrees with the day; its settings are read off and kept with the record."
    )
    return Step(f"there-{unit.id}", "function", text, Confirmed(), before, proves=(unit.id, *parts))


def _branch(job: Job, unit: Unit, before: tuple[str, ...]) -> Step:
    modules = sum(n for s in job.strings if s.unit == unit.id for _, n in job.modules_in(s.id))
    text = (
        f"{unit.name}: how many of its {modules} modules report power; each gives what its neighbours on "
        f"the same "
        "face give."
    )
    parts = tuple(
        dict.fromkeys(array_part(s) for s in job.strings if s.unit == unit.id and job.modules_in(s.id))
    )
    return Step(
        f"power-{unit.id}",
        "function",
        text=text,
        rule=Between(float(modules), "modules", float(modules), float(modules), "as drawn: every one"),
        waits_for=before,
        caution=job.pack.caution("module_units"),
        measure=Measure("branch", unit.id),
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
    if tried_alone(job, unit):
        what = "than the battery takes" if bank else "than it gives"
        isolators = f"{job.pack.word('isolator')}s"
        free += f", the other trackers' {isolators} open: together they are more {what}"
    elif bank is None and array_kw(job, unit) > sheet.rated_kw:
        free += f", in a sun that gives less than its {plain(sheet.rated_kw)} kW"
    for tracker in sheet.trackers:
        strings = [s for s in job.strings_on(unit.id, tracker.name) if job.modules_in(s.id)]
        there = [s for s in strings if s.id not in absent]
        if not strings:
            continue
        parts = [(job.sheets.modules[f.module], n) for s in there for f, n in job.modules_in(s.id)]
        by_face: dict[str, float] = {}
        for s in there:
            for face, count in job.modules_in(s.id):
                by_face[face.id] = by_face.get(face.id, 0.0) + job.sheets.modules[face.module].pmp_w * count
        watts = sorted(by_face.values(), reverse=True)
        names = ", ".join(string.name for string in there)
        gamma = parts[0][0].gamma_pmp_pct_per_k if parts else 0.0
        needs = "" if there else "no string of this tracker is in yet"
        names_of = {face.id: face.name for face in job.faces}
        planes = sorted(by_face, key=lambda face: -by_face[face])
        where = ""
        if len(planes) == 2:
            where = f"; sun and modules read on {names_of[planes[0]]}, then on {names_of[planes[1]]}"
        if not needs and len(planes) > 2:
            needs = f"its strings lie on {len(planes)} faces: shut off all but two of them, and name those"
        rule = SunPower(
            watts[0] if watts else 0.0,
            gamma,
            min(sheet.max_dc_kw, _ac_bound(sheet.rated_kw, bank is not None)),
            watts[1] if len(watts) > 1 else 0.0,
            asks=TWO_SUNS if len(watts) > 1 else SUN,
            clip=_clip(job, tracker, there, planes),
        )
        steps.append(
            Step(
                f"power-{unit.id}-{tracker.name.lower()}",
                "function",
                f"Power of {whose} {tracker.name} ({'strings' if len(there) > 1 else 'string'} "
                f"{names or 'none yet'}), {free}{where}.",
                rule,
                before,
                needs=needs,
                measure=Measure(
                    "tracker power", unit.id, tracker.name, face=planes[1] if len(planes) > 1 else ""
                ),
                proves=tuple(dict.fromkeys(array_part(string) for string in strings)),
            )
        )
    return steps


def tried_alone(job: Job, unit: Unit) -> bool:
    """Whether the power of a unit's trackers is tried one after the other, the others' isolators open: all of
    them give more than its battery, or without one its inverter, is sure to take."""
    sheet, bank = job.sheet_of(unit), job.bank_of(unit)
    used = [t for t in sheet.trackers if any(job.modules_in(s.id) for s in job.strings_on(unit.id, t.name))]
    takes = sheet.rated_kw if bank is None else least_powers(job, unit)[0]
    return len(used) > 1 and array_kw(job, unit) > takes


def _clip(job: Job, tracker: Tracker, strings: list[ModuleString], planes: list[str]) -> Clip | None:
    """How a tracker cuts its strings' current; None where all of it passes in the brightest sun."""
    amps, volts, open_v = [0.0, 0.0], math.inf, math.inf
    gamma = 0.0
    for string in strings:
        parts = job.modules_in(string.id)
        modules = [(job.sheets.modules[face.module], count) for face, count in parts]
        brightest = min(planes.index(face.id) for face, _ in parts)
        amps[min(1, brightest)] += modules[0][0].imp_a
        volts = min(volts, sum(module.vmp_v * count for module, count in modules))
        open_v = min(open_v, sum(module.voc_v * count for module, count in modules))
        gamma = modules[0][0].gamma_pmp_pct_per_k
    if sum(amps) <= tracker.imp_max_a:
        return None
    return Clip(tracker.imp_max_a, volts, open_v, gamma, imp_a=amps[0], imp_2_a=amps[1])


def _ac_power(job: Job, unit: Unit, before: tuple[str, ...], absent: frozenset[str]) -> list[Step]:
    """Of an inverter without a battery: its AC power, all its strings in."""
    there = [s for s in job.strings if s.unit == unit.id and job.modules_in(s.id) and s.id not in absent]
    by_face: dict[str, float] = {}
    gamma = 0.0
    for string in there:
        for face, count in job.modules_in(string.id):
            module = job.sheets.modules[face.module]
            gamma = module.gamma_pmp_pct_per_k
            by_face[face.id] = by_face.get(face.id, 0.0) + module.pmp_w * count
    if not by_face or len(by_face) > 2:
        return []
    planes = sorted(by_face, key=lambda face: -by_face[face])
    names = {face.id: face.name for face in job.faces}
    sheet = job.sheet_of(unit)
    where = f"; sun and modules read on {', then on '.join(names[face] for face in planes)}"
    rule = SunPower(
        by_face[planes[0]],
        gamma,
        sheet.rated_kw,
        eta=sheet.efficiency[-1][1],
        p_2_stc_w=by_face[planes[1]] if len(planes) > 1 else 0.0,
        asks=TWO_SUNS if len(planes) > 1 else SUN,
    )
    text = f"{unit.name}: AC power with all its strings in, nothing holding it back{where}."
    measure = Measure("ac power", unit.id, planes[0], face=planes[1] if len(planes) > 1 else "")
    return [Step(f"ac-{unit.id}", "function", text, rule, before, measure=measure, proves=(unit.id,))]


def _ac_bound(rated_kw: float, bank: bool) -> float:
    """What a tracker can come to behind its inverter: all of its DC where a battery takes the rest."""
    return 1e9 if bank else rated_kw / 0.95


def released_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Optimisers: paired with their inverter, every one of them."""
    steps = []
    for string in job.strings:
        if (
            job.unit(string.unit).existing
            or job.optimisers_on(string) == "none"
            or not job.modules_in(string.id)
        ):
            continue
        if topology.unit(string.unit).module_level:
            continue
        own = sum(1 for _, module in job.placed_in(string.id) if module.optimiser)
        count = own or sum(n for _, n in job.modules_in(string.id))
        text = (
            f"String {string.name}: its {count} optimisers are paired and report, their serial numbers on "
            f"the map; "
            "the string rises from its volts at rest to its working volts."
        )
        steps.append(
            Step(
                f"released-{string.id}",
                "function",
                text,
                Confirmed(),
                before,
                caution=job.pack.caution("optimisers"),
                measure=Measure("confirm", string.unit, string.id, doing="released"),
                proves=(array_part(string),),
            )
        )
    return steps


def shutdown_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Rapid shutdown: what the conductors off the roof still carry half a minute after its switch."""
    steps = []
    for unit in job.units:
        stops = [p for p in topology.parts.values() if p.kind == "shutdown" and p.of == unit.id]
        if not stops or unit.existing:
            continue
        whose = f"{unit.name}: " if len(job.units) > 1 else ""
        text = (
            f"{whose}rapid shutdown: its switch off, {plain(SHUTDOWN_S)} s waited; the highest volts on the "
            "array's cables."
        )
        rule = Between(
            0.0, "V", None, SHUTDOWN_V, "NEC 690.12(B): 30 V within 30 s outside the array (from memory)"
        )
        steps.append(
            Step(
                f"shutdown-{unit.id}",
                "function",
                text[0].upper() + text[1:],
                rule,
                before,
                caution=job.pack.caution("live_in_daylight"),
                measure=Measure("array off", unit.id),
                proves=tuple(part.id for part in stops),
                wait_s=SHUTDOWN_S,
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
        f"{unit.name}: sun = into the battery + to the site ± losses; what is missing, of the largest flow "
        f"or a "
        "third of its rating."
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
