"""The moment that every station answers for: season, hour, sky, grid, state of charge."""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from lodestaff.energy.calendar import MONTH_NAMES, STEPS_PER_DAY, STEPS_PER_HOUR, Floats, month_of_step


class Sky(StrEnum):
    """Which day of the month is shown: its clearest, its middling, its dullest tenth."""

    CLEAR = "clear"
    MIXED = "mixed"
    DULL = "dull"


RANK = {Sky.CLEAR: 0.9, Sky.MIXED: 0.5, Sky.DULL: 0.1}


@dataclass(frozen=True)
class Moment:
    """A view, not part of the job. `soc` None takes what the simulated year has."""

    month: int = 1
    hour: float = 18.75
    sky: Sky = Sky.MIXED
    grid: bool = True
    soc: float | None = None

    def moved(self, **changes: object) -> "Moment":
        return replace(self, **changes)  # type: ignore[arg-type]

    @property
    def words(self) -> str:
        hour = int(self.hour)
        return f"{MONTH_NAMES[self.month - 1]} {hour:02d}:{round(self.hour % 1 * 60):02d}"


def day_of(moment: Moment, ghi_w_m2: Floats) -> int:
    """The day of the year (from 0) whose sun has the moment's rank in its month."""
    days = month_of_step()[::STEPS_PER_DAY] == moment.month - 1
    numbers = np.flatnonzero(days)
    sums = ghi_w_m2.reshape(365, -1).sum(axis=1)[numbers]
    order = np.argsort(sums, kind="stable")
    return int(numbers[order[round(RANK[moment.sky] * (len(order) - 1))]])


def step_of_moment(moment: Moment, ghi_w_m2: Floats) -> int:
    return day_of(moment, ghi_w_m2) * STEPS_PER_DAY + int(moment.hour * STEPS_PER_HOUR) % STEPS_PER_DAY
