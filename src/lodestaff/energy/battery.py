"""What a bank of battery modules holds, and what its parts are for."""

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class BankEnergies:
    """Energies of a bank in kWh: at the cells, and as AC after discharge losses.

    usable: top to floor; cycling: top to reserve, for every day; reserve: kept for outages.
    """

    nominal_kwh: float
    capacity_kwh: float
    usable_kwh: float
    cycling_kwh: float
    reserve_kwh: float
    usable_ac_kwh: float
    cycling_ac_kwh: float
    reserve_ac_kwh: float


def bank_energies(
    nominal_kwh: float,
    state_of_health: float,
    floor_soc: float,
    top_soc: float,
    reserve_soc: float,
    eta_discharge: float,
) -> BankEnergies:
    """Split a bank's energy. Shares are of the capacity at the present state of health (common practice).

    capacity = nominal x health; usable = capacity x (top - floor); AC = DC x efficiency.
    """
    capacity = nominal_kwh * state_of_health
    usable, cycling, reserve = (
        capacity * share for share in (top_soc - floor_soc, top_soc - reserve_soc, reserve_soc - floor_soc)
    )
    return BankEnergies(
        nominal_kwh,
        capacity,
        usable_kwh=usable,
        cycling_kwh=cycling,
        reserve_kwh=reserve,
        usable_ac_kwh=usable * eta_discharge,
        cycling_ac_kwh=cycling * eta_discharge,
        reserve_ac_kwh=reserve * eta_discharge,
    )


def ac_kw(dc_kw: float, k1: float, k2: float) -> float:
    """AC power that a DC power gives through an inverter whose loss is k1 P + k2 P², kW. Derived."""
    b = 1.0 + k1
    return 2.0 * dc_kw / (b + math.sqrt(b * b + 4.0 * k2 * dc_kw))


@dataclass(frozen=True)
class BatteryCurrent:
    """Current at the lowest battery voltage, A; the fuse is the next standard size, None above all sizes."""

    current_a: float
    design_a: float
    fuse_a: float | None


def battery_current(
    p_ac_w: float, v_min: float, eta: float, margin: float, sizes_a: tuple[float, ...]
) -> BatteryCurrent:
    """I = P/(V eta); design = margin x I; fuse = next size at or above it. Derived."""
    current = p_ac_w / (v_min * eta)
    design = margin * current
    return BatteryCurrent(current, design, next((size for size in sorted(sizes_a) if size >= design), None))


def charge_hours(
    capacity_kwh: float,
    start_soc: float,
    stop_soc: float,
    taper_soc: float,
    power_kw: float,
    end_share: float,
) -> float:
    """Hours to charge with constant power to the taper, then falling in a straight line to a share at full.

    t = E (1 - st)/(P0 - P1) ln(P0/P(s)) beyond the taper; no end where the power falls to nothing. Derived
    (linear taper: simplified model).
    """
    flat = max(0.0, min(stop_soc, taper_soc) - start_soc) * capacity_kwh / power_kw
    if stop_soc <= taper_soc:
        return flat
    if end_share >= 1 or taper_soc >= 1:
        return flat + (stop_soc - max(start_soc, taper_soc)) * capacity_kwh / power_kw
    fall = power_kw * (1 - end_share)

    def power(soc: float) -> float:
        return power_kw - fall * (soc - taper_soc) / (1 - taper_soc)

    first, last = power(max(start_soc, taper_soc)), power(stop_soc)
    if last <= 0:
        return math.inf  # a power that falls to nothing never fills it
    return flat + capacity_kwh * (1 - taper_soc) / fall * math.log(first / last)
