"""Steps for each current transformer: for each leg a load that the graph says it sees, and one that it
doesn't."""

from collections.abc import Iterable
from dataclasses import dataclass

from lodestaff.commissioning.rules import Confirmed, LoadSeen, LoadUnseen
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Circuit, Job, Role
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.model import Ct
from lodestaff.topology.questions import asked, ct_phases

LEAST_W = 1000.0  # a load that proves something; common practice
HEATER_KW = 2.0


@dataclass(frozen=True)
class SeenLoad:
    """A leg of a transformer, and the circuit to switch on for it; else the board with a socket that it
    sees."""

    ct: Ct
    leg: str
    circuit: Circuit | None
    board: str = ""


def seen_loads(job: Job, topology: Topology) -> tuple[SeenLoad, ...]:
    """For each transformer and leg the load that tries it: on that leg alone, on the grid only before
    others, a heater.

    A load between two legs shows the same on both: it can't tell crossed ones. A load behind a unit can't
    tell the supply from the unit's feed. Without a load of its own a leg is tried by a heater in a socket of
    a board that the transformer sees.
    """
    seen = asked(topology).seen
    loads = []
    for ct in topology.cts:
        legs = ct_phases(topology, ct)
        for leg in legs:
            fit = [
                circuit
                for circuit in job.circuits
                if circuit.id in seen.get(ct.id, {})
                and leg in circuit.legs
                and tries(circuit, ct)
                and (len(circuit.legs) == 1 or len(legs) == 1 or ct.watches == "charger")
            ]
            best = max(fit, key=_worth, default=None)
            board = "" if ct.watches in ("charger", "one source") else board_beyond(topology, ct, leg)
            if best is not None and (not board or best.role is Role.GRID or _lives(topology, board)):
                board = ""  # the circuit is before all units, or nothing is
            loads.append(SeenLoad(ct, leg, None if board else best, board))
    return tuple(loads)


def tries(circuit: Circuit, ct: Ct) -> bool:
    """Whether a circuit may be switched on and off to try a transformer."""
    if circuit.care != "none" or circuit.role is Role.SURPLUS or circuit.running_w < LEAST_W:
        return False
    return (circuit.kind == "car charger") == (ct.watches == "charger")


def _worth(circuit: Circuit) -> tuple[bool, bool, bool, float]:
    return circuit.role is Role.GRID, len(circuit.legs) == 1, circuit.kind == "heating", circuit.running_w


def board_beyond(topology: Topology, ct: Ct, leg: str) -> str:
    """A board beyond a transformer that has the leg: before one behind a unit one that isn't."""
    reached = [topology.conductor(name).b[0] for name in ct.conductors]
    boards = []
    for part in reached:
        if topology.parts[part].kind == "board" and _has(topology, part, leg):
            boards.append(part)
        reached += [c.b[0] for c in topology.conductors if c.a[0] == part and c.b[0] not in reached]
    return min(boards, key=lambda board: _lives(topology, board), default="")


def _lives(topology: Topology, board: str) -> bool:
    """Whether a board is fed in an outage."""
    feeds = [conductor.id for conductor in topology.conductors if conductor.b == (board, "in")]
    return any(asked(topology).dark.live[name] for name in feeds)


def _has(topology: Topology, board: str, leg: str) -> bool:
    return any(conductor.b == (board, "in") and leg in conductor.cores for conductor in topology.conductors)


def ct_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """The steps of each transformer; nothing where there is no grid."""
    if asked(topology).grid is None:
        return []
    loads = seen_loads(job, topology)
    steps = []
    for number, load in enumerate(loads):
        name = "ct" if not number else f"ct-{load.ct.id}-{load.leg.lower()}"
        steps.append(_step(job, topology, seen=load, name=name, before=before, alone=len(loads) == 1))
    for ct in topology.cts:
        steps += _unseen(job, topology, ct, before)
    return steps


def _served(job: Job, ct: Ct) -> str:
    """The unit whose meter shows a transformer; '' where a person reads it off another device."""
    return ct.serves if ct.serves in {unit.id for unit in job.units} else ""


def _standby(job: Job) -> str:
    return f"{job.units[0].name} in standby" if len(job.units) == 1 else "all units in standby"


def _proves(ct: Ct, topology: Topology) -> tuple[str, ...]:
    return ("meter",) if ct.proves_limit and "meter" in topology.parts else ()


def _step(
    job: Job, topology: Topology, seen: SeenLoad, name: str, before: tuple[str, ...], alone: bool
) -> Step:
    head = "CT" if alone else f"{seen.ct.name}, {seen.leg}"
    proves, served = _proves(seen.ct, topology), _served(job, seen.ct)
    if seen.ct.watches == "one source":
        text = f"{head}: right conductor, right way. It shows what its source gives, as import below 0."
        return Step(name, "function", text, Confirmed(), before, proves=proves, topic="transformer")
    shows = "the meter shows import of as much" if served else "what it serves shows import of as much"
    volts = job.pack.value("nominal_v").value
    still, needs, heater_kw = _standby(job), "", None
    circuit = seen.circuit
    if circuit is not None:
        heater_kw = circuit.running_w / 1000 if circuit.kind == "heating" and len(circuit.legs) == 1 else None
        load, subject = f"{circuit.name} on ({text_of(circuit.running_w / 1000, 'kW')})", circuit.id
    elif seen.ct.watches == "charger":
        load, subject = "a known load on", ""
        needs = f"no charger of {plain(LEAST_W / 1000)} kW hangs behind {seen.ct.name} on {seen.leg}"
    elif seen.board:
        at, subject = topology.parts[seen.board].name, seen.board
        load = f"a heater of {plain(HEATER_KW)} kW plugged in at {at} on {seen.leg}"
    else:
        load, subject = "a known load on", ""
        needs = f"no board hangs beyond {seen.ct.name} on {seen.leg}: where a load of 1 kW can be put there"
    text = f"{head}: right conductor, right way. {still[0].upper()}{still[1:]}, {load}: {shows}."
    return Step(
        name,
        "function",
        text=text,
        rule=LoadSeen(heater_kw, volts),
        waits_for=before,
        needs=needs,
        measure=Measure(
            "ct" if served else "ct by hand",
            served,
            subject,
            ct=seen.ct.id,
            leg=seen.leg,
            doing="plug in" if seen.board else "",
        ),
        proves=proves,
        topic="transformer",
    )


def _unseen(job: Job, topology: Topology, ct: Ct, before: tuple[str, ...]) -> Iterable[Step]:
    """A load that it mustn't see, where there is one: on another leg, or on another conductor."""
    served = _served(job, ct)
    if ct.watches not in ("whole site", "own circuits") or not served:
        return
    seen, legs = asked(topology).seen.get(ct.id, {}), set(ct_phases(topology, ct))
    grid = asked(topology).grid
    others = [
        c
        for c in job.circuits
        if tries(c, ct)
        and (c.id not in seen or not legs & set(c.legs))
        and grid is not None
        and grid.fed.get(c.id)
    ]
    circuit = max(others, key=_worth, default=None)
    if circuit is None:
        return
    text = (
        f"{ct.name}, what it must not see: {_standby(job)}, {circuit.name} on "
        f"({text_of(circuit.running_w / 1000, 'kW')}): the meter shows only what passes its own conductor."
    )
    yield Step(
        f"ct-{ct.id}-unseen",
        "function",
        text,
        LoadUnseen(),
        before,
        measure=Measure("ct", served, circuit.id, ct=ct.id),
        proves=_proves(ct, topology),
        topic="transformer",
    )
