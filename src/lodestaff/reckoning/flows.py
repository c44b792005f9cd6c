"""One day's flows as people read them: what comes in above a line, where it goes below it."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY, Floats
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
    start = day * STEPS_PER_DAY + STEPS_PER_DAY // 2
    steps = np.arange(start, start + STEPS_PER_DAY) % STEPS
    series, units = year.series, unit_arrays(converters)

    def total(values: Floats) -> Floats:
        return np.asarray(values[:, steps].sum(axis=0))

    ac = series.pv_ac_kw[:, steps]
    behind = ac + units.k1[:, None] * ac + units.k2[:, None] * ac**2
    stored = np.clip(series.pv_dc_kw[:, steps] - behind, 0, None).sum(axis=0)
    grid = year.metered_kw[:, steps]
    island, drawn = year.island, total(year.load_kw) + total(year.own_use_kw)
    capacity = sum(c.battery.capacity_kwh for c in converters if c.battery)
    return DayFlows(
        start_step=int(start % STEPS),
        sun=total(series.pv_ac_kw) + stored,
        battery_out=np.clip(series.battery_ac_kw[:, steps], 0, None).sum(axis=0),
        imported=np.clip(grid, 0, None).sum(axis=0) if island is None else island.generator_kw[steps],
        circuits=drawn if island is None else drawn - island.unserved_kw[steps],
        into_battery=stored + np.clip(-series.battery_ac_kw[:, steps], 0, None).sum(axis=0),
        exported=np.clip(-grid, 0, None).sum(axis=0) if island is None else np.zeros(STEPS_PER_DAY),
        lost=total(series.curtailed_kw) + total(series.clipped_kw),
        soc=total(series.energy_kwh) / capacity if capacity > 0 else np.zeros(STEPS_PER_DAY),
        summer_time=summer_time,
    )
