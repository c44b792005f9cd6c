"""What an instrument should read, computed from the design for the conditions that were measured."""

from dataclasses import dataclass

from lodestaff.catalogue import ModuleSheet
from lodestaff.electrical.strings import at_temperature

STC_W_M2 = 1000.0
DC_DERATE = 0.965  # wiring, mismatch and dirt of a clean new array; common practice


@dataclass(frozen=True)
class InsulationTest:
    """Test voltage in V and least resistance in Mohm of an array's insulation test."""

    system_v: float
    test_v: float
    least_mohm: float


def insulation_test(modules: int, voc_stc_v: float) -> InsulationTest:
    """By the string's system voltage, 1.25 x Voc at standard conditions.

    Source: IEC 62446-1 table 1, arrays up to 10 kWp (from memory, the 1.25 too). Electronics and surge
    devices are disconnected first; discharge afterwards.
    """
    system = 1.25 * modules * voc_stc_v
    if system < 120:
        return InsulationTest(system, 250, 0.5)
    return InsulationTest(system, 500, 1.0) if system <= 500 else InsulationTest(system, 1000, 1.0)


@dataclass(frozen=True)
class Conditions:
    """What was measured beside the reading, None where it was not.

    Irradiance on the plane in W/m², module temperature in °C, supply voltage in V, a known load in kW; of a
    second face its own irradiance and temperature. Of a meter, kWh: the register of what came out as it
    was, that of what went in as it was and as it is; what the unit counted meanwhile of sun, of sun into the
    battery, and of all into the battery at its terminals.
    """

    poa_w_m2: float | None = None
    module_c: float | None = None
    voltage_v: float | None = None
    load_kw: float | None = None
    poa_2_w_m2: float | None = None
    module_2_c: float | None = None
    out_from_kwh: float | None = None
    in_from_kwh: float | None = None
    in_to_kwh: float | None = None
    sun_kwh: float | None = None
    sun_stored_kwh: float | None = None
    stored_kwh: float | None = None

    def sun(self) -> tuple[float, float]:
        """Irradiance and module temperature. Raises ValueError where one was not measured."""
        if self.poa_w_m2 is None or self.module_c is None:
            raise ValueError("irradiance and module temperature are needed")
        return self.poa_w_m2, self.module_c


@dataclass(frozen=True)
class Expected:
    """What a reading should be: the value, and the bounds within which it passes (None: no bound)."""

    value: float
    unit: str
    low: float | None
    high: float | None
    source: str
    tolerance_pct: float | None = None


def string_voc(module: ModuleSheet, count: int, conditions: Conditions) -> float:
    """Open-circuit voltage of a string, V. Its fall with irradiance (1 to 2 %) is inside the tolerance.

    Source: IEC 62446-1 string tests.
    """
    _, module_c = conditions.sun()
    return count * at_temperature(module.voc_v, module.beta_pct_per_k, module_c)


def string_isc(module: ModuleSheet, conditions: Conditions) -> float:
    """Short-circuit current of a string, A. Source: IEC 62446-1 string tests."""
    poa_w_m2, module_c = conditions.sun()
    return at_temperature(module.isc_a, module.alpha_isc_pct_per_k, module_c) * poa_w_m2 / STC_W_M2


def ac_power_w(
    p_stc_w: float, gamma_pct_per_k: float, conditions: Conditions, derate: float, eta: float, rated_w: float
) -> float:
    """AC power of an array behind its inverter, W. Source: derived; IEC 62446-1 performance check."""
    return min(array_w(p_stc_w, gamma_pct_per_k, conditions, derate) * eta, rated_w)


def array_w(
    p_stc_w: float, gamma_pct_per_k: float, conditions: Conditions, derate: float = DC_DERATE
) -> float:
    """DC power of an array, W. Source: derived; IEC 62446-1 performance check."""
    poa_w_m2, module_c = conditions.sun()
    return at_temperature(p_stc_w, gamma_pct_per_k, module_c) * poa_w_m2 / STC_W_M2 * derate


def register_kwh(start: float, end: float, rollover: float) -> float:
    """Energy between two readings of a register that rolls over. Common practice."""
    return (end - start) % rollover


def net_generation_kwh(
    out_start: float, out_end: float, in_start: float, in_end: float, rollover: float
) -> tuple[float, float, float]:
    """Behind a hybrid the meter counts both ways: out, in, and generation as out less in. Common practice."""
    out, into = register_kwh(out_start, out_end, rollover), register_kwh(in_start, in_end, rollover)
    return out, into, out - into


@dataclass(frozen=True)
class MeterDay:
    """What a two-way meter at a hybrid counts, kWh; `grid_cycle_loss` is what charging from the grid takes
    off the net."""

    out_kwh: float
    in_kwh: float
    net_kwh: float
    net_without_grid_charge_kwh: float

    @property
    def grid_cycle_loss_kwh(self) -> float:
        return self.net_without_grid_charge_kwh - self.net_kwh


def hybrid_meter_day(
    pv_dc_kwh: float,
    pv_to_battery_dc_kwh: float,
    eta_dcdc: float,
    grid_in_kwh: float,
    eta_grid_charge: float,
    eta_battery: float,
    eta_inverter: float,
) -> MeterDay:
    """A day in which the battery takes sun and grid and gives it all back: out, in, and net. Derived."""

    def out(grid_kwh: float) -> float:
        stored = pv_to_battery_dc_kwh * eta_dcdc + grid_kwh * eta_grid_charge
        return (pv_dc_kwh - pv_to_battery_dc_kwh) * eta_inverter + stored * eta_battery * eta_inverter

    with_grid = out(grid_in_kwh)
    return MeterDay(with_grid, grid_in_kwh, with_grid - grid_in_kwh, out(0.0))
