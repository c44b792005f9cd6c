"""A step for each current transformer and each leg it counts, with a load that the graph says it sees."""

from dataclasses import dataclass

from lodestaff.commissioning.rules import Confirmed, LoadSeen
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Circuit, Job, Role
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.model import Ct
from lodestaff.topology.questions import asked, ct_phases

LEAST_W = 1000.0  # a load that proves something; common practice
HEATER = "a heater of 2 kW"


@dataclass(frozen=True)
class SeenLoad:
    """A leg of a transformer, and the circuit to switch on for it; None where it sees none that would do."""

    ct: Ct
    leg: str
    circuit: Circuit | None


def seen_loads(job: Job, topology: Topology) -> tuple[SeenLoad, ...]:
    """For each transformer and leg the load that tries it: on the grid only before others, on that leg
    alone, a heater."""
    seen = asked(topology).seen
    found = []
    for ct in topology.cts:
        for leg in ct_phases(topology, ct):
            fit = [c for c in job.circuits if c.id in seen.get(ct.id, {}) and leg in c.legs and _tries(c, ct)]
            found.append(SeenLoad(ct, leg, max(fit, key=_worth, default=None)))
    return tuple(found)


def _tries(circuit: Circuit, ct: Ct) -> bool:
    if circuit.care != "none" or circuit.role is Role.SURPLUS or circuit.running_w < LEAST_W:
        return False
    return (circuit.kind == "car charger") == (ct.watches == "charger")


def _worth(circuit: Circuit) -> tuple[bool, bool, bool, float]:
    return circuit.role is Role.GRID, len(circuit.legs) == 1, circuit.kind == "heating", circuit.running_w


def ct_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """One step for each leg of each transformer; nothing where there is no grid."""
    if asked(topology).grid is None:
        return []
    loads = seen_loads(job, topology)
    steps = []
    for number, load in enumerate(loads):
        name = "ct" if not number else f"ct-{load.ct.id}-{load.leg.lower()}"
        steps.append(_step(job, topology, one=load, name=name, before=before, alone=len(loads) == 1))
    return steps


def _step(
    job: Job, topology: Topology, one: SeenLoad, name: str, before: tuple[str, ...], alone: bool
) -> Step:
    units = {unit.id: unit.name for unit in job.units}
    served = one.ct.serves in units
    head = "CT" if alone else f"{one.ct.name}, {one.leg}"
    still = f"{next(iter(units.values()))} in standby" if len(units) == 1 else "all units in standby"
    proves = ("meter",) if one.ct.proves_limit and "meter" in topology.parts else ()
    volts = job.pack.value("nominal_v").value
    if one.ct.watches == "one source":
        text = f"{head}: right conductor, right way. It shows what its source gives, as import below 0."
        return Step(name, "function", text, Confirmed(), before, proves=proves, topic="transformer")
    shows = "the meter shows import of as much" if served else "what it serves shows import of as much"
    measure = Measure(
        "ct" if served else "ct by hand",
        one.ct.serves if served else "",
        one.circuit.id if one.circuit else "",
    )
    if one.circuit is None:
        text = f"{head}: right conductor, right way. {still[0].upper()}{still[1:]}, a known load on: {shows}."
        if one.ct.watches == "charger":
            needs = f"no charger of {plain(LEAST_W / 1000)} kW hangs behind {one.ct.name} on {one.leg}"
        else:
            needs = (
                f"no circuit of {plain(LEAST_W / 1000)} kW hangs beyond {one.ct.name} on {one.leg}: plug "
                f"{HEATER} into a socket that it sees on {one.leg}"
            )
        return Step(
            name,
            "function",
            text=text,
            rule=LoadSeen(None, volts),
            waits_for=before,
            caution="",
            needs=needs,
            measure=measure,
            proves=proves,
            topic="transformer",
        )
    circuit = one.circuit
    heater_kw = circuit.running_w / 1000 if circuit.kind == "heating" and len(circuit.legs) == 1 else None
    load = f"{circuit.name} on ({text_of(circuit.running_w / 1000, 'kW')})"
    text = f"{head}: right conductor, right way. {still[0].upper()}{still[1:]}, {load}: {shows}."
    return Step(
        name,
        "function",
        text,
        LoadSeen(heater_kw, volts),
        before,
        measure=measure,
        proves=proves,
        topic="transformer",
    )
