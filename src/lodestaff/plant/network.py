"""The wires of a simulated site in one switching state: a nodal solution with phasors, neutral and earth
included.

Every core is a node. Conductors and closed contacts are small resistances, bonds and earthing conductors lead
to earth, what leads a network is a voltage behind an impedance, circuits and followers are currents. The
network is linear, so that it is solved once for each switching state, for one kilowatt at each element.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from scipy.sparse import csc_matrix
from scipy.sparse.linalg import splu

from lodestaff.topology.graph import Graph, graph_of
from lodestaff.topology.model import EARTH, GENERATOR, GRID, NEUTRAL, QUIET, Bond, Terminal, Topology
from lodestaff.topology.states import Answer

Complexes = npt.NDArray[np.complex128]
CONDUCTOR_OHM, CONTACT_OHM, BOND_OHM = 2e-3, 2e-4, 0.02  # of a core, a contact, a bond with its earth path
UNIT_OHM_KVA, GENERATOR_OHM_KVA = 0.25, 1.5  # of units and generators, by kVA
LEAK_S = 1e-9  # of each core's insulation to earth
STANDING_S = 1e-6  # of what hangs on a circuit, switched off
OPEN_OHM = 2000.0  # what a tester shows as beyond its range


@dataclass(frozen=True)
class Wires:
    """What differs between the wires as drawn and as they were laid: by conductor the core that lies at its
    supply's end of each core at its other end."""

    crossed: Mapping[str, Mapping[str, str]] = field(default_factory=dict)


@dataclass(frozen=True)
class Service:
    """The supply as it comes: the angle of each leg's voltage, degrees, its volts, those at rest, and its
    impedance."""

    angles: Mapping[str, float]
    nominal_v: float
    at_rest_v: float
    ohm: float


@dataclass(frozen=True)
class Element:
    """What draws (or feeds, below 0) between pairs of nodes: each a share of one kilowatt, as a current."""

    name: str
    pairs: tuple[tuple[int, int, complex], ...]
    usual_v: float = 230.0  # across the first pair


def angles_of(legs: tuple[str, ...], system: str) -> dict[str, float]:
    """The angle of each leg's voltage, degrees."""
    turn = 180.0 if system == "120/240 V" else 120.0
    return {leg: -turn * number for number, leg in enumerate(legs)}


class Network:
    """The solution of one state. Powers in kW, above 0 drawn; `volts_of` and `amps_of` are phasors."""

    def __init__(
        self,
        topology: Topology,
        answer: Answer,
        service: Service,
        wires: Wires = Wires(),
        plugged: Mapping[str, tuple[Terminal, str]] = {},
    ) -> None:
        self.topology, self.answer, self.nominal_v = topology, answer, service.nominal_v
        self.graph: Graph = graph_of(topology)
        self.phasor = {leg: cmath.rect(1.0, math.radians(angle)) for leg, angle in service.angles.items()}
        self._y: dict[tuple[int, int], complex] = {}  # the admittance matrix, where it isn't nothing
        self._given = np.zeros(self.graph.count, dtype=complex)
        self._wires: dict[tuple[str, str], tuple[int, int]] = {}
        self._leads: dict[str, list[tuple[int, int, complex, complex]]] = {}
        self._join_wires(wires)
        self._join_contacts()
        self._to_earth()
        self._lead(service.at_rest_v, service.ohm)
        self.elements = {element.name: element for element in self._elements(plugged)}
        self._solve()

    # --- putting together --------------------------------------------------------------------------------
    def _join(self, a: int, b: int, y: complex) -> None:
        for row, other, value in ((a, a, y), (b, b, y), (a, b, -y), (b, a, -y)):
            self._y[row, other] = self._y.get((row, other), 0j) + value

    def _down(self, node: int, y: complex) -> None:
        """To earth."""
        self._y[node, node] = self._y.get((node, node), 0j) + y

    def _join_wires(self, wires: Wires) -> None:
        loose = self.answer.state.loose
        for conductor in self.topology.conductors:
            if conductor.id in loose:
                continue
            turned = wires.crossed.get(conductor.id, {})
            ends = dict(zip(conductor.cores, self.graph.conductor_pairs[conductor.id], strict=True))
            for core, (a, b) in ends.items():
                if core.startswith("DC"):
                    continue
                far = turned.get(core, core)
                start = ends[far][0] if far in ends else self.graph.number.get((*conductor.a, far), a)
                self._wires[conductor.id, core] = (start, b)
                self._join(start, b, 1 / CONDUCTOR_OHM)

    def _join_contacts(self) -> None:
        settings = self.answer.settled.settings
        for part in self.topology.parts.values():
            for contact in part.contacts:
                if contact.positions is None or settings.get(contact.key or part.id) in contact.positions:
                    for core in contact.cores:
                        if not core.startswith("DC"):
                            a = self.graph.number[part.id, contact.a, core]
                            self._join(a, self.graph.number[part.id, contact.b, core], 1 / CONTACT_OHM)

    def closed_bonds(self) -> tuple[Bond, ...]:
        """The bonds that are made in this state."""
        positions = self.answer.settled.positions
        return tuple(b for b in self.topology.bonds if b.relay is None or positions.get(b.relay) == "closed")

    def _to_earth(self) -> None:
        for (_, _, core), number in self.graph.number.items():
            self._down(number, 1 / BOND_OHM if core == EARTH else LEAK_S)
        for bond in self.closed_bonds():
            if (place := self.graph.cores_at(bond.at).get(NEUTRAL)) is not None:
                self._down(place, 1 / BOND_OHM)

    def _lead(self, supply_v: float, supply_ohm: float) -> None:
        answer = self.answer
        for source in self.topology.sources:
            if source.kind == GRID and answer.state.grid_present:
                self._voltage(source.part, source.at, None, supply_v, supply_ohm)
            elif source.kind == GENERATOR and answer.positions.get(source.part) == "running":
                self._voltage(source.part, source.at, None, self.nominal_v, GENERATOR_OHM_KVA / 6)
        for unit in self.topology.units:
            if unit.unit in answer.forming:
                ohm = UNIT_OHM_KVA / max(unit.rated_kva, 0.1) * len(unit.legs)
                self._voltage(unit.unit, unit.out, unit.legs, self.nominal_v, ohm)

    def _voltage(
        self, name: str, at: Terminal, legs: tuple[str, ...] | None, volts: float, ohm: float
    ) -> None:
        cores = self.graph.cores_at(at)
        neutral = cores.get(NEUTRAL)
        for core, number in cores.items():
            if core in QUIET or (legs is not None and core not in legs) or core not in self.phasor:
                continue
            emf = volts * self.phasor[core]
            other = neutral if neutral is not None else number
            if neutral is None:
                self._down(number, 1 / ohm)
            else:
                self._join(number, neutral, 1 / ohm)
                self._given[neutral] -= emf / ohm
            self._given[number] += emf / ohm
            self._leads.setdefault(name, []).append((number, other, emf, 1 / ohm))

    def _elements(self, plugged: Mapping[str, tuple[Terminal, str]]) -> Iterable[Element]:
        for circuit, (part, port) in self.topology.circuits.items():
            for inlet, name in ((port, circuit), (f"{port} 2", f"{circuit} 2")):
                cores = self.graph.cores_at((part, inlet))
                if pairs := self._pairs(cores, tuple(core for core in cores if core in self.phasor)):
                    for a, b, _ in pairs:
                        if b >= 0:
                            self._join(a, b, STANDING_S)
                    yield Element(name, pairs, self._usual_v(pairs))
        for unit in self.topology.units:
            if pairs := self._pairs(self.graph.cores_at(unit.out), unit.legs, halves=True):
                yield Element(unit.unit, pairs, self._usual_v(pairs))
        for name, (at, leg) in plugged.items():
            if pairs := self._pairs(self.graph.cores_at(at), (leg,)):
                yield Element(name, pairs, self._usual_v(pairs))

    @staticmethod
    def _usual_v(pairs: tuple[tuple[int, int, complex], ...]) -> float:
        """The nominal voltage across the first of the pairs, which share a kilowatt."""
        return 1000 / len(pairs) / abs(pairs[0][2])

    def _pairs(
        self, cores: Mapping[str, int], legs: tuple[str, ...], halves: bool = False
    ) -> tuple[tuple[int, int, complex], ...]:
        """The pairs of nodes between which something hangs, with the current of one kilowatt through each."""
        legs = tuple(leg for leg in legs if leg in cores and leg in self.phasor)
        neutral = cores.get(NEUTRAL)
        if not legs:
            return ()
        if len(legs) == 2 and (not halves or neutral is None):
            across = self.nominal_v * (self.phasor[legs[0]] - self.phasor[legs[1]])
            return ((cores[legs[0]], cores[legs[1]], complex(1000 / across).conjugate()),)
        share = 1000 / len(legs) / self.nominal_v
        return tuple(
            (cores[leg], -1 if neutral is None else neutral, (share / self.phasor[leg]).conjugate())
            for leg in legs
        )

    def _solve(self) -> None:
        names = list(self.elements)
        right = np.zeros((self.graph.count, 1 + len(names)), dtype=complex)
        right[:, 0] = self._given
        for column, name in enumerate(names, start=1):
            for a, b, amps in self.elements[name].pairs:
                right[a, column] -= amps
                if b >= 0:
                    right[b, column] += amps
        self._column = {name: column for column, name in enumerate(names, start=1)}
        places = np.array(list(self._y), dtype=int).T
        size = (self.graph.count, self.graph.count)
        self._solver = splu(csc_matrix((np.array(list(self._y.values())), places), shape=size))
        self._volts: Complexes = np.asarray(self._solver.solve(right), dtype=np.complex128)

    # --- asking ------------------------------------------------------------------------------------------
    def drawn(self, kw: Mapping[str, complex]) -> Complexes:
        """The weights of a set of powers: 1 for what leads, then each element's kW (with kvar as the
        imaginary part)."""
        weights = np.zeros(1 + len(self._column), dtype=complex)
        weights[0] = 1.0
        for name, value in kw.items():
            if name in self._column:
                weights[self._column[name]] = complex(value).conjugate()
        return weights

    def node(self, at: Terminal, core: str) -> int | None:
        return self.graph.cores_at(at).get(core)

    def volts_between(self, start: int | None, other: int | None, weights: Complexes) -> complex:
        """The voltage from one node to another, V; None is earth."""
        here = 0j if start is None else complex(self._volts[start] @ weights)
        return here - (0j if other is None else complex(self._volts[other] @ weights))

    def amps_of(self, conductor: str, core: str, weights: Complexes) -> complex:
        """The current in a core of a conductor along its arrow, A; 0 where there is none."""
        ends = self._wires.get((conductor, core))
        if ends is None:
            return 0j
        return complex((self._volts[ends[0]] - self._volts[ends[1]]) @ weights) / CONDUCTOR_OHM

    def channel(self, conductor: str, core: str, leg: str) -> tuple[Complexes, Complexes]:
        """What a meter's channel is made of: the rows of the current in a core and of a leg's voltage at the
        conductor's supply end."""
        none = np.zeros(1 + len(self._column), dtype=complex)
        ends = self._wires.get((conductor, core))
        if ends is None:
            return none, none
        at = self.topology.conductor(conductor).a
        line, neutral = self.node(at, leg), self.node(at, NEUTRAL)
        if line is None:
            return none, none
        volts = self._volts[line] - (self._volts[neutral] if neutral is not None else 0)
        return (self._volts[ends[0]] - self._volts[ends[1]]) / CONDUCTOR_OHM, volts

    def bond_a(self, bond: str, weights: Complexes) -> float:
        """The current through a bond to earth, A; 0 where it is open."""
        for closed_bond in self.closed_bonds():
            if (
                closed_bond.id == bond
                and (number := self.graph.cores_at(closed_bond.at).get(NEUTRAL)) is not None
            ):
                return abs(complex(self._volts[number] @ weights)) / BOND_OHM
        return 0.0

    def given_kw(self, name: str, weights: Complexes) -> float:
        """What one that leads gives into its network, kW."""
        total = 0.0
        for number, other, emf, y in self._leads.get(name, ()):
            volts = self.volts_between(number, None if other == number else other, weights)
            total += float((volts * ((emf - volts) * y).conjugate()).real)
        return total / 1000

    def ohms(self, start: int | None, other: int | None) -> float:
        """The resistance that a tester finds between two nodes (None: earth), up to its range, ohm."""
        right = np.zeros(self.graph.count, dtype=complex)
        if start is not None:
            right[start] += 1
        if other is not None:
            right[other] -= 1
        volts = self._solver.solve(right)
        difference = (volts[start] if start is not None else 0) - (volts[other] if other is not None else 0)
        return min(abs(complex(difference)), OPEN_OHM)
