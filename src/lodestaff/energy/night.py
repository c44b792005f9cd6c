"""The night: what held circuits take of it, and what a bank gives. One definition for checks, proposals and
figures.

Night energy is that of the *set* of circuits, with the units' own use, from late afternoon through the wished
hours, at the pack's percentile of the nights of a month, in the month in which that is most. What stands
against it is the energy above the reserve, less what discharging and inverting it at the night's mean power
takes.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lodestaff.energy.battery import bank_energies
from lodestaff.energy.calendar import STEP_H, STEPS_PER_DAY, month_of_step
from lodestaff.energy.dispatch import Converter

Floats = NDArray[np.float64]
LATE_AFTERNOON_H = 17.0


def evening_need_kwh(held_kw: Floats, hours: float, start_hour: float = LATE_AFTERNOON_H) -> Floats:
    """Energy that a load takes over `hours` from `start_hour` on each day, shape (365,), in kWh."""
    length = round(hours / STEP_H)
    twice = np.concatenate([held_kw, held_kw[: 7 * STEPS_PER_DAY]])
    running = np.concatenate([[0.0], np.cumsum(twice)]) * STEP_H
    starts = np.arange(365) * STEPS_PER_DAY + round(start_hour / STEP_H)
    return np.asarray(running[starts + length] - running[starts])


def by_month(nights: Floats, percentile: float | None = None) -> Floats:
    """One night of each month, shape (12,): the mean, or the one that so many of a hundred stay below."""
    months = month_of_step()[::STEPS_PER_DAY]
    each = [nights[months == month] for month in range(12)]
    return np.array(
        [
            float(np.mean(nights) if percentile is None else np.percentile(nights, percentile))
            for nights in each
        ]
    )


@dataclass(frozen=True)
class Night:
    """The worst month's night of a set of circuits against what stands above the reserve, kWh."""

    needed_kwh: float
    usable_kwh: float
    month: int  # 0 to 11
    hours: float
    percentile: float  # of a hundred nights that need less
    discharge_share: float  # left after discharge and inverter losses

    @property
    def fits(self) -> bool:
        return self.needed_kwh <= self.usable_kwh * (1 + 1e-9)


def night_of(held_kw: Floats, converter: Converter, hours: float, percentile: float) -> Night:
    """The night of a held load, own use included, on a bank. The converter has a battery."""
    needs = by_month(evening_need_kwh(held_kw, hours), percentile)
    month = int(np.argmax(needs))
    share = discharge_share(converter, needs[month] / hours)
    return Night(
        needed_kwh=float(needs[month]),
        usable_kwh=usable_kwh(converter, share),
        month=month,
        hours=hours,
        percentile=percentile,
        discharge_share=share,
    )


def discharge_share(converter: Converter, mean_kw: float) -> float:
    """What is left of the cells' energy at this mean AC power."""
    assert converter.battery is not None
    inverter = (
        mean_kw / (mean_kw + converter.k1 * mean_kw + converter.k2 * mean_kw**2) if mean_kw > 0 else 1.0
    )
    return converter.battery.eta_discharge * inverter


def usable_kwh(converter: Converter, share: float) -> float:
    """Energy above the reserve, as AC, kWh."""
    bank = converter.battery
    assert bank is not None
    return bank_energies(
        nominal_kwh=bank.capacity_kwh,
        state_of_health=1.0,
        floor_soc=bank.floor_soc,
        top_soc=bank.top_soc,
        reserve_soc=bank.reserve_soc,
        eta_discharge=share,
    ).cycling_ac_kwh
