"""The reserve that keeps the promised hours in every month, and what it costs a year."""

import numpy as np

from lodestaff.energy.outage import island_of, reserve_needed_kwh
from lodestaff.job import Change, Job, Unit, edit
from lodestaff.reckoning.reckoner import Reckoner


def promised_reserve(reckoner: Reckoner, job: Job, unit: Unit) -> float | None:
    """The least reserve in whole percent, as a share, that keeps the promised hours; None where not even
    all does."""
    converter = reckoner.joint(job, unit)
    bank = converter.battery
    assert bank is not None
    percent, hours = job.pack.value("ride_through_percentile").value, job.wishes.outage_h
    island = island_of(converter, energy_only=True)
    key = ("needed", reckoner.island_key(job, unit), island, hours, percent)
    needed = reckoner.memo.get(
        key, lambda: reserve_needed_kwh(reckoner.island(job, unit), island, hours, percent)
    )
    soc = float(np.ceil(round(needed / bank.capacity_kwh * 100, 6))) / 100
    return max(soc, bank.floor_soc) if soc <= bank.top_soc else None


def promise_cost(reckoner: Reckoner, job: Job, unit: Unit) -> tuple[float | None, float | None]:
    """The reserve that keeps the promised hours, and what it costs a year against the present one."""
    needed = promised_reserve(reckoner, job, unit)
    if needed is None:
        return None, None
    kept = edit(
        job, Change("limits/reserve_soc", needed), Change("limits/shed_soc", max(needed, job.limits.shed_soc))
    )
    return needed, reckoner.figures(kept).bill - reckoner.figures(job).bill
