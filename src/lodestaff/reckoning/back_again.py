"""What comes after an outage that ended with an empty battery: whether the sun starts the island again, and
when."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY
from lodestaff.energy.outage import Outage
from lodestaff.job import Job, Unit
from lodestaff.quantities import text_of
from lodestaff.reckoning.reckoner import Reckoner

ABOVE_FLOOR = 0.1  # of the usable energy, before circuits come back (common practice)
FOLLOWED = 7 * STEPS_PER_DAY


@dataclass(frozen=True)
class BackAgain:
    """`can`: whether the units start an island by the sun alone; None: their sheets don't say.

    `dark_h`: hours until the batteries hold enough; None: not within a week, or no sun comes to the island.
    """

    can: bool | None
    dark_h: float | None

    @property
    def words(self) -> str:
        """What comes after it, for a person."""
        if self.can is None:
            return "whether the sun starts it again isn't on the sheet"
        if not self.can:
            return "dark until the grid is back or a person starts it"
        if self.dark_h is None:
            return "dark until the grid is back: the sun doesn't fill it"
        return f"starts again with the sun, {text_of(self.dark_h, 'h')} later"


def back_again(reckoner: Reckoner, job: Job, unit: Unit, outage: Outage) -> BackAgain | None:
    """After an outage on a unit's island; None where it didn't end with an empty battery.

    While nothing runs, what the cells take of the sun at the trackers, and of what follows on AC, fills them.
    """
    if outage.reason != "energy":
        return None
    members = reckoner.members(job, unit)
    told = [job.sheet_of(member).black_start for member in members]
    can = True if any(told) else None if None in told else False
    arrays, units = reckoner.island(job, unit), reckoner.island_units(job, unit)
    first = outage.start_step + int(outage.hours / STEP_H) + 1
    steps = (first + np.arange(FOLLOWED)) % STEPS
    takes = sum(one.charge_kw for one in units)
    eta = min(one.eta_charge for one in units)
    filled = np.cumsum(np.minimum(arrays.sun[steps], takes)) * eta * STEP_H
    wanted = ABOVE_FLOOR * sum(one.e_top - one.e_floor for one in units)
    enough = filled >= wanted
    return BackAgain(can, float((np.argmax(enough) + 1) * STEP_H) if enough.any() else None)
