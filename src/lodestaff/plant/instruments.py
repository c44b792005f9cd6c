"""The instruments of a simulated visit: what a tester would show at the simulated site, with its own
noise."""

from lodestaff.plant.site import Plant
from lodestaff.quantities.errors import JobError

VOLT_SHARE, AMP_SHARE, SUN_SHARE, CLAMP_SHARE = (
    0.003,
    0.006,
    0.015,
    0.01,
)  # spread of an ordinary instrument; common practice

ELECTRODE_SHARE = 0.3  # of the most that the pack allows, where none was measured


class Instruments:
    """Readings by hand. Each takes a moment of the instrument's own spread."""

    def __init__(self, plant: Plant, seed: int = 1) -> None:
        import numpy as np

        self.plant = plant
        self._random = np.random.default_rng([seed, 3])

    def _spread(self, value: float, share: float) -> float:
        return value * (1 + share * float(self._random.uniform(-1, 1)))

    def conditions(self, string: str) -> tuple[float, float]:
        """Irradiance on a string's plane in W/m² and the temperature at the back of its modules in °C."""
        return self.face_conditions(self.plant.strings[string].parts[0][0])

    def string_voc_v(self, string: str) -> float:
        """At the isolator; behind optimisers that were not released about a volt for each."""
        built = next(each for each in self.plant.job.strings if each.id == string)
        if self.plant.job.optimisers_on(built) == "all":
            count = sum(number for *_, number in self.plant.strings[string].parts)
            return count * float(self._random.uniform(0.92, 1.1))
        return self._spread(self.plant.curve_of(string).voc_v, VOLT_SHARE)

    def module_voc_v(self, string: str, face: str) -> float:
        """Of one module on a face, before it is plugged in."""
        return self._spread(self.plant.module_voc_v(string, face), VOLT_SHARE)

    def face_conditions(self, face: str) -> tuple[float, float]:
        """Irradiance on a face in W/m² and the temperature at the back of its modules in °C."""
        sun = self._spread(self.plant.poa_w_m2[face], SUN_SHARE)
        return sun, self.plant.back_c[face] + float(self._random.uniform(-0.8, 0.8))

    def string_isc_a(self, string: str) -> float:
        return self._spread(self.plant.curve_of(string).isc_a, AMP_SHARE)

    def insulation_mohm(self, string: str) -> float:
        if string not in self.plant.strings:
            raise JobError(f"no string {string!r}", "plant", f"choose from {', '.join(self.plant.strings)}")
        return float(self._random.uniform(40, 400))

    def battery_v(self, unit: str) -> float:
        battery = self.plant.units[unit].battery
        if battery is None:
            raise JobError(f"{unit} has no battery", "plant", "measure another unit")
        return self._spread(battery.volts, VOLT_SHARE)

    def island_loop_ohm(self, unit: str) -> float:
        """Line to earth on a unit's island: low where its bond closes the loop, without bound where none
        does."""
        plant = self.plant
        relay_fails = "bond-open" in plant.faults and plant.units[unit].mode == "island"
        networks = plant.answer().networks
        bonded = bool(networks) and all(network.bonds for network in networks) and not relay_fails
        return float(self._random.uniform(0.3, 1.4) if bonded else self._random.uniform(900, 2000))

    def supply_v(self) -> float:
        """Voltage at the main isolator's supply side."""
        return self._spread(self.plant.supply_v(), VOLT_SHARE) if self.plant.grid_present else 0.0

    def clamp_kw(self) -> float:
        """What all circuits that run take, by clamp meter."""
        return self._spread(self.plant.taken_kw(), CLAMP_SHARE)

    def transfer_s(self, unit: str) -> float:
        """How long the essential board was dark when the grid went."""
        return self._spread(self.plant.units[unit].sheet.transfer_s, 0.2)

    def dead_circuits(self) -> tuple[str, ...]:
        """Circuits without voltage."""
        return tuple(name for name, sources in self.plant.answer().fed.items() if not sources)

    def electrode_ohm(self) -> float:
        """Resistance of the electrode at the unit."""
        pack = self.plant.job.pack
        usual = ELECTRODE_SHARE * pack.value("island_electrode_max_ohm").value
        return self._spread(self.plant.job.site.supply.electrode_ohm.value or usual, 0.05)

    def bonding_ohm(self) -> float:
        """Highest resistance of a main bonding conductor."""
        return float(self._random.uniform(0.01, 0.035))
