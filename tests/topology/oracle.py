"""An independent reading of an installation: paths through a plain graph, every rule of a device asked anew.

Written apart from the program's own way (which numbers cores and lets devices settle): here a state is
given with
what every device has done, and it is asked whether each device could rest so, and what is live, by walking.
"""

import networkx as nx

PHASE_LEADS = ("grid", "generator")
OFF = {"off", "open", "stopped"}


class Reading:
    """One state read off: a graph of (part, port, core) joined by conductors and closed contacts."""

    def __init__(self, topology, state, settings, modes, without_rcds=False):
        self.topology, self.state, self.settings, self.modes = topology, state, settings, modes
        self.graph = nx.Graph()
        for one in topology.conductors:
            for core in one.cores:
                a, b = (*one.a, core), (*one.b, core)
                self.graph.add_nodes_from([a, b])
                if one.id not in state.loose:
                    self.graph.add_edge(a, b)
        for part in topology.parts.values():
            for contact in part.contacts:
                for core in contact.cores:
                    a, b = (part.id, contact.a, core), (part.id, contact.b, core)
                    self.graph.add_nodes_from([a, b])
                    shut = (
                        contact.positions is None or settings.get(contact.key or part.id) in contact.positions
                    )
                    if shut and not (without_rcds and part.kind == "rcd"):
                        self.graph.add_edge(a, b)

    def reach(self, terminal, core):
        node = (*terminal, core)
        return nx.node_connected_component(self.graph, node) if node in self.graph else set()

    def cores(self, terminal):
        return {node[2] for node in self.graph if node[:2] == terminal} - {"N", "PE"}

    def joined(self, a, b):
        return any((*b, core) in self.reach(a, core) for core in self.cores(a))

    # --- who leads ---------------------------------------------------------------------------------------
    def leads_at(self, terminal):
        found = set()
        for source in self.topology.sources:
            there = {
                "grid": self.state.grid_present,
                "generator": self.settings.get(source.part) == "running",
            }.get(source.kind, False)
            if there and self.joined(terminal, source.at):
                found.add("grid" if source.kind == "grid" else source.part)
        for unit in self.topology.units:
            if self.modes[unit.unit] == "island" and any(
                (*unit.out, leg) in self.reach(terminal, leg) for leg in unit.legs
            ):
                found.add(unit.unit)
        return found

    def kin(self, unit):
        """Units that keep step with a unit: itself, its group, battery units on the same wires."""
        found = {unit.unit}
        for other in self.topology.units:
            if other.group and other.group == unit.group:
                found.add(other.unit)
            if not other.transfer and not unit.transfer and self.joined(unit.out, other.out):
                found.add(other.unit)
        return found

    def outside(self, unit, terminal):
        return self.leads_at(terminal) - self.kin(unit)

    # --- could every device rest so? ------------------------------------------------------------------------
    def complaints(self):
        wrong = [
            f"{unit.unit} {self.modes[unit.unit]}" for unit in self.topology.units if not self._unit(unit)
        ]
        wrong += [
            f"{one.part} {self.settings[one.part]}"
            for one in self.topology.automatics
            if not self._device(one)
        ]
        return wrong

    def _generators(self):
        return {source.part for source in self.topology.sources if source.kind == "generator"}

    def _unit(self, unit):
        mode = self.modes[unit.unit]
        if self.settings[unit.unit] == "off":
            return mode == "off"
        outside = self.outside(unit, unit.grid)
        if "grid" in outside:
            return mode == "grid"
        running = self._generators()
        if outside & running or (unit.generator and self.leads_at(unit.generator) & running):
            return mode == "generator"
        battery = any(
            source.kind == "battery" and source.unit == unit.unit and self.joined_dc(source.at, unit.battery)
            for source in self.topology.sources
        )
        islands = unit.forms and unit.serves and battery and self._may(unit)
        if unit.transfer:
            return mode == ("follows" if outside else "island" if islands else "off")
        if islands:
            return mode == "island"
        return mode == ("follows" if self.leads_at(unit.out) else "off")

    def joined_dc(self, a, b):
        return b is not None and (*b, "DC+") in self.reach(a, "DC+")

    def _may(self, unit):
        if unit.transfer or not any(source.kind == "grid" for source in self.topology.sources):
            return True
        for one in self.topology.automatics:
            if one.rule == "gateway" and self.joined((one.part, "load"), unit.out):
                return self.settings[one.part] == "open"
        return False

    def _device(self, one):
        here = [self.leads_at(terminal) for terminal in one.watches]
        position = self.settings[one.part]
        feeding = {"grid"} | self._generators()
        if one.rule == "gateway":
            return (position == "closed") == bool(here[0] & feeding)
        if one.rule == "first live":
            return position == (one.choices[1] if here[1] and not here[0] else one.choices[0])
        if one.rule == "with the grid":
            return (position == "closed") == ("grid" in here[0])
        if one.rule == "in island mode":
            return (position == "closed") == (bool(here[0]) and "grid" not in here[0])
        if one.rule == "with surplus":
            return (position == "closed") == (self.state.surplus and bool(here[0]))
        if one.rule == "while transmitting":
            return (position == "closed") == bool(here[0])
        assert one.rule == "relay"
        if one.owner in self.modes:
            return (position == "closed") == (self.modes[one.owner] == "island")
        return (position == "closed") == (self.settings[one.owner] == "open" and bool(here[0]))

    # --- what is live ---------------------------------------------------------------------------------------
    def live(self):
        """For each conductor the sources that reach one of its phases or poles."""
        reached = {}
        for source in self.topology.sources:
            for node in self._starts(source):
                for other in nx.node_connected_component(self.graph, node):
                    reached.setdefault(other, set()).add(source.part)
        found = {}
        for one in self.topology.conductors:
            ends = [one.a, one.b] if one.id in self.state.loose else [one.a]
            found[one.id] = frozenset().union(
                *(
                    reached.get((*end, core), set())
                    for end in ends
                    for core in one.cores
                    if core not in ("N", "PE")
                )
            )
        return found

    def _starts(self, source):
        at = [node for node in self.graph if node[:2] == source.at and node[2] != "PE"]
        unit = next((unit for unit in self.topology.units if unit.unit == source.unit), None)
        works = unit is not None and self.modes[unit.unit] != "off"
        if source.kind == "grid":
            return at if self.state.grid_present else []
        if source.kind == "generator":
            return at if self.settings[source.part] == "running" else []
        if source.kind == "array" and (not self.state.daylight or (source.rests and not works)):
            return []
        ports = [port for port in ([unit.battery, *unit.arrays] if unit else []) if port]
        if works and any(self.joined_dc(source.at, port) for port in ports):
            at = at + [(*unit.out, core) for core in (*unit.legs, "N") if (*unit.out, core) in self.graph]
        return at

    def bonds(self):
        """For each live neutral network, by any of its nodes: how many bonds, and how many behind a
        device."""
        live_nodes = set()
        for source in self.topology.sources:
            for node in self._starts(source):
                live_nodes |= nx.node_connected_component(self.graph, node)
        neutrals = {node for node in live_nodes if node[2] == "N"}
        ahead = Reading(self.topology, self.state, self.settings, self.modes, without_rcds=True)
        counted = []
        while neutrals:
            network = nx.node_connected_component(self.graph, next(iter(neutrals)))
            neutrals -= network
            starts = [s.at for s in self.topology.sources if s.kind in PHASE_LEADS]
            starts += [unit.out for unit in self.topology.units]
            before = set().union(*(ahead.reach(at, "N") for at in starts if (*at, "N") in network))
            made = [
                bond
                for bond in self.topology.bonds
                if (*bond.at, "N") in network
                and (bond.relay is None or self.settings.get(bond.relay) == "closed")
            ]
            counted.append((len(made), sum((*bond.at, "N") not in before for bond in made)))
        return sorted(counted)
