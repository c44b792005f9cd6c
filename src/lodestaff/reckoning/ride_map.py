"""How long the backed-up circuits last, by month and hour at which an outage begins."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY, STEPS_PER_HOUR, Floats, month_of_step
from lodestaff.energy.outage import ride_starts
from lodestaff.job import Job, Unit
from lodestaff.reckoning.reckoner import Reckoner

EVERY_H = 3  # outages begin at these hours ...
EVERY_DAYS = 2  # ... of every other day
FOLLOWED_H = 72.0
ASKED_H = (4.0, 24.0, 72.0)  # of outages so long the share that is survived is told
SHORT_PERCENT = 10.0  # one of ten outages ends sooner


@dataclass(frozen=True)
class RideMap:
    """One island. `hours` by month and start, shape (12, 8): what nine of ten outages last; `median` alike.

    Batteries begin with what the simulated year has in them; `survived` are shares of all starts of the year.
    """

    unit: str
    name: str
    starts_h: tuple[int, ...]
    hours: Floats
    median: Floats
    survived: dict[float, float]
    followed_h: float = FOLLOWED_H

    def worst(self) -> tuple[int, int]:
        """Month and start, by index, of the least hours."""
        month, start = np.unravel_index(int(np.argmin(self.hours)), self.hours.shape)
        return int(month), int(start)


def ride_map(reckoner: Reckoner, job: Job, unit: Unit) -> RideMap:
    """Outages all over the year on a unit's island, each followed for three days.

    Raises JobError where no unit of it has a battery.
    """
    every = EVERY_H * STEPS_PER_HOUR
    starts = np.arange(0, STEPS, every)
    starts = starts[(starts // STEPS_PER_DAY) % EVERY_DAYS == 0]
    members = reckoner.members(job, unit)
    year = reckoner.year(job)
    rows = [job.units.index(member) for member in members]
    before = np.where(
        starts[:, None] > 0, year.series.energy_kwh[rows][:, starts - 1].T, year.e_start_kwh[rows]
    )
    lasted = ride_starts(
        reckoner.island(job, unit),
        reckoner.island_units(job, unit),
        starts,
        before,
        horizon_h=FOLLOWED_H,
        generator=reckoner.generator(job, unit),
    )
    months, hours = month_of_step()[starts], starts % STEPS_PER_DAY // every
    cells = [
        [lasted[(months == month) & (hours == hour)] for hour in range(24 // EVERY_H)] for month in range(12)
    ]
    return RideMap(
        unit.id,
        reckoner.island_name(job, unit),
        tuple(range(0, 24, EVERY_H)),
        hours=np.array([[np.percentile(cell, SHORT_PERCENT) for cell in row] for row in cells]),
        median=np.array([[np.median(cell) for cell in row] for row in cells]),
        survived={asked: float((lasted >= asked - STEP_H / 2).mean()) for asked in ASKED_H},
    )
