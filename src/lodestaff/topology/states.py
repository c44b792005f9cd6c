"""Switching states and what each makes of the installation: what is live from what, fed, bonded, and what
meets."""

from __future__ import annotations

from dataclasses import dataclass

from lodestaff.topology.graph import Graph, graph_of
from lodestaff.topology.model import ARRAY, GENERATOR, GRID, NEUTRAL, QUIET, Source, Topology
from lodestaff.topology.settle import Settled, State, settle

__all__ = ["Answer", "Hazard", "Network", "State", "answer", "hazards_in", "standard_states"]

RUNNING = ("grid", "generator", "island", "follows")


@dataclass(frozen=True)
class Network:
    """One connected live neutral network: its sources, the bonds in it, and those behind a residual-current
    device."""

    sources: frozenset[str]
    bonds: tuple[str, ...]
    behind_rcd: tuple[str, ...]
    terminals: int
    units: tuple[str, ...] = ()  # whose output's neutral is in it, by id


@dataclass(frozen=True)
class Hazard:
    """Sources that are joined and must not be: two leads in one network, or an island on the operator's
    wires."""

    kind: str
    leads: tuple[str, ...]


@dataclass(frozen=True)
class Answer:
    """What a state makes of the installation."""

    state: State
    positions: dict[str, str]
    unit_modes: dict[str, str]
    live: dict[str, frozenset[str]]  # conductor id -> kinds of source that make it live
    fed: dict[str, frozenset[str]]  # circuit id -> the same
    networks: tuple[Network, ...]
    sources: dict[str, frozenset[str]]  # conductor id -> the sources themselves, by part
    hazards: tuple[Hazard, ...]
    forming: frozenset[str]
    settled: Settled

    def still_live(self) -> tuple[str, ...]:
        """Conductors that are live in this state."""
        return tuple(conductor for conductor, sources in self.live.items() if sources)


def standard_states(topology: Topology) -> tuple[State, ...]:
    """The states that every installation is asked for: grid, island, bypass, generator, units off,
    half-done, all off."""
    switches = topology.switches()
    grid = any(source.kind == GRID for source in topology.sources)
    bypass = [
        (part.id, "grid" if "grid" in part.positions else part.positions[-1])
        for part in switches
        if part.kind == "bypass"
    ]
    units_off = [(part.id, "off") for part in switches if part.kind == "unit"]
    generators = [(part.id, "running") for part in switches if part.kind == "generator"]
    all_off = tuple(sorted((part.id, off_position(part.positions)) for part in switches))
    to_generator = [(part.id, "generator") for part in switches if "generator" in part.positions]
    plugged = {port for unit in topology.units if unit.module_level for port in unit.arrays}
    arrays = tuple(
        sorted(
            conductor.id
            for conductor in topology.conductors
            if topology.parts[conductor.a[0]].kind == "array" and conductor.b not in plugged
        )
    )
    states = [State("grid")] if grid else []
    states.append(State("island", grid_present=False))
    if bypass and grid:
        states.append(State("bypass", tuple(sorted(bypass + units_off))))
    if generators:
        states.append(State("generator", tuple(sorted(generators + to_generator)), False))
    names = {part.id: part.name for part in switches}
    states += [State(f"{names[unit]} off", ((unit, off),), grid) for unit, off in units_off]
    if len(units_off) > 1:
        states += [
            State(f"{names[unit]} failed in an outage", ((unit, off),), False)
            for unit, off in units_off
            if grid
        ]
    if arrays and grid:
        states.append(State("array not landed", loose=arrays))
    if bypass and grid:
        away = [(part.id, "open") for part in switches if part.kind == "isolator" and part.way == "battery"]
        states.append(State("bypass overnight", tuple(sorted(bypass + units_off + away)), loose=arrays))
    return (*states, State("all off", all_off))


def off_position(positions: tuple[str, ...]) -> str:
    """The position of a switch that is off: off, open, stopped; of two feeds without a middle, the second."""
    return next((position for position in ("off", "open", "stopped") if position in positions), positions[-1])


def answer(topology: Topology, state: State) -> Answer:
    """What is live from what, which circuits are fed, the bonds of each live neutral network, and what
    meets."""
    settled = settle(topology, state)
    graph, labels = graph_of(topology), settled.labels
    spread = _spread(topology, state, graph, settled)
    none: frozenset[str] = frozenset()
    kind_of = {source.part: source.kind for source in topology.sources}
    kinds: dict[int, frozenset[str]] = {
        label: frozenset(kind_of[name] for name in names) for label, names in spread.items()
    }
    sources, live = {}, {}
    loose = set(state.loose)
    for conductor in topology.conductors:
        ends = graph.conductor_pairs[conductor.id]
        here, names = none, none
        for core, pair in zip(conductor.cores, ends, strict=True):
            if core in QUIET:
                continue
            for number in pair if conductor.id in loose else pair[:1]:
                names = names | spread.get(labels[number], none)
                here = here | kinds.get(labels[number], none)
        sources[conductor.id], live[conductor.id] = names, here
    fed = {}
    into: dict[str, list[str]] = {}
    for conductor in topology.conductors:
        if "DC+" not in conductor.cores:
            into.setdefault(conductor.b[0], []).append(conductor.id)
    for circuit, terminal in topology.circuits.items():
        fed[circuit] = none.union(*(live[name] for name in into.get(terminal[0], ())))
    networks = _networks(topology, graph, settled, kinds, state)
    return Answer(
        state,
        settled.positions,
        unit_modes=settled.modes,
        live=live,
        fed=fed,
        networks=networks,
        sources=sources,
        hazards=hazards_in(topology, state, settled),
        forming=settled.forming,
        settled=settled,
    )


def hazards_in(topology: Topology, state: State, settled: Settled) -> tuple[Hazard, ...]:
    """Leads that meet in one network, and leads that reach the operator's wires while the grid is away."""
    graph = graph_of(topology)
    hazards = {Hazard("meet", tuple(sorted(leads))) for leads in settled.leads.values() if len(leads) > 1}
    if not state.grid_present:
        for source in topology.sources:
            if source.kind == GRID:
                for core, number in graph.cores_at(source.at).items():
                    leads = settled.leads.get(settled.labels[number], frozenset())
                    if core not in QUIET and leads:
                        hazards.add(Hazard("backfeed", tuple(sorted(leads))))
    return tuple(sorted(hazards, key=lambda each: (each.kind, each.leads)))


def _spread(topology: Topology, state: State, graph: Graph, settled: Settled) -> dict[int, frozenset[str]]:
    """For each set of joined cores the sources whose voltage reaches it."""
    reached: dict[int, set[str]] = {}
    labels = settled.labels
    units = {unit.unit: unit for unit in topology.units}

    def spread(numbers: list[int], source: Source) -> None:
        for number in numbers:
            reached.setdefault(labels[number], set()).add(source.part)

    for source in topology.sources:
        unit = units.get(source.unit)
        running = unit is not None and settled.modes[unit.unit] in RUNNING
        if source.kind == GRID and not state.grid_present:
            continue
        if source.kind == GENERATOR and settled.positions.get(source.part) != "running":
            continue
        if source.kind == ARRAY and (not state.daylight or (source.rests and not running)):
            continue
        here = graph.cores_at(source.at)
        spread([number for core, number in here.items() if core != "PE"], source)
        if unit is None or not running:
            continue
        port = [graph.cores_at(port).get("DC+") for port in (unit.battery, *unit.arrays) if port]
        if here and any(number is not None and labels[number] == labels[here["DC+"]] for number in port):
            out = graph.cores_at(unit.out)
            spread([out[core] for core in (*unit.legs, NEUTRAL) if core in out], source)
    return {label: frozenset(names) for label, names in reached.items()}


def _networks(
    topology: Topology, graph: Graph, settled: Settled, kinds: dict[int, frozenset[str]], state: State
) -> tuple[Network, ...]:
    """The live neutral networks with their bonds; the supply's own bond counts."""
    labels = settled.labels
    neutrals = [node for core, node in graph.number.items() if core[2] == NEUTRAL]
    members: dict[int, list[int]] = {}
    for number in neutrals:
        if kinds.get(labels[number]):
            members.setdefault(labels[number], []).append(number)
    bonds = [
        bond for bond in topology.bonds if bond.relay is None or settled.positions.get(bond.relay) == "closed"
    ]
    rcds = frozenset(part.id for part in topology.parts.values() if part.kind == "rcd")
    ahead = graph.joined(settled.settings, frozenset(state.loose), rcds) if rcds and bonds else labels
    origins = [source.at for source in topology.sources if source.kind in (GRID, GENERATOR)]
    origins += [unit.out for unit in topology.units]
    starts = [node for at in origins if (node := graph.cores_at(at).get(NEUTRAL)) is not None]
    networks = []
    for label, inside in members.items():
        named = [
            (bond, place)
            for bond in bonds
            if (place := graph.cores_at(bond.at).get(NEUTRAL)) is not None and labels[place] == label
        ]
        reached = {ahead[start] for start in starts if labels[start] == label}
        behind = tuple(bond.name for bond, place in named if ahead[place] not in reached)
        outs = [(unit.unit, graph.cores_at(unit.out).get(NEUTRAL)) for unit in topology.units]
        units = tuple(unit for unit, at in outs if at is not None and labels[at] == label)
        bonded = tuple(bond.name for bond, _ in named)
        networks.append(Network(kinds[label], bonded, behind, len(inside), units))
    return tuple(sorted(networks, key=lambda network: (sorted(network.sources), network.terminals)))
