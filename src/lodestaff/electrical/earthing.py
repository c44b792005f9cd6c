"""Earthing and disconnection: rods, touch voltage, residual-current devices, fault loops, adiabatic sizes."""

import math
from dataclasses import dataclass

RODS_IN_LINE = {1: 0.0, 2: 1.0, 3: 1.66}  # lambda of BS 7430 for rods in a line (from memory)
TRIP_MULTIPLE = {"B": 5.0, "C": 10.0, "D": 20.0}  # IEC 60898 instantaneous trip bands, upper ends
# Longest break times in s from multiples of the rated residual current: IEC 61008-1 (from memory).
BREAK_TIMES = {"general": ((5.0, 0.04), (2.0, 0.15), (1.0, 0.3)), "S": ((5.0, 0.15), (2.0, 0.2), (1.0, 0.5))}
TEMPERATURE_FACTOR = 1.2  # conductors at 70 °C against 20 °C
MEASURED_SHARE = 0.8  # a loop measured cold against the limit hot; common practice


def rod_ohm(
    rho_ohm_m: float, length_m: float, diameter_m: float, rods: int = 1, spacing_m: float | None = None
) -> float:
    """Resistance of one to three rods in a line. Source: BS 7430 (formula; lambda from memory).

    R = rho/(2 pi L) (ln(8 L/d) - 1); Rn = R (1 + lambda a)/n with a = rho/(2 pi R s).
    """
    if rods not in RODS_IN_LINE:
        raise ValueError(f"1 to 3 rods in a line are known, not {rods}")
    r = rho_ohm_m / (2 * math.pi * length_m) * (math.log(8 * length_m / diameter_m) - 1)
    if rods == 1:
        return r
    if spacing_m is None:
        raise ValueError("several rods need their spacing")
    a = rho_ohm_m / (2 * math.pi * r * spacing_m)
    return r * (1 + RODS_IN_LINE[rods] * a) / rods


@dataclass(frozen=True)
class TtFault:
    """A fault to earth on a TT system: touch voltage at the rated residual current, and the break time."""

    touch_v: float
    ra_max_ohm: float
    fault_a: float
    multiple: float
    break_s: float | None


def tt_fault(
    ra_ohm: float, idn_a: float, u0_v: float, touch_limit_v: float = 50.0, kind: str = "general"
) -> TtFault:
    """Ra Idn <= 50 V; the device's longest break time at the fault current it sees, None where it may not
    trip.

    Source: IEC 60364-4-41 clause 411.5.3; IEC 61008-1 break times (from memory).
    """
    fault = u0_v / ra_ohm
    multiple = fault / idn_a
    break_s = next((seconds for least, seconds in BREAK_TIMES[kind] if multiple >= least), None)
    return TtFault(ra_ohm * idn_a, touch_limit_v / idn_a, fault, multiple, break_s)


@dataclass(frozen=True)
class Loop:
    """An earth fault loop against its device."""

    zs_ohm: float
    zs_max_ohm: float
    measured_cold_ohm: float
    measured_limit_ohm: float
    fault_a: float

    @property
    def disconnects(self) -> bool:
        return self.zs_ohm <= self.zs_max_ohm


def fault_loop(
    ze_ohm: float,
    r1_mohm_per_m: float,
    r2_mohm_per_m: float,
    length_m: float,
    u0_v: float,
    cmin: float,
    in_a: float,
    multiple: float,
) -> Loop:
    """Zs = Ze + (R1 + R2) L x 1.2 against U0 Cmin / Ia, Ia the device's multiple of In.

    Source: BS 7671 411.4, IEC 60898 trip bands (from memory).
    """
    cold = (r1_mohm_per_m + r2_mohm_per_m) * length_m / 1000
    zs = ze_ohm + TEMPERATURE_FACTOR * cold
    most = u0_v * cmin / (multiple * in_a)
    return Loop(zs, most, ze_ohm + cold, MEASURED_SHARE * most, u0_v / zs)


def adiabatic_mm2(current_a: float, seconds: float, k: float) -> float:
    """Least protective conductor: S = sqrt(I² t)/k. Source: IEC 60364-5-54 543.1.2."""
    return math.sqrt(current_a**2 * seconds) / k
