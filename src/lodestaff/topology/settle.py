"""How the installation settles in a state: hands are where they are, devices set themselves until nothing
moves.

Every source that can lead a network has a name, its lead: the grid, a generator, a unit or group that forms
an island. A core may be led by one lead only; two are sources that meet unsynchronised.
"""

from __future__ import annotations

from dataclasses import dataclass

from lodestaff.topology.graph import Graph, graph_of
from lodestaff.topology.model import (
    BATTERY,
    GENERATOR,
    GRID,
    QUIET,
    Automatic,
    Terminal,
    Topology,
    UnitPorts,
    mode_key,
)

ROUNDS = 16


@dataclass(frozen=True)
class State:
    """Hand-set positions that differ from the usual (the first of each), and what the world does.

    `loose` names conductors that are not landed yet; `surplus` is whether surplus loads are called for.
    """

    name: str
    hands: tuple[tuple[str, str], ...] = ()
    grid_present: bool = True
    daylight: bool = True
    surplus: bool = True
    loose: tuple[str, ...] = ()

    def with_hand(self, part: str, position: str) -> State:
        hands = {**dict(self.hands), part: position}
        return State(
            "own positions",
            tuple(sorted(hands.items())),
            grid_present=self.grid_present,
            daylight=self.daylight,
            surplus=self.surplus,
            loose=self.loose,
        )


@dataclass(frozen=True)
class Settled:
    """Where everything came to rest. `leads` are the leads of each set of joined cores; `labels` the sets."""

    positions: dict[str, str]
    settings: dict[str, str]  # positions, with the ways through the units' changeovers
    modes: dict[str, str]
    forming: frozenset[str]
    labels: list[int]
    leads: dict[int, frozenset[str]]
    at_rest: bool


def settle(topology: Topology, state: State) -> Settled:
    """Let all devices set themselves. A device that never comes to rest is told by `at_rest`."""
    return _Settling(topology, state).run()


class _Settling:
    def __init__(self, topology: Topology, state: State) -> None:
        self.topology, self.state = topology, state
        self.graph: Graph = graph_of(topology)
        self.loose = frozenset(state.loose)
        self.settings = {part.id: part.positions[0] for part in topology.switches()}
        self.settings.update({part: position for part, position in state.hands if part in self.settings})
        for automatic in topology.automatics:
            self.settings[automatic.part] = (
                automatic.choices[-1] if automatic.rule != "first live" else automatic.choices[0]
            )
        self.modes = {unit.unit: "off" for unit in topology.units}
        self.forming: frozenset[str] = frozenset()
        self.gateways = [automatic for automatic in topology.automatics if automatic.rule == "gateway"]

    def run(self) -> Settled:
        seen = 0
        while True:
            before = dict(self.settings)
            self.labels = self.graph.joined(self.settings, self.loose)
            self._lead()
            self._units()
            self._lead()
            for automatic in self.topology.automatics:
                self.settings[automatic.part] = self._position(automatic)
            seen += 1
            if self.settings == before or seen >= ROUNDS:
                return Settled(
                    {key: value for key, value in self.settings.items() if key in self.topology.parts},
                    dict(self.settings),
                    modes=dict(self.modes),
                    forming=self.forming,
                    labels=self.labels,
                    leads={label: frozenset(ends) for label, ends in self.leads.items()},
                    at_rest=self.settings == before,
                )

    # --- leads -----------------------------------------------------------------------------------------
    def _lead(self) -> None:
        self.leads: dict[int, set[str]] = {}
        for source in self.topology.sources:
            if source.kind == GRID and self.state.grid_present:
                self._give(source.at, "grid")
            elif source.kind == GENERATOR and self.settings.get(source.part) == "running":
                self._give(source.at, source.part)
        for unit in self.topology.units:
            if unit.unit in self.forming:
                self._give(unit.out, self._lead_of(unit), unit.legs)

    def _give(self, at: Terminal, lead: str, legs: tuple[str, ...] | None = None) -> None:
        for core, number in self.graph.cores_at(at).items():
            if core not in QUIET and (legs is None or core in legs):
                self.leads.setdefault(self.labels[number], set()).add(lead)

    def _at(self, terminal: Terminal) -> set[str]:
        """The leads at a terminal, over its phase cores."""
        ends: set[str] = set()
        for core, number in self.graph.cores_at(terminal).items():
            if core not in QUIET:
                ends |= self.leads.get(self.labels[number], set())
        return ends

    def _lead_of(self, unit: UnitPorts) -> str:
        """Units of a group keep in step; so do battery units behind one gateway."""
        if unit.group:
            return f"group {unit.group}"
        if not unit.transfer and (gateway := self._gateway_of(unit)):
            return f"island of {gateway.part}"
        return unit.unit

    def _gateway_of(self, unit: UnitPorts) -> Automatic | None:
        here = {self.labels[n] for core, n in self.graph.cores_at(unit.out).items() if core not in QUIET}
        for gateway in self.gateways:
            load = self.graph.cores_at((gateway.part, "load"))
            if any(self.labels[number] in here for core, number in load.items() if core not in QUIET):
                return gateway
        return None

    # --- devices ---------------------------------------------------------------------------------------
    def _units(self) -> None:
        forming = set()
        for unit in self.topology.units:
            mode, way = self._mode(unit)
            self.modes[unit.unit] = mode
            self.settings[mode_key(unit.unit)] = way
            if mode == "island":
                forming.add(unit.unit)
        self.forming = frozenset(forming)
        self._lead()
        for unit in self.topology.units:  # what forms no network follows one that is there
            if self.modes[unit.unit] == "waits":
                self.modes[unit.unit] = "follows" if self._at(unit.out) else "off"

    def _mode(self, unit: UnitPorts) -> tuple[str, str]:
        """What a unit does, and the way through its changeover."""
        if self.settings.get(unit.unit) == "off":
            return "off", "open"
        own = self._lead_of(unit)
        outside = self._at(unit.grid) - {own}
        if "grid" in outside:
            return "grid", "grid"
        generators = {source.part for source in self.topology.sources if source.kind == GENERATOR}
        if outside & generators:
            return "generator", "grid"
        if unit.generator is not None and self._at(unit.generator) & generators:
            return "generator", "generator"
        if unit.transfer and outside:
            return "follows", "grid"
        if unit.forms and unit.serves and self._has_battery(unit) and self._may_form(unit):
            return "island", "open"
        return ("waits", "open") if not unit.transfer else ("off", "open")

    def _may_form(self, unit: UnitPorts) -> bool:
        """One without a changeover of its own forms only behind an open gateway, or where there is no grid
        at all."""
        if unit.transfer:
            return True
        if not any(source.kind == GRID for source in self.topology.sources):
            return True
        gateway = self._gateway_of(unit)
        return gateway is not None and self.settings[gateway.part] == "open"

    def _has_battery(self, unit: UnitPorts) -> bool:
        if unit.battery is None:
            return False
        port = self.graph.cores_at(unit.battery).get("DC+")
        return port is not None and any(
            self.labels[self.graph.cores_at(source.at)["DC+"]] == self.labels[port]
            for source in self.topology.sources
            if source.kind == BATTERY and self.graph.cores_at(source.at)
        )

    def _position(self, switch: Automatic) -> str:
        closed, opened = switch.choices[0], switch.choices[-1]
        generators = {source.part for source in self.topology.sources if source.kind == GENERATOR}
        match switch.rule:
            case "gateway":
                return closed if self._at(switch.watches[0]) & ({"grid"} | generators) else opened
            case "first live":
                live = [bool(self._at(terminal)) for terminal in switch.watches]
                return switch.choices[1] if live[1] and not live[0] else switch.choices[0]
            case "with the grid":
                return closed if "grid" in self._at(switch.watches[0]) else opened
            case "in island mode":
                here = self._at(switch.watches[0])
                return closed if here and "grid" not in here else opened
            case "with surplus":
                return closed if self.state.surplus and self._at(switch.watches[0]) else opened
            case "relay":
                if switch.owner in self.modes:
                    return "closed" if switch.owner in self.forming else "open"
                islanded = self.settings.get(switch.owner) == "open" and bool(self._at(switch.watches[0]))
                return "closed" if islanded else "open"
            case "while transmitting":
                return closed if self._at(switch.watches[0]) else opened
