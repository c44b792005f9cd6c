"""A second of the simulated site: what each element draws, what the wires make of it, what each unit does
then."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

from lodestaff.job import Circuit
from lodestaff.plant.network import Complexes, Network, Service, angles_of
from lodestaff.plant.standing import Standing
from lodestaff.plant.unit import PlantUnit
from lodestaff.topology import Answer, Conductor, Island, Topology, answer, islands
from lodestaff.topology.model import GRID, NEUTRAL, QUIET, mode_key
from lodestaff.topology.questions import Led, led

WIRES_OHM, LEAST_SUPPLY_OHM = 0.03, 0.02  # of a measured loop: bond and tails here; the least left beyond
FULL_DROP_SHARE, USUAL_A = 0.04, 100.0  # of the volts, at a service's rating, where its loop was not measured
MOST_KEPT = 12  # networks, by the positions of the switches
LOW_V_SHARE = 0.5  # below it a circuit draws nothing


class Running:
    """Powers through the wires of a plant. Networks are kept by the positions of its switches."""

    def __init__(self, plant: Standing) -> None:
        self.plant = plant
        job = plant.job
        self.nominal_v = job.pack.value("nominal_v").value
        supply = job.site.supply
        known, rating = supply.ze_ohm.value, supply.rating_a.value or USUAL_A
        usual = FULL_DROP_SHARE * self.nominal_v / rating
        self.service = Service(
            angles_of(job.site.phases, job.mains.system),
            self.nominal_v,
            supply.voltage_v.value or self.nominal_v,
            usual if known is None else max(LEAST_SUPPLY_OHM, known - WIRES_OHM),
        )
        self.groups: tuple[Led, ...] = led(plant.drawn)
        self.rated = {name: unit.sheet.rated_kw for name, unit in plant.units.items()}
        self._kept: dict[
            object, tuple[Network, dict[str, list[tuple[str, float, Complexes, Complexes]]]]
        ] = {}
        self.network: Network
        self.weights: Complexes
        self.outcome: Answer
        self.site_kw = 0.0
        self._islands: dict[int, tuple[Island, ...]] = {}

    def forget(self) -> None:
        """Nothing more is asked."""
        self._kept.clear()

    # --- the wires ---------------------------------------------------------------------------------------
    def look(self, outcome: Answer) -> None:
        """Let the wires follow the switches, without any time passing."""
        self._settle(outcome)
        self.weights = self.network.drawn(self._draws())
        self._read()

    def _settle(self, outcome: Answer) -> None:
        plant = self.plant
        key = (id(outcome), tuple(sorted(plant.plugged.items())))
        if key not in self._kept:
            if len(self._kept) >= MOST_KEPT:
                self._kept.pop(next(iter(self._kept)))
            network = self._network(plant.topology, outcome)
            self._kept[key] = (network, plant.meters.rows(network))
        fresh = getattr(self, "outcome", None) is not outcome
        self.outcome = outcome
        self.network, self._rows = self._kept[key]
        if fresh or len(self.weights) != 1 + len(self.network.elements):
            self.weights = self.network.drawn({})

    def _network(self, topology: Topology, outcome: Answer) -> Network:
        plant = self.plant
        return Network(topology, outcome, self.service, plant.built.wires, plant.plugged)

    def without_bond(self, bond: str) -> Network:
        """The wires as they are, one bond's link parted."""
        topology = self.plant.topology
        left = tuple(other for other in topology.bonds if other.id != bond)
        parted = replace(topology, bonds=left)
        return self._network(parted, answer(parted, self.outcome.state))

    def _volts(self, name: str) -> float:
        """The voltage at an element, as a share of its nominal."""
        element = self.network.elements.get(name)
        if element is None:
            return 0.0
        a, b, _ = element.pairs[0]
        return abs(self.network.volts_between(a, b if b >= 0 else None, self.weights)) / element.usual_v

    def _draws(self) -> dict[str, complex]:
        """What every element draws now, kW (kvar as the imaginary part); feeding is below 0."""
        plant, drawn = self.plant, {}
        for circuit in plant.job.circuits:
            if plant.running[circuit.id]:
                for name in (circuit.id, f"{circuit.id} 2"):
                    share = self._volts(name)
                    if share > LOW_V_SHARE:
                        drawn[name] = self._load(circuit, share) / share
                        break
        for name, kw in plant.plugged_kw.items():
            drawn[name] = complex(kw * self._volts(name))
        for unit in plant.units.values():
            if unit.ac_kw and unit.mode in ("grid", "generator", "follows"):
                share = self._volts(unit.id)
                drawn[unit.id] = complex(-unit.ac_kw / share if share > LOW_V_SHARE else 0.0)
        return drawn

    def _load(self, circuit: Circuit, share: float) -> complex:
        """A heater draws by the square of the voltage, a vehicle what it is told, others their power."""
        kw = circuit.running_w / 1000 * (share**2 if circuit.kind == "heating" else 1.0)
        if (told_a := self.plant.told_a.get(circuit.id)) is not None:
            element = self.network.elements[circuit.id]
            kva = told_a * element.usual_v * len(element.pairs) * share / 1000
            kw = min(kw, kva * circuit.power_factor)
        return complex(kw, kw * math.tan(math.acos(circuit.power_factor)))

    def taken_kw(self) -> float:
        """What all circuits that run and are fed take."""
        total = 0.0
        for circuit in self.plant.job.circuits:
            if self.plant.running[circuit.id]:
                share = max(self._volts(circuit.id), self._volts(f"{circuit.id} 2"))
                total += self._load(circuit, share).real if share > LOW_V_SHARE else 0.0
        return total + sum(kw * self._volts(name) ** 2 for name, kw in self.plant.plugged_kw.items())

    # --- a second ----------------------------------------------------------------------------------------
    def step(self, outcome: Answer, seconds: float) -> None:
        """Let a second pass."""
        self._settle(outcome)
        units = self.plant.units
        self.weights = self.network.drawn(self._draws())
        for group in self.groups:
            self._beside_the_grid(group, [units[name] for name in group.units], seconds)
        self._by_generators([unit for unit in units.values() if unit.mode == "generator"], seconds)
        self._alone(outcome, seconds)
        for unit in units.values():
            if unit.mode == "off":
                unit.rest(seconds)
        self.weights = self.network.drawn(self._draws())
        self._read()

    def _read(self) -> None:
        network = self.network
        self.site_kw = sum(
            network.given_kw(source.part, self.weights)
            for source in network.topology.sources
            if source.kind == GRID
        )
        self.plant.meters.read(self._rows, self.weights)

    def _beside_the_grid(self, group: Led, units: list[PlantUnit], seconds: float) -> None:
        """Units that keep a limit together share what their transformer sees, by their size."""
        here = [unit for unit in units if unit.mode == "grid"]
        size = sum(self.rated[unit.id] for unit in here)
        seen = self.seen_kw(group)
        lost = group.ct is not None and seen is None
        takes = None if seen is None else seen + sum(unit.ac_kw for unit in here)
        for unit in here:
            minute = self._device_minute(unit)
            if lost:
                self._without_its_meter(unit, seconds)
            elif unit.settings.serves == "own port" and unit.sheet.transfer and self._knows(unit):
                unit.with_the_grid(seconds, self.behind_kw(unit.id), minute)
            else:
                share = self.rated[unit.id] / size
                unit.with_the_grid(seconds, None if takes is None else takes * share, minute, share)

    def _knows(self, unit: PlantUnit) -> bool:
        """Whether it was told that it serves its own port only: fresh from its box it follows its meter."""
        return self.plant.job.unit(unit.id).serves == "own port"

    def seen_kw(self, group: Led) -> float | None:
        """What the transformer of a group shows, import above 0."""
        if group.ct is None:
            return None
        channels = self.plant.meters.of(group.ct.id)
        return None if channels is None else sum(channels.values())

    def _without_its_meter(self, unit: PlantUnit, seconds: float) -> None:
        """Its meter is lost: it stops what could go out, unless it is of those that go on."""
        goes_on = unit.sheet.on_meter_loss == "export goes on" or "meter-lost" in self.plant.faults
        if goes_on:
            unit.with_the_grid(seconds, max(unit.ac_kw, 0.5 * unit.sheet.rated_kw), 0.0)
        else:
            unit.rest(seconds)

    def behind_kw(self, name: str) -> float:
        """What hangs on a unit's own port: what passes through it from its grid side, and what it gives."""
        ports = self.plant.topology.unit(name)
        way = self.outcome.settled.settings.get(mode_key(name))
        total = self.plant.units[name].ac_kw
        if way != "grid":
            return total
        for conductor in self.plant.topology.conductors:
            if conductor.b == ports.grid:
                total += self.passing_kw(conductor)
        return total

    def passing_kw(self, conductor: Conductor) -> float:
        """What passes a conductor from its first end to its second."""
        network, total = self.network, 0.0
        neutral = network.node(conductor.b, NEUTRAL)
        for core in conductor.cores:
            if core not in QUIET:
                volts = network.volts_between(network.node(conductor.b, core), neutral, self.weights)
                amps = network.amps_of(conductor.id, core, self.weights)
                total += (volts * amps.conjugate()).real / 1000
        return total

    def _by_generators(self, units: list[PlantUnit], seconds: float) -> None:
        """Units share what the generators have left beside the circuits."""
        if not units:
            return
        running = [
            generator for generator in self.plant.generators.values() if generator.position == "running"
        ]
        usable = sum(generator.part.usable_kw for generator in running)
        loads = self.generators_kw() + sum(unit.ac_kw for unit in units)
        left = max(0.0, usable - loads) / len(units)
        each = min([left, *(generator.part.charger_kw for generator in running if generator.part.charger_kw)])
        for unit in units:
            unit.by_generator(seconds, each)

    def _alone(self, outcome: Answer, seconds: float) -> None:
        """Islands: what makes one gives what the wires ask, what follows yields by frequency."""
        units = self.plant.units
        if id(outcome) not in self._islands:
            self._islands[id(outcome)] = islands(self.plant.topology, outcome)
        for island in self._islands[id(outcome)]:
            leads = [units[name] for name in island.forming]
            follow = [units[name] for name in island.following]
            gives = {unit.id: self.network.given_kw(unit.id, self.weights) for unit in leads}
            load = sum(gives.values()) + sum(unit.ac_kw for unit in follow)
            room = sum(unit.room_kw() for unit in leads)
            wish = sum(unit.pv_there_kw for unit in follow)
            for unit in follow:
                most = max(0.0, load + room) * (unit.pv_there_kw / wish if wish > 0 else 0.0)
                yields = unit.sheet.frequency_curtailment is not False
                unit.following(seconds, most if yields else unit.sheet.rated_kw)
            for unit in leads:
                if unit.tripped:
                    unit.rest(seconds, still=False)
                else:
                    unit.leading(seconds, gives[unit.id])

    def _device_minute(self, unit: PlantUnit) -> float:
        shown = self.plant.device_clock(unit.id)
        return shown.hour * 60 + shown.minute + shown.second / 60

    def generators_kw(self) -> float:
        """What the generators give now."""
        return sum(self.network.given_kw(name, self.weights) for name in self.plant.generators)

    def alive(self, circuit: str) -> bool:
        """Whether a circuit has its volts: one that is drawn as fed may lie on a parted neutral."""
        return max(self._volts(circuit), self._volts(f"{circuit} 2")) > LOW_V_SHARE

    # --- what is asked -----------------------------------------------------------------------------------
    def supply_v(self) -> float:
        """The voltage of the first leg at the main isolator's supply side; of an island at its unit."""
        leg = self.plant.job.site.phases[0]
        if self.plant.grid_present:
            at = ("main-isolator", "line")
            if (node := self.network.node(at, leg)) is not None:
                return abs(self.network.volts_between(node, self.network.node(at, NEUTRAL), self.weights))
        leading = [unit for unit in self.plant.units.values() if unit.mode == "island" and not unit.tripped]
        return self.nominal_v if leading else 0.0

    def leg_volts(self) -> Mapping[str, float]:
        """Each leg to neutral at the main isolator's supply side."""
        at = ("main-isolator", "line")
        neutral = self.network.node(at, NEUTRAL)
        return {
            leg: abs(self.network.volts_between(self.network.node(at, leg), neutral, self.weights))
            for leg in self.plant.job.site.phases
            if self.network.node(at, leg) is not None
        }
