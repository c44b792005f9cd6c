"""Borrowed neutrals: circuits whose line and neutral come from different boards, and what comes of it in a
state."""

from dataclasses import dataclass

from lodestaff.topology.graph import graph_of
from lodestaff.topology.model import NEUTRAL, Conductor, Topology
from lodestaff.topology.states import Answer


@dataclass(frozen=True)
class BorrowedNeutral:
    """A circuit that is fed in a state: whether its neutral leads back, and the devices that see one core
    only."""

    circuit: str
    line_from: str
    neutral_from: str
    returns: bool
    devices: tuple[str, ...]


def borrowed(topology: Topology, answer: Answer) -> tuple[BorrowedNeutral, ...]:
    """Every borrowed neutral of a state in which the circuit's line is live."""
    graph, labels = graph_of(topology), answer.settled.labels
    neutrals = []
    for circuit, terminal in topology.circuits.items():
        into = [conductor for conductor in topology.conductors if conductor.b == terminal]
        line = next((conductor for conductor in into if conductor.cores != (NEUTRAL,)), None)
        neutral = next((conductor for conductor in into if conductor.cores == (NEUTRAL,)), None)
        if line is None or neutral is None or not answer.live[line.id]:
            continue
        own = graph.cores_at(line.a).get(NEUTRAL)
        there = graph.cores_at(neutral.a).get(NEUTRAL)
        returns = own is not None and there is not None and labels[own] == labels[there]
        one_only = _devices(topology, line) ^ _devices(topology, neutral)
        neutrals.append(BorrowedNeutral(circuit, line.a[0], neutral.a[0], returns, tuple(sorted(one_only))))
    return tuple(neutrals)


def _devices(topology: Topology, start: Conductor) -> set[str]:
    """Residual-current devices on the way from a conductor up to where power comes from."""
    names: set[str] = set()
    waiting, seen = [start.a[0]], set()
    while waiting:
        part = waiting.pop()
        if part in seen:
            continue
        seen.add(part)
        if topology.parts[part].kind == "rcd":
            names.add(part)
        if topology.parts[part].kind not in ("unit", "supply", "generator"):
            waiting += [
                conductor.a[0]
                for conductor in topology.conductors
                if conductor.b[0] == part and "DC+" not in conductor.cores
            ]
    return names
