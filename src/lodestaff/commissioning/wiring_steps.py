"""Tests of the AC wiring in their usual form: dead its insulation, live its volts by leg, phase order, loop,
fault current, and what trips by residual current."""

from lodestaff.catalogue.pack import PackValue
from lodestaff.commissioning.rules import Between, Confirmed, Rule
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Job
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.model import QUIET

SAME_LEG_V = 15.0  # between two places of one leg: its drop, never another leg; common practice
LINE_ROOM = 0.06  # of the volts between two legs, as the supply's own band; common practice


def _value(job: Job, name: str) -> PackValue | None:
    """A value of the pack's tests; an older edition goes by the shipped one's, None where it has none."""
    return job.pack.values.get(name) or job.pack.shipped.values.get(name)


def insulation_step(job: Job, topology: Topology) -> list[Step]:
    """Insulation of the AC circuits that were touched."""
    volts, least = _value(job, "insulation_test_v"), _value(job, "insulation_least_mohm")
    if volts is None or least is None:
        return []
    boards = [part.name for part in topology.parts.values() if part.kind == "board"]
    text = (
        f"Insulation of the AC circuits that were touched ({', '.join(boards[:4]) or 'feeds'}"
        f"{' and others' if len(boards) > 4 else ''}) at {plain(volts.value)} V, live conductors together "
        f"against {job.pack.word('earth')}: the lowest reading; electronics and surge devices disconnected."
    )
    rule = Between(least.value, "Mohm", least.value, None, str(least.cite()))
    return [
        Step(
            "insulation-ac",
            "dead tests",
            text,
            rule,
            ("prove-dead",),
            caution=job.pack.caution("insulation"),
            measure=Measure("ac insulation"),
        )
    ]


def supply_tests(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Live at the supply: volts between legs and their order, the loop and its fault current."""
    if not job.mains.grid:
        return []
    pack, legs = job.pack, job.site.phases
    isolator, steps = pack.word("isolator"), []
    seals = pack.caution("seals")
    if len(legs) > 1:
        turn = 2.0 if job.mains.system == "120/240 V" else 3**0.5
        volts = pack.value("nominal_v").value * turn
        rule = Between(
            volts,
            "V",
            (1 - LINE_ROOM) * volts,
            (1 + LINE_ROOM) * volts,
            f"{job.mains.system}; the supply's band",
        )
        text = f"Voltage between {' and '.join(legs[:2])} at the main {isolator}"
        text += ", and between every other pair; the farthest from its nominal." if len(legs) > 2 else "."
        steps.append(
            Step("supply-line-v", "start", text, rule, before, caution=seals, measure=Measure("between legs"))
        )
    if len(legs) == 3 and any(len(unit.legs) == 3 for unit in job.units):
        text = f"Phase order {'-'.join(legs)} at the main {isolator} and at every device on three phases."
        steps.append(Step("phase-order", "start", text, Confirmed(), before, caution=seals))
    if pack.conductor_rule == "IEC":
        text = (
            f"{pack.word('earth').capitalize()} fault loop impedance at the supply side of the main "
            f"{isolator}, which "
            "is open."
        )
        earthing = job.site.supply.earthing.value
        limit = {"TN-C-S": "tncs_ze_max_ohm", "MEN": "tncs_ze_max_ohm", "TN-S": "tns_ze_max_ohm"}.get(
            str(earthing), "tt_ra_max_ohm"
        )
        most = pack.values.get(limit)
        if most is not None:
            rule = Between(most.value, "ohm", None, most.value, str(most.cite()))
            steps.append(
                Step("loop-supply", "start", text, rule, before, caution=seals, measure=Measure("earth loop"))
            )
        most_ka = pack.values.get("fault_ka_most")
        if most_ka is not None:
            text = (
                f"Prospective fault current at the main {isolator}, the larger of line to neutral and line "
                f"to "
                f"{pack.word('earth')}."
            )
            known = job.mains.fault_ka.value
            ka, source = (
                (known, "as the operator declares it") if known else (most_ka.value, str(most_ka.cite()))
            )
            rule = Between(ka, "kA", None, ka, f"what the devices are chosen for: {source}")
            steps.append(
                Step(
                    "fault-current",
                    "start",
                    text,
                    rule,
                    before,
                    caution=seals,
                    measure=Measure("fault current"),
                )
            )
    return steps


def leg_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """At each unit's terminals the legs that are drawn, against those of the supply: no two exchanged."""
    if not job.mains.grid or len(job.site.phases) < 2:
        return []
    steps = []
    for unit in job.units:
        port = topology.unit(unit.id)
        if unit.existing or not any(c.b == port.grid for c in topology.conductors):
            continue
        legs = [leg for leg in unit.legs if leg not in QUIET]
        which = f"{legs[0]} to {legs[0]}" + "".join(f", {leg} to {leg}" for leg in legs[1:])
        text = (
            f"{unit.name}, switched off at itself, its feed closed: voltage from each leg at its terminals "
            f"to the "
            f"same leg at the main {job.pack.word('isolator')} ({which}), the highest. Then its feed opens "
            f"again."
        )
        rule = Between(0.0, "V", None, SAME_LEG_V, "no volts between two ends of one leg, common practice")
        steps.append(
            Step(
                f"legs-{unit.id}",
                "start",
                text,
                rule,
                before,
                caution=job.pack.caution("licence"),
                measure=Measure("same leg", unit.id),
                proves=(f"{unit.id}-feed",) if f"{unit.id}-feed" in topology.parts else (),
            )
        )
    return steps


def residual_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """Each residual-current device that stands in the drawing, tripped by a tester where the pack gives a
    time."""
    most = _value(job, "rcd_trip_ms")
    steps = []
    for part in topology.parts.values():
        if part.kind != "rcd":
            continue
        word = job.pack.word("residual_current_device")
        rule: Rule
        if most is None:
            text, rule, measure = f"{part.name}: the {word} trips by its button.", Confirmed(), Measure()
        else:
            text = f"{part.name}: time to trip at its rated residual current, the longer half wave."
            rule = Between(most.value / 10, "ms", None, most.value, str(most.cite()))
            measure = Measure("rcd time", subject=part.id)
        steps.append(
            Step(f"rcd-{part.id}", "function", text, rule, before, measure=measure, proves=(part.id,))
        )
    return steps
