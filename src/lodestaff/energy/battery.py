"""What a bank of battery modules holds, and what its parts are for."""

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
        usable,
        cycling,
        reserve,
        usable * eta_discharge,
        cycling * eta_discharge,
        reserve * eta_discharge,
    )
