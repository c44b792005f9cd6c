"""The instruments of a simulated visit: what a tester would show at the simulated site, with its own
noise."""

from lodestaff.plant.network import OPEN_OHM
from lodestaff.plant.site import Plant
from lodestaff.quantities.errors import JobError
from lodestaff.topology.model import NEUTRAL, QUIET

VOLT_SHARE, AMP_SHARE, SUN_SHARE, CLAMP_SHARE = (
    0.003,
    0.006,
    0.015,
    0.01,
)  # spread of an ordinary instrument; common practice

ELECTRODE_SHARE = 0.3  # of the most that the pack allows, where none was measured
POOR = 1.6  # of the most, of an electrode that doesn't reach moist ground
LEAK_A = 0.02  # what a clamp around all conductors shows of healthy loads


class Instruments:
    """Readings by hand. Each takes a moment of the instrument's own spread."""

    def __init__(self, plant: Plant, seed: int = 1) -> None:
        import numpy as np

        self.plant = plant
        self._random = np.random.default_rng([seed, 3])

    def _spread(self, value: float, share: float) -> float:
        return value * (1 + share * float(self._random.uniform(-1, 1)))

    # --- sun ---------------------------------------------------------------------------------------------
    def conditions(self, string: str) -> tuple[float, float]:
        """Irradiance on a string's plane in W/m² and the temperature at the back of its modules in °C."""
        return self.face_conditions(self.plant.strings[string].parts[0][0])

    def face_conditions(self, face: str) -> tuple[float, float]:
        """Irradiance on a face in W/m² and the temperature at the back of its modules in °C."""
        sun = self._spread(self.plant.poa_w_m2[face], SUN_SHARE)
        return sun, self.plant.back_c[face] + float(self._random.uniform(-0.8, 0.8))

    def string_voc_v(self, string: str) -> float:
        """At the isolator, plus to plus; behind optimisers that were not released their volts at rest."""
        plant = self.plant
        built_string = plant.strings[string]
        if built_string.broken:
            return self._spread(0.4, 0.5)
        sign = -1.0 if built_string.reversed else 1.0
        safe = plant.safe_v(string)
        if safe is None:
            return sign * self._spread(plant.curve_of(string).voc_v, VOLT_SHARE)
        bare = sum(
            count * plant.module_voc_v(string, face)
            for place, (face, _, count) in enumerate(built_string.parts)
            if place not in built_string.freed
        )
        resting = sum(
            count for place, (*_, count) in enumerate(built_string.parts) if place in built_string.freed
        )
        return sign * (
            self._spread(bare, VOLT_SHARE) + resting * safe * float(self._random.uniform(0.92, 1.1))
        )

    def module_voc_v(self, string: str, face: str) -> float:
        """Of one module on a face, before it is plugged in."""
        return self._spread(self.plant.module_voc_v(string, face), VOLT_SHARE)

    def string_isc_a(self, string: str) -> float:
        built_string = self.plant.strings[string]
        return 0.0 if built_string.broken else self._spread(self.plant.curve_of(string).isc_a, AMP_SHARE)

    def insulation_mohm(self, string: str) -> float:
        if string not in self.plant.strings:
            raise JobError(f"no string {string!r}", "plant", f"choose from {', '.join(self.plant.strings)}")
        return float(self._random.uniform(40, 400))

    def reporting(self, unit: str) -> int:
        """How many modules of a branch report power."""
        watts = self.plant.units[unit].modules_w.values()
        return sum(value > 1.0 for each in watts for value in each)

    def array_v(self, unit: str) -> float:
        """The highest volts on the conductors of a unit's array off the roof, as its devices stand."""
        plant = self.plant
        off = [name for name in plant.shutdown_parts(unit) if plant.answer().positions.get(name) == "open"]
        strings = [s.id for s in plant.job.strings if s.unit == unit and s.id in plant.strings]
        if off or not strings:
            return float(self._random.uniform(0.5, 8.0))
        return max(self._spread(plant.curve_of(name).voc_v, VOLT_SHARE) for name in strings)

    # --- batteries ---------------------------------------------------------------------------------------
    def battery_v(self, unit: str) -> float:
        battery = self.plant.units[unit].battery
        if battery is None:
            raise JobError(f"{unit} has no battery", "plant", "measure another unit")
        return self._spread(battery.volts, VOLT_SHARE)

    def battery_kw(self, unit: str) -> float:
        """What goes into or out of a battery, by its clamp."""
        battery = self.plant.units[unit].battery
        return self._spread(abs(battery.power_kw), CLAMP_SHARE) if battery is not None else 0.0

    # --- volts -------------------------------------------------------------------------------------------
    def supply_v(self) -> float:
        """Voltage at the main isolator's supply side: of several legs the farthest from the nominal."""
        plant = self.plant
        if not plant.grid_present:
            return 0.0
        nominal = plant.job.pack.value("nominal_v").value
        legs = plant.wires.leg_volts() or {"": plant.supply_v()}
        return self._spread(max(legs.values(), key=lambda volts: abs(volts - nominal)), VOLT_SHARE)

    def between_legs_v(self) -> float:
        """Voltage between two legs at the main isolator's supply side, the farthest from usual."""
        wires, legs = self.plant.wires, self.plant.job.site.phases
        nodes = [wires.network.node(("main-isolator", "line"), leg) for leg in legs]
        pairs = [
            abs(wires.network.volts_between(a, b, wires.weights))
            for place, a in enumerate(nodes)
            for b in nodes[place + 1 :]
        ]
        usual = sum(pairs) / len(pairs)
        return self._spread(max(pairs, key=lambda volts: abs(volts - usual)), VOLT_SHARE)

    def same_leg_v(self, unit: str) -> float:
        """The highest voltage from a leg at a unit's terminals to the same leg at the main isolator."""
        wires, port = self.plant.wires, self.plant.topology.unit(unit)
        volts = [0.0]
        for leg in port.legs:
            here, there = (
                wires.network.node(port.grid, leg),
                wires.network.node(("main-isolator", "line"), leg),
            )
            if here is not None and there is not None:
                volts.append(abs(wires.network.volts_between(here, there, wires.weights)))
        return max(volts) + float(self._random.uniform(0, 0.4))

    def board_v(self, board: str) -> float:
        """Voltage at a board, line to neutral, the lowest leg."""
        wires = self.plant.wires
        cores = wires.network.graph.cores_at((board, "out"))
        legs = [core for core in cores if core in wires.network.phasor]
        volts = [
            abs(wires.network.volts_between(cores[leg], cores.get(NEUTRAL), wires.weights)) for leg in legs
        ]
        return self._spread(min(volts, default=0.0), VOLT_SHARE)

    # --- bonds and loops ---------------------------------------------------------------------------------
    def neutral_earth_ohm(self, board: str, parted: str = "") -> float:
        """Resistance from a board's neutral to earth, the site dead, one bond's link parted."""
        network = self.plant.wires.without_bond(parted) if parted else self.plant.wires.network
        ohms = network.ohms(network.node((board, "out"), NEUTRAL), None)
        return OPEN_OHM if ohms >= OPEN_OHM / 2 else self._spread(ohms, 0.1)

    def island_loop_ohm(self, unit: str, board: str = "") -> float:
        """Line to earth on a unit's island: low where a bond closes the loop, else beyond range."""
        network, port = self.plant.wires.network, self.plant.topology.unit(unit)
        at = (board, "out") if board else port.out
        cores = network.graph.cores_at(at)
        leg = next((core for core in (*port.legs, *cores) if core in cores and core in network.phasor), None)
        if leg is None:
            return OPEN_OHM
        ohms = network.ohms(cores[leg], None)
        return OPEN_OHM if ohms >= OPEN_OHM / 2 else ohms + float(self._random.uniform(0.1, 0.5))

    def residual_a(self, conductor: str) -> float:
        """A clamp around all live conductors of a cable together."""
        wires = self.plant.wires
        cores = wires.network.topology.conductor(conductor).cores
        total = sum(wires.network.amps_of(conductor, core, wires.weights) for core in cores if core != "PE")
        return abs(total) + float(self._random.uniform(0, LEAK_A))

    def earth_loop_ohm(self) -> float:
        """Earth fault loop at the supply side of the main isolator."""
        network, leg = self.plant.wires.network, self.plant.job.site.phases[0]
        return self._spread(network.ohms(network.node(("main-isolator", "line"), leg), None), 0.02)

    def fault_current_ka(self) -> float:
        """The larger prospective fault current at the main isolator, line to neutral or to earth."""
        network, leg = self.plant.wires.network, self.plant.job.site.phases[0]
        line, neutral = (network.node(("main-isolator", "line"), core) for core in (leg, NEUTRAL))
        least = min(network.ohms(line, neutral), network.ohms(line, None))
        return self._spread(self.plant.supply_v() / least / 1000, 0.03)

    def rcd_ms(self) -> float:
        return float(self._random.uniform(18, 70))

    def ac_insulation_mohm(self) -> float:
        return float(self._random.uniform(60, 500))

    # --- clamps ------------------------------------------------------------------------------------------
    def clamp_kw(self, ct: str = "", leg: str = "") -> float:
        """What passes where a transformer ought to sit, on a leg or their sum; without one all circuits."""
        wires, topology = self.plant.wires, self.plant.drawn
        transformer = next((each for each in topology.cts if each.id == ct), None)
        if transformer is None:
            return self._spread(self.plant.taken_kw(), CLAMP_SHARE)
        total = 0.0
        for name in transformer.conductors:
            conductor = topology.conductor(name)
            for core in conductor.cores:
                counted = not transformer.phases or core in transformer.phases
                if core in QUIET or not counted or (leg and core != leg):
                    continue
                at = wires.network.node(conductor.a, core)
                volts = wires.network.volts_between(
                    at, wires.network.node(conductor.a, NEUTRAL), wires.weights
                )
                amps = wires.network.amps_of(name, core, wires.weights)
                total += (volts * amps.conjugate()).real / 1000
        return self._spread(total, CLAMP_SHARE)

    def earth_a(self, part: str) -> float:
        """A clamp on the earthing conductor of a device: what comes back by the bonds that sit in it."""
        wires = self.plant.wires
        own = [bond.id for bond in wires.network.closed_bonds() if bond.at[0] == part]
        amps = sum(wires.network.bond_a(name, wires.weights) for name in own)
        return amps + float(self._random.uniform(0, LEAK_A))

    def feed_kw(self, conductor: str) -> float:
        """What passes a cable, by clamp meter on its line conductors."""
        wires = self.plant.wires
        cores = wires.network.topology.conductor(conductor).cores
        amps = sum(
            abs(wires.network.amps_of(conductor, core, wires.weights)) for core in cores if core not in QUIET
        )
        return self._spread(amps * self.plant.job.pack.value("nominal_v").value / 1000, CLAMP_SHARE)

    def circuit_a(self, circuit: str) -> float:
        """The current of a circuit's highest conductor, by clamp meter."""
        wires, highest = self.plant.wires, 0.0
        for conductor in wires.network.topology.conductors:
            if conductor.b[0] == f"circuit-{circuit}":
                for core in conductor.cores:
                    if core not in QUIET:
                        highest = max(highest, abs(wires.network.amps_of(conductor.id, core, wires.weights)))
        return self._spread(highest, CLAMP_SHARE)

    def meter_kw(self, meter: str) -> float:
        """What passes a meter from its line side to its load side."""
        wires = self.plant.wires
        into = next(c for c in wires.network.topology.conductors if c.a[0] == meter)
        return wires.passing_kw(into)

    def supply_kw(self) -> float:
        """What passes the tails, import above 0, by clamp meter."""
        return self._spread(self.plant.site_kw, CLAMP_SHARE)

    def generator_kw(self) -> float:
        """What the generators give, by clamp meter."""
        return self._spread(self.plant.wires.generators_kw(), CLAMP_SHARE)

    # --- other -------------------------------------------------------------------------------------------
    def transfer_s(self, unit: str) -> float:
        """How long the essential board was dark when the grid went: what the unit takes, or the gateway
        ahead of it."""
        job, sheet = self.plant.job, self.plant.units[unit].sheet
        gateways = (part.sheet for part in job.parts if part.kind == "gateway" and not sheet.transfer)
        times = [job.sheets.gateways[name].transfer_s for name in gateways if name]
        return self._spread(next((time for time in times if time), sheet.transfer_s), 0.2)

    def dead_circuits(self) -> tuple[str, ...]:
        """Circuits without voltage: a borrowed neutral that is parted leaves none either."""
        answer = self.plant.answer()
        return tuple(
            name for name, sources in answer.fed.items() if not sources or not self.plant.wires.alive(name)
        )

    def electrode_ohm(self, part: str = "") -> float:
        """Resistance of an electrode."""
        plant = self.plant
        pack = plant.job.pack
        most = pack.value("island_electrode_max_ohm").value
        own = next((p for p in plant.job.parts if p.kind == "electrode" and p.id == part), None)
        known = (own.ohm.value if own is not None else None) or plant.job.site.supply.electrode_ohm.value
        ohm = POOR * most if "electrode-poor" in plant.faults else known or ELECTRODE_SHARE * most
        return self._spread(ohm, 0.05)

    def bonding_ohm(self) -> float:
        """Highest resistance of a main bonding conductor."""
        return float(self._random.uniform(0.01, 0.035))
