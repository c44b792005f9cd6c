"""What comes after an outage that ended with an empty battery: whether the sun starts the island again, and
when."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY
from lodestaff.energy.outage import Outage
from lodestaff.job import Job, Unit
from lodestaff.job.plan import Shutdown
from lodestaff.quantities import text_of
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.wired import Wiring

ABOVE_FLOOR = 0.1  # of the usable energy, before circuits come back (common practice)
FOLLOWED = 7 * STEPS_PER_DAY


@dataclass(frozen=True)
class BackAgain:
    """`can`: whether the units start an island by the sun alone; None: their sheets don't say.

    `dark_h`: hours until the batteries hold enough; None: not within a week, or no sun comes to the island.
    `until`: what else ends the dark. `held`: a shutdown's transmitter that is dead with the batteries.
    """

    can: bool | None
    dark_h: float | None
    until: str
    held: str = ""

    @property
    def words(self) -> str:
        """What comes after it, for a person."""
        if self.held:
            return f"dark until {self.until}: {self.held} is dead, and the sun with it"
        if self.can is None:
            return "whether the sun starts it again isn't on the sheet"
        if not self.can:
            return f"dark until {self.until}"
        if self.dark_h is None:
            return f"dark until {self.until}: the sun doesn't fill it"
        return f"starts again with the sun, {text_of(self.dark_h, 'h')} later"


def back_again(reckoner: Reckoner, job: Job, unit: Unit, outage: Outage) -> BackAgain | None:
    """After an outage on a unit's island; None where it didn't end with an empty battery.

    While nothing runs, what the cells take of the sun at the trackers, and of what follows on AC, fills them.
    """
    if outage.reason != "energy":
        return None
    can, held = starts_again(reckoner, job, unit)
    arrays, units = reckoner.island(job, unit), reckoner.island_units(job, unit)
    first = outage.start_step + int(outage.hours / STEP_H) + 1
    steps = (first + np.arange(FOLLOWED)) % STEPS
    takes = sum(bank.charge_kw for bank in units)
    eta = min(bank.eta_charge for bank in units)
    filled = np.cumsum(np.minimum(arrays.sun[steps], takes)) * eta * STEP_H
    wanted = ABOVE_FLOOR * sum(bank.e_top - bank.e_floor for bank in units)
    enough = filled >= wanted
    dark_h = float((np.argmax(enough) + 1) * STEP_H) if enough.any() else None
    return BackAgain(
        can, dark_h, "the grid is back" if job.mains.grid else "a generator or a person starts it", held
    )


def starts_again(reckoner: Reckoner, job: Job, unit: Unit) -> tuple[bool | None, str]:
    """Whether the sun starts a unit's island again, by the sheets (None: they don't say).

    And the transmitter of rapid shutdown that is dead then: '' where some of the sun is held by none.
    """
    members = reckoner.members(job, unit)
    names = {other.id for other in (*members, *reckoner.backed(job, unit).following)}
    sunny, wiring = {string.unit for string in job.strings} & names, reckoner.wiring(job)
    dead = [part for part in job.parts if isinstance(part, Shutdown) and fed_alone(wiring, part)]
    if sunny and sunny <= {name for part in dead for name in part.units}:
        return False, dead[0].name
    told = [job.sheet_of(member).black_start for member in members]
    return (True if any(told) else None if None in told else False), ""


def fed_alone(wiring: Wiring, part: Shutdown) -> bool | None:
    """Whether, with the grid away, a shutdown's transmitter is fed by the very units that it holds alone.

    None where nothing feeds it then.
    """
    topology = wiring.topology
    feed = next((conductor for conductor in topology.conductors if conductor.b == (part.id, "in")), None)
    own = {*part.units, *(each.id for each in topology.parts.values() if each.of in part.units)}
    away = [
        answer.sources[feed.id]
        for answer in wiring.answers
        if feed is not None and not answer.state.grid_present and answer.sources[feed.id]
    ]
    return all(set(sources) <= own for sources in away) if away else None
