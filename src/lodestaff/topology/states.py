"""Switching states: hands set switches, units set their relays, and what is live follows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from lodestaff.topology.model import ARRAY, BATTERY, GRID, NEUTRAL, Topology, UnitPorts

if TYPE_CHECKING:
    import networkx as nx

STATES = ("grid", "island", "bypass", "all off")
Core = tuple[str, str, str]  # part, port, core


@dataclass(frozen=True)
class State:
    """Hand-set positions that differ from the usual (closed, on, unit), and whether the grid is there."""

    name: str
    hands: tuple[tuple[str, str], ...] = ()
    grid_present: bool = True
    daylight: bool = True

    def with_hand(self, part: str, position: str) -> State:
        hands = {**dict(self.hands), part: position}
        return State("own positions", tuple(sorted(hands.items())), self.grid_present, self.daylight)


@dataclass(frozen=True)
class Network:
    """One connected live neutral network: its sources, the bonds in it, and those behind a residual-current device."""

    sources: frozenset[str]
    bonds: tuple[str, ...]
    behind_rcd: tuple[str, ...]
    terminals: int


@dataclass(frozen=True)
class Answer:
    """What a state makes of the installation."""

    state: State
    positions: dict[str, str]
    unit_modes: dict[str, str]
    live: dict[str, frozenset[str]]  # conductor id -> kinds of source that make it live
    fed: dict[str, frozenset[str]]  # circuit id -> the same
    networks: tuple[Network, ...]

    def still_live(self) -> tuple[str, ...]:
        """Conductors that are live in this state."""
        return tuple(conductor for conductor, sources in self.live.items() if sources)


def standard_states(topology: Topology) -> tuple[State, ...]:
    """The four states of every such system, as the hands would make them."""
    bypass = [(part.id, "grid") for part in topology.switches() if part.kind == "bypass"]
    units_off = [(part.id, "off") for part in topology.switches() if part.kind == "unit"]
    all_off = [(part.id, "off" if "off" in part.positions else "open") for part in topology.switches()]
    return (
        State("grid"),
        State("island", grid_present=False),
        State("bypass", tuple(sorted(bypass + units_off))),
        State("all off", tuple(sorted(all_off))),
    )


def answer(topology: Topology, state: State) -> Answer:
    """What is live from what, which circuits are fed, and the bonds of each live neutral network."""
    positions = {part.id: part.positions[0] for part in topology.switches()}
    positions.update({part: position for part, position in state.hands if part in positions})
    modes = _unit_modes(topology, state, positions)
    for unit in topology.units:
        if unit.bond_relay:
            positions[unit.bond_relay] = "closed" if modes[unit.unit] == "island" else "open"
    graph = _graph(topology, positions, {unit for unit, mode in modes.items() if mode == "grid"})
    reach = _reach(topology, state, graph, modes)
    live = {
        conductor.id: frozenset().union(
            *(reach.get((*conductor.a, core), frozenset()) for core in conductor.cores if core != NEUTRAL)
        )
        for conductor in topology.conductors
    }
    by_load = {conductor.b: conductor.id for conductor in topology.conductors}
    fed = {circuit: live[by_load[terminal]] for circuit, terminal in topology.circuits.items()}
    networks = _networks(topology, positions, graph, reach)
    return Answer(state, positions, modes, live, fed, networks)


def _graph(topology: Topology, positions: dict[str, str], parallel: set[str]) -> nx.Graph[Core]:
    """Cores joined by conductors and by contacts that are closed; a unit's transfer is closed in parallel."""
    import networkx as nx

    graph: nx.Graph[Core] = nx.Graph()
    for conductor in topology.conductors:
        for core in conductor.cores:
            graph.add_edge((*conductor.a, core), (*conductor.b, core), rcd=False)
    for part in topology.parts.values():
        for contact in part.contacts:
            if contact.positions is not None:
                position = positions.get(part.id, "")
                if part.kind == "unit":
                    position = "closed" if part.id in parallel else "open"
                if position not in contact.positions:
                    continue
            for core in contact.cores:
                graph.add_edge((part.id, contact.a, core), (part.id, contact.b, core), rcd=part.kind == "rcd")
    return graph


def _unit_modes(topology: Topology, state: State, positions: dict[str, str]) -> dict[str, str]:
    """A unit that is on runs with the grid where it sees it, else on its own if its battery is there."""
    graph = _graph(topology, positions, set())
    modes = {}
    for unit in topology.units:
        sees_grid = state.grid_present and any(
            source.kind == GRID and _joined(graph, (*source.at, unit.phase), (*unit.grid, unit.phase))
            for source in topology.sources
        )
        if positions.get(unit.unit) == "off":
            modes[unit.unit] = "off"
        elif sees_grid:
            modes[unit.unit] = "grid"
        else:
            modes[unit.unit] = "island" if _has_battery(topology, graph, unit) else "off"
    return modes


def _has_battery(topology: Topology, graph: nx.Graph[Core], unit: UnitPorts) -> bool:
    port = unit.battery
    return port is not None and any(
        source.kind == BATTERY and _joined(graph, (*source.at, "DC+"), (*port, "DC+")) for source in topology.sources
    )


def _joined(graph: nx.Graph[Core], a: Core, b: Core) -> bool:
    import networkx as nx

    return a in graph and b in graph and nx.has_path(graph, a, b)


def _reach(
    topology: Topology, state: State, graph: nx.Graph[Core], modes: dict[str, str]
) -> dict[Core, frozenset[str]]:
    """For each core the kinds of source whose voltage reaches it."""
    import networkx as nx

    found: dict[Core, set[str]] = {}

    def spread(start: Core, kind: str) -> None:
        if start in graph:
            for core in nx.node_connected_component(graph, start):
                found.setdefault(core, set()).add(kind)

    for source in topology.sources:
        present = {GRID: state.grid_present, BATTERY: True, ARRAY: state.daylight}[source.kind]
        if not present:
            continue
        cores = topology_cores(topology, source.at)
        for core in cores:
            spread((*source.at, core), source.kind)
        if source.kind != GRID and modes.get(source.unit) in ("grid", "island"):
            unit = next(unit for unit in topology.units if unit.unit == source.unit)
            ports = [port for port in (unit.battery, *unit.arrays) if port]
            if any(_joined(graph, (*source.at, "DC+"), (*port, "DC+")) for port in ports):
                for core in (unit.phase, NEUTRAL):
                    spread((*unit.backup, core), source.kind)
    return {core: frozenset(kinds) for core, kinds in found.items()}


def topology_cores(topology: Topology, terminal: tuple[str, str]) -> tuple[str, ...]:
    """The cores that meet at a terminal."""
    cores: dict[str, None] = {}
    for conductor in topology.conductors:
        if terminal in (conductor.a, conductor.b):
            cores.update(dict.fromkeys(conductor.cores))
    return tuple(cores)


def _networks(
    topology: Topology, positions: dict[str, str], graph: nx.Graph[Core], reach: dict[Core, frozenset[str]]
) -> tuple[Network, ...]:
    """The live neutral networks with their bonds; the supply's own bond counts."""
    import networkx as nx

    neutrals = graph.subgraph([core for core in graph if core[2] == NEUTRAL])
    bonds = [bond for bond in topology.bonds if bond.relay is None or positions.get(bond.relay) == "closed"]
    before_rcd: nx.Graph[Core] = nx.Graph([(a, b) for a, b, data in neutrals.edges(data=True) if not data["rcd"]])
    result = []
    for component in nx.connected_components(neutrals):
        sources = frozenset().union(*(reach.get(core, frozenset()) for core in component))
        if not sources:
            continue
        inside = [bond for bond in bonds if (*bond.at, NEUTRAL) in component]
        origins = _source_neutrals(topology, component)
        behind = [
            bond.name
            for bond in inside
            if not any(_joined(before_rcd, (*bond.at, NEUTRAL), origin) for origin in origins)
        ]
        result.append(Network(sources, tuple(bond.name for bond in inside), tuple(behind), len(component)))
    return tuple(sorted(result, key=lambda network: (sorted(network.sources), network.terminals)))


def _source_neutrals(topology: Topology, component: set[Core]) -> list[Core]:
    """Where a network's sources join its neutral: the supply, and the backup ports of the units."""
    starts = [source.at for source in topology.sources if source.kind == GRID]
    starts += [unit.backup for unit in topology.units]
    return [(*start, NEUTRAL) for start in starts if (*start, NEUTRAL) in component]
