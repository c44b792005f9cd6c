"""One day's flows as people read them: what comes in above a line, where it goes below it."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY, Floats, Ints, month_of_step
from lodestaff.energy.dispatch import Converter, Year, unit_arrays


@dataclass(frozen=True)
class DayFlows:
    """From noon to noon, shape (96,) each, kW. sun + battery_out + imported = circuits + into_battery +
    exported."""

    start_step: int
    sun: Floats
    battery_out: Floats
    imported: Floats
    circuits: Floats
    into_battery: Floats
    exported: Floats
    lost: Floats
    soc: Floats
    summer_time: bool  # whether household clocks are an hour ahead at midnight

    def at(self, hour: float) -> int:
        """The index of an hour of the day (standard time) in the noon-to-noon day."""
        return int(((hour - 12) % 24) / STEP_H) % STEPS_PER_DAY


def day_flows(year: Year, converters: tuple[Converter, ...], day: int, summer_time: bool) -> DayFlows:
    """Flows of all units and phases together from noon of a day (counted from 0) to noon of the next."""
    return _flows(year, converters, np.array([day]), summer_time)


def mean_flows(year: Year, converters: tuple[Converter, ...], month: int, summer_time: bool) -> DayFlows:
    """The mean of all days of a month (1 to 12), each from noon to noon."""
    days = np.flatnonzero(month_of_step()[::STEPS_PER_DAY] == month - 1)
    return _flows(year, converters, days, summer_time)


def _flows(year: Year, converters: tuple[Converter, ...], days: Ints, summer_time: bool) -> DayFlows:
    """The mean of some days."""
    start = days * STEPS_PER_DAY + STEPS_PER_DAY // 2
    steps = (start[:, None] + np.arange(STEPS_PER_DAY)) % STEPS  # (day, step of the day)
    series, units = year.series, unit_arrays(converters)

    def mean(of_days: Floats) -> Floats:
        return np.asarray(of_days.sum(axis=0).mean(axis=0))

    def total(values: Floats) -> Floats:
        return mean(values[:, steps])

    ac = series.pv_ac_kw[:, steps]
    k1, k2 = units.k1[:, None, None], units.k2[:, None, None]
    stored = mean(np.clip(series.pv_dc_kw[:, steps] - (ac + k1 * ac + k2 * ac**2), 0, None))
    grid, battery, island = year.metered_kw[:, steps], series.battery_ac_kw[:, steps], year.island
    drawn = total(year.load_kw) + total(year.own_use_kw)
    capacity = sum(c.battery.capacity_kwh for c in converters if c.battery)

    def alone(values: Floats) -> Floats:
        return np.asarray(values[steps].mean(axis=0))

    return DayFlows(
        start_step=int(start[0] % STEPS),
        sun=total(series.pv_ac_kw) + stored,
        battery_out=mean(np.clip(battery, 0, None)),
        imported=mean(np.clip(grid, 0, None)) if island is None else alone(island.generator_kw),
        circuits=drawn if island is None else drawn - alone(island.unserved_kw),
        into_battery=stored + mean(np.clip(-battery, 0, None)),
        exported=mean(np.clip(-grid, 0, None)) if island is None else np.zeros(STEPS_PER_DAY),
        lost=total(series.curtailed_kw) + total(series.clipped_kw),
        soc=total(series.energy_kwh) / capacity if capacity > 0 else np.zeros(STEPS_PER_DAY),
        summer_time=summer_time,
    )
