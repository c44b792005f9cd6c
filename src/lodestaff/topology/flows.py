"""Currents along the conductors, and what each current transformer sees of which load and source, with its
sign.

In a state every live network is a tree that hangs from what leads it: the grid, a generator, or a unit that
forms the island. Through a conductor flows what lies beyond it. Loads and sources are summed apart, each at
its most, so that the worst of both directions is known; but never more than what leads the network gives and
the sources on its side of the conductor, nor more back than what draws there. Paralleled units close rings;
they share what passes them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from lodestaff.topology.graph import Graph, graph_of
from lodestaff.topology.model import GENERATOR, GRID, QUIET, Ct, Topology
from lodestaff.topology.states import RUNNING, Answer


@dataclass(frozen=True)
class Through:
    """The most that passes, A on the busiest phase: towards loads, and back from sources."""

    load_a: float
    source_a: float
    legs: tuple[tuple[str, float, float], ...] = ()  # by phase or leg: towards loads, back from sources

    @property
    def most_a(self) -> float:
        return max(self.load_a, self.source_a)


@dataclass(frozen=True)
class Flows:
    """`conductors` and `parts` with what passes them; `seen` by transformer, element and sign.

    The sign is +1 where the element's drawing of power is counted as import, -1 where as export.
    """

    conductors: dict[str, Through]
    parts: dict[str, Through]
    seen: dict[str, dict[str, int]]
    above: dict[str, str] = field(default_factory=dict)  # by conductor the next one nearer to what leads


@dataclass
class _Step:
    """A node's way towards the root: the parent, and the conductor or part that the way leads through."""

    parent: int
    conductor: str = ""
    forward: bool = True  # whether the conductor's arrow points away from the root
    part: str = ""


@dataclass
class _Tally:
    load: dict[str, dict[str, float]] = field(default_factory=dict)  # id -> phase -> A
    source: dict[str, dict[str, float]] = field(default_factory=dict)

    def add(self, id: str, phase: str, load: float, source: float) -> None:
        for where, value in ((self.load, load), (self.source, source)):
            at = where.setdefault(id, {})
            at[phase] = at.get(phase, 0.0) + value

    def all(self) -> dict[str, Through]:
        return {
            id: Through(
                max(at.values()),
                max(self.source[id].values()),
                tuple((phase, value, self.source[id].get(phase, 0.0)) for phase, value in at.items()),
            )
            for id, at in self.load.items()
        }


def flows(
    topology: Topology,
    answer: Answer,
    circuits_kva: Mapping[str, float],
    nominal_v: float,
    charging_kva: Mapping[str, float] = MappingProxyType({}),
    gives_a: Mapping[str, float] = MappingProxyType({}),
    leaves_a: Mapping[str, float] = MappingProxyType({}),
    pair: float = 1.0,
) -> Flows:
    """Currents in a state with every circuit at its running power and every source at its rating.

    `charging_kva` is what units draw from a grid or a generator for their batteries, on top of what they
    pass. `gives_a` is what each of the grid, generators and units gives on a leg before something trips, A;
    one that isn't named gives whatever is asked. `leaves_a` is what may go out to the grid on each phase, A.
    `pair` is how much more what stands between two legs draws than its half of both: 2 / sqrt(3) where they
    are a third of a turn apart (P / 208 V, not P / 240 V), 1 of 120/240 V.
    """
    graph = graph_of(topology)
    conductors, parts = _Tally(), _Tally()
    above: dict[str, str] = {}
    seen: dict[str, dict[str, int]] = {ct.id: {} for ct in topology.cts}
    watched = {
        name: [ct for ct in topology.cts if name in ct.conductors]
        for ct in topology.cts
        for name in ct.conductors
    }
    phases = dict.fromkeys(
        core for _, _, core in graph.number if core not in QUIET and not core.startswith("DC")
    )
    roots = _roots(topology, answer)
    for phase in phases:
        near = _near(graph, topology, answer, phase)
        elements = _elements(
            topology,
            answer,
            graph=graph,
            drawn=(circuits_kva, charging_kva),
            volts=(nominal_v, pair),
            phase=phase,
        )
        done: set[int] = set()
        for root_name, at in roots:
            root = graph.cores_at(at).get(phase)
            if root is None or root in done:
                continue
            order, steps = _tree(root, near)
            done.update(order)
            _chain(order, steps, above)
            _sum_up(
                order,
                steps,
                elements=elements,
                root_name=root_name,
                ends=_ends(topology, root_name, gives_a, leaves_a.get(phase, math.inf)),
                phase=phase,
                conductors=conductors,
                parts=parts,
                watched=watched,
                seen=seen,
            )
    _share(topology, answer, parts)
    return Flows(conductors.all(), parts.all(), seen, above)


def _chain(order: list[int], steps: dict[int, _Step], above: dict[str, str]) -> None:
    """Of each conductor the next one nearer to the root; '' for the first."""
    last = {order[0]: ""}
    for node in order[1:]:
        step = steps[node]
        before = last[step.parent]
        last[node] = step.conductor or before
        if step.conductor:
            above.setdefault(step.conductor, before)


def _roots(topology: Topology, answer: Answer) -> list[tuple[str, tuple[str, str]]]:
    ends = [
        (source.part, source.at)
        for source in topology.sources
        if source.kind == GRID and answer.state.grid_present
    ]
    ends += [
        (source.part, source.at)
        for source in topology.sources
        if source.kind == GENERATOR and answer.positions.get(source.part) == "running"
    ]
    ends += [(unit.unit, unit.out) for unit in topology.units if unit.unit in answer.forming]
    return ends


def _ends(
    topology: Topology, root: str, gives_a: Mapping[str, float], leaves_a: float
) -> tuple[float, float]:
    """What leads a network gives at most on a leg, and takes: the grid what may leave, a generator nothing, a
    unit as much as it gives."""
    gives = gives_a.get(root, math.inf)
    kind = next((source.kind for source in topology.sources if source.part == root), None)
    return gives, leaves_a if kind == GRID else 0.0 if kind == GENERATOR else gives


def _near(
    graph: Graph, topology: Topology, answer: Answer, phase: str
) -> dict[int, list[tuple[int, str, bool, str]]]:
    """Neighbours of each node of a phase: the node, the conductor and whether along its arrow, or the part
    between."""
    near: dict[int, list[tuple[int, str, bool, str]]] = {}

    def join(a: int, b: int, conductor: str, part: str) -> None:
        near.setdefault(a, []).append((b, conductor, True, part))
        near.setdefault(b, []).append((a, conductor, False, part))

    for other in topology.conductors:
        if phase in other.cores and other.id not in answer.state.loose:
            index = other.cores.index(phase)
            a, b = graph.conductor_pairs[other.id][index]
            join(a, b, other.id, "")
    settings = answer.settled.settings
    for part in topology.parts.values():
        for contact in part.contacts:
            closed = contact.positions is None or settings.get(contact.key or part.id) in contact.positions
            if closed and phase in contact.cores:
                a, b = graph.number[part.id, contact.a, phase], graph.number[part.id, contact.b, phase]
                join(a, b, "", part.id)
    return near


def _elements(
    topology: Topology,
    answer: Answer,
    graph: Graph,
    drawn: tuple[Mapping[str, float], Mapping[str, float]],
    volts: tuple[float, float],
    phase: str,
) -> dict[int, list[tuple[str, float, float]]]:
    """At each node the elements with the current that they draw and that they can give, A."""
    kva, charging = drawn
    nominal, pair = volts
    flows: dict[int, list[tuple[str, float, float]]] = {}
    for circuit, (part, port) in topology.circuits.items():
        for inlet in (port, f"{port} 2"):
            cores = graph.cores_at((part, inlet))
            if phase in cores and answer.fed.get(circuit):
                legs = sum(core not in QUIET for core in cores)
                amps = kva.get(circuit, 0.0) * 1000 / legs / nominal * (pair if legs == 2 else 1.0)
                flows.setdefault(cores[phase], []).append((circuit, amps, 0.0))
    for unit in topology.units:
        if phase in unit.legs and answer.unit_modes[unit.unit] in RUNNING:
            node = graph.cores_at(unit.out).get(phase)
            if node is not None:
                each = 1000 / len(unit.legs) / nominal * (pair if len(unit.legs) == 2 else 1.0)
                takes = (
                    charging.get(unit.unit, 0.0)
                    if answer.unit_modes[unit.unit] in ("grid", "generator")
                    else 0.0
                )
                flows.setdefault(node, []).append((unit.unit, takes * each, unit.rated_kva * each))
    return flows


def _tree(root: int, near: dict[int, list[tuple[int, str, bool, str]]]) -> tuple[list[int], dict[int, _Step]]:
    order, steps = [root], {root: _Step(-1)}
    for node in order:
        for other, conductor, along, part in near.get(node, ()):
            if other not in steps:
                steps[other] = _Step(node, conductor, along, part)
                order.append(other)
    return order, steps


def _sum_up(
    order: list[int],
    steps: dict[int, _Step],
    elements: dict[int, list[tuple[str, float, float]]],
    root_name: str,
    ends: tuple[float, float],
    phase: str,
    conductors: _Tally,
    parts: _Tally,
    watched: dict[str, list[Ct]],
    seen: dict[str, dict[str, int]],
) -> None:
    load: dict[int, float] = {}
    source: dict[int, float] = {}
    beyond: dict[int, list[str]] = {}
    for node in reversed(order):
        here = [element for element in elements.get(node, ()) if element[0] != root_name]
        load[node] = load.get(node, 0.0) + sum(element[1] for element in here)
        source[node] = source.get(node, 0.0) + sum(element[2] for element in here)
        beyond.setdefault(node, []).extend(element[0] for element in here)
        above = steps[node].parent
        if above >= 0:
            load[above] = load.get(above, 0.0) + load[node]
            source[above] = source.get(above, 0.0) + source[node]
            beyond.setdefault(above, []).extend(beyond[node])
    gives, takes = ends
    for node in order[1:]:
        step = steps[node]
        drawn = min(load[node], gives + source[order[0]] - source[node])
        given = min(source[node], takes + load[order[0]] - load[node])
        if not step.conductor:
            parts.add(step.part, phase, drawn, given)
            continue
        conductors.add(step.conductor, phase, drawn, given)
        for ct in watched.get(step.conductor, ()):
            if not ct.phases or phase in ct.phases:
                sign = 1 if step.forward != ct.reversed else -1
                seen[ct.id].update(dict.fromkeys(beyond[node], sign))


def _share(topology: Topology, answer: Answer, parts: _Tally) -> None:
    """Units that are paralleled share what passes their changeovers."""
    groups: dict[str, list[str]] = {}
    for unit in topology.units:
        if unit.group and unit.transfer and answer.unit_modes[unit.unit] in ("grid", "generator", "follows"):
            groups.setdefault(unit.group, []).append(unit.unit)
    for members in groups.values():
        for table in (parts.load, parts.source):
            here = [table.get(name, {}) for name in members]
            for phase in {phase for at in here for phase in at}:
                mean = sum(at.get(phase, 0.0) for at in here) / len(members)
                for name in members:
                    table.setdefault(name, {})[phase] = mean
                    parts.load.setdefault(name, {}).setdefault(phase, 0.0)
                    parts.source.setdefault(name, {}).setdefault(phase, 0.0)
