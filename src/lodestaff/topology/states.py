"""Switching states: hands set switches, units set their relays, and what is live follows."""

from __future__ import annotations

from dataclasses import dataclass

from lodestaff.topology.model import ARRAY, BATTERY, GRID, NEUTRAL, Topology, UnitPorts
from lodestaff.topology.nets import Core, Nets

STATES = ("grid", "island", "bypass", "all off")
Edge = tuple[Core, Core, bool]  # two cores, and whether a residual-current device stands between them


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
    edges = _edges(topology, positions)
    modes = _unit_modes(topology, state, positions, Nets((a, b) for a, b, _ in edges))
    for unit in topology.units:
        if unit.bond_relay:
            positions[unit.bond_relay] = "closed" if modes[unit.unit] == "island" else "open"
    edges += _transfers(topology, {unit for unit, mode in modes.items() if mode == "grid"})
    nets = Nets((a, b) for a, b, _ in edges)
    kinds = _kinds(topology, state, nets, modes)
    none: frozenset[str] = frozenset()

    def reach(core: Core) -> frozenset[str]:
        return kinds.get(nets.root(core), none) if core in nets else none

    live = {
        conductor.id: none.union(*(reach((*conductor.a, core)) for core in conductor.cores if core != NEUTRAL))
        for conductor in topology.conductors
    }
    by_load = {conductor.b: conductor.id for conductor in topology.conductors}
    fed = {circuit: live[by_load[terminal]] for circuit, terminal in topology.circuits.items()}
    networks = _networks(topology, positions, edges, nets, kinds)
    return Answer(state, positions, modes, live, fed, networks)


def _edges(topology: Topology, positions: dict[str, str]) -> list[Edge]:
    """Cores joined by conductors and by contacts that are closed; a unit's transfer is not among them."""
    edges: list[Edge] = []
    for conductor in topology.conductors:
        edges += [((*conductor.a, core), (*conductor.b, core), False) for core in conductor.cores]
    for part in topology.parts.values():
        for contact in part.contacts:
            if contact.positions is not None and (
                part.kind == "unit" or positions.get(part.id, "") not in contact.positions
            ):
                continue
            ends = (part.id, contact.a), (part.id, contact.b)
            edges += [((*ends[0], core), (*ends[1], core), part.kind == "rcd") for core in contact.cores]
    return edges


def _transfers(topology: Topology, parallel: set[str]) -> list[Edge]:
    """The transfers of units that run with the grid: closed."""
    edges: list[Edge] = []
    for name in parallel:
        for contact in topology.parts[name].contacts:
            if contact.positions is not None and "closed" in contact.positions:
                edges += [((name, contact.a, core), (name, contact.b, core), False) for core in contact.cores]
    return edges


def _unit_modes(topology: Topology, state: State, positions: dict[str, str], nets: Nets) -> dict[str, str]:
    """A unit that is on runs with the grid where it sees it, else on its own if its battery is there."""
    modes = {}
    for unit in topology.units:
        sees_grid = state.grid_present and any(
            source.kind == GRID and nets.joined((*source.at, unit.phase), (*unit.grid, unit.phase))
            for source in topology.sources
        )
        if positions.get(unit.unit) == "off":
            modes[unit.unit] = "off"
        elif sees_grid:
            modes[unit.unit] = "grid"
        else:
            modes[unit.unit] = "island" if _has_battery(topology, nets, unit) else "off"
    return modes


def _has_battery(topology: Topology, nets: Nets, unit: UnitPorts) -> bool:
    port = unit.battery
    return port is not None and any(
        source.kind == BATTERY and nets.joined((*source.at, "DC+"), (*port, "DC+")) for source in topology.sources
    )


def _kinds(topology: Topology, state: State, nets: Nets, modes: dict[str, str]) -> dict[Core, frozenset[str]]:
    """For each set of joined cores, by its root, the kinds of source whose voltage reaches it."""
    found: dict[Core, set[str]] = {}

    def spread(start: Core, kind: str) -> None:
        if start in nets:
            found.setdefault(nets.root(start), set()).add(kind)

    for source in topology.sources:
        present = {GRID: state.grid_present, BATTERY: True, ARRAY: state.daylight}[source.kind]
        if not present:
            continue
        for core in topology_cores(topology, source.at):
            spread((*source.at, core), source.kind)
        if source.kind != GRID and modes.get(source.unit) in ("grid", "island"):
            unit = next(unit for unit in topology.units if unit.unit == source.unit)
            ports = [port for port in (unit.battery, *unit.arrays) if port]
            if any(nets.joined((*source.at, "DC+"), (*port, "DC+")) for port in ports):
                for core in (unit.phase, NEUTRAL):
                    spread((*unit.backup, core), source.kind)
    return {root: frozenset(kinds) for root, kinds in found.items()}


def topology_cores(topology: Topology, terminal: tuple[str, str]) -> tuple[str, ...]:
    """The cores that meet at a terminal."""
    cores: dict[str, None] = {}
    for conductor in topology.conductors:
        if terminal in (conductor.a, conductor.b):
            cores.update(dict.fromkeys(conductor.cores))
    return tuple(cores)


def _networks(
    topology: Topology, positions: dict[str, str], edges: list[Edge], nets: Nets, kinds: dict[Core, frozenset[str]]
) -> tuple[Network, ...]:
    """The live neutral networks with their bonds; the supply's own bond counts."""
    neutrals = [(a, b, rcd) for a, b, rcd in edges if a[2] == NEUTRAL]
    bonds = [bond for bond in topology.bonds if bond.relay is None or positions.get(bond.relay) == "closed"]
    before_rcd = Nets((a, b) for a, b, rcd in neutrals if not rcd)
    result = []
    for members in Nets((a, b) for a, b, _ in neutrals).sets():
        inside = set(members)
        sources = kinds.get(nets.root(members[0]), frozenset())
        if not sources:
            continue
        here = [bond for bond in bonds if (*bond.at, NEUTRAL) in inside]
        origins = _source_neutrals(topology, inside)
        behind = [
            bond.name for bond in here if not any(before_rcd.joined((*bond.at, NEUTRAL), origin) for origin in origins)
        ]
        result.append(Network(sources, tuple(bond.name for bond in here), tuple(behind), len(members)))
    return tuple(sorted(result, key=lambda network: (sorted(network.sources), network.terminals)))


def _source_neutrals(topology: Topology, component: set[Core]) -> list[Core]:
    """Where a network's sources join its neutral: the supply, and the backup ports of the units."""
    starts = [source.at for source in topology.sources if source.kind == GRID]
    starts += [unit.backup for unit in topology.units]
    return [(*start, NEUTRAL) for start in starts if (*start, NEUTRAL) in component]
