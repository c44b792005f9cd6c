"""How far the settings are from the best possible: the bill with everything known beforehand."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY, Floats, month_of_step
from lodestaff.energy.dispatch import Year
from lodestaff.job import Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.leading import groups_of
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import years_of

Progress = Callable[[float], bool]


@dataclass(frozen=True)
class Best:
    """Bills of a year, in the tariff's currency: as set, with batteries idle, and the best possible.

    `bound`: a linear programme's, below which no settings go; else what a dynamic programme of the one
    battery does. `joined`: several batteries, or phases, were taken as one, so that no settings may reach it.
    """

    bill: float
    idle: float
    best: float
    bound: bool
    joined: bool

    @property
    def reached(self) -> float | None:
        """Share of what a battery could save that the settings save; None where it could save nothing."""
        return self.reached_by(self.bill)

    def reached_by(self, bill: float) -> float | None:
        """The same share for another bill."""
        could = self.idle - self.best
        return (self.idle - bill) / could if could > 0.005 else None

    @property
    def words(self) -> str:
        """How it was found."""
        if self.bound:
            return "a bound for several batteries: none goes below, maybe none reaches it"
        if self.joined:
            return "several batteries or phases taken as one, maybe out of reach"
        return "with everything known beforehand"


def idle_year(reckoner: Reckoner, job: Job) -> Year:
    """The year in which the sun serves and goes out, and no battery does anything."""
    parts = reckoner.parts(job)
    units = tuple(replace(converter, battery=None, ac_charge=False) for converter in parts.converters)
    return years_of(reckoner, job, parts.plans)(units, parts.sun_kw)


def best_possible(reckoner: Reckoner, job: Job, progress: Progress = lambda share: True) -> Best | None:
    """The best bill on the year's own physics: of one controller by a dynamic programme, of several the bound
    of a linear one.

    Surplus loads, circuits and other units stay as the year has them. None where stopped. Raises JobError
    without a grid or without a battery.
    """
    from lodestaff.reckoning.alone import best_grid
    from lodestaff.reckoning.several import bound_of

    if not job.mains.grid:
        raise JobError("no grid: there is no bill to make better", job.id, "look at what stays unserved")
    if not job.banks:
        raise JobError("no battery: nothing can be set better", job.id, "give a unit a bank of modules")
    year, converters = reckoner.year(job), reckoner.converters(job)
    groups = groups_of(reckoner, job, year)
    joined = False
    if len(groups) > 1:
        best = bound_of(reckoner, job, groups, progress)
    else:
        grid = best_grid(reckoner, job, groups[0], progress)
        best = None if grid is None else _bill(reckoner, job, grid)
        phases = {row for at in groups[0].members for row in converters[at].phases}
        joined = len(groups[0].members) > 1 or (len(year.metered_kw) > 1 and len(phases) > 1)
    if best is None:
        return None
    progress(1.0)
    return Best(
        bill=reckoner.figures(job).bill,
        idle=reckoner.figures_of(job, idle_year(reckoner, job), converters).bill,
        best=best,
        bound=len(groups) > 1,
        joined=joined,
    )


def _bill(reckoner: Reckoner, job: Job, grid: Floats) -> float:
    """The bill of a grid power by metered phase, shape (row, step); past the site's limit nothing is paid."""
    tariff, bought = job.tariff, np.clip(grid, 0, None).sum(axis=0)
    sold = np.minimum(np.clip(-grid, 0, None).sum(axis=0), job.limits.export_kw)
    months = month_of_step()
    highest = sum(float(bought[months == month].max()) for month in range(12))
    return (
        float((bought * reckoner.import_price(job)).sum() * STEP_H)
        - float((sold * reckoner.export_price(job)).sum() * STEP_H)
        + tariff.standing_per_day * STEPS / STEPS_PER_DAY
        + highest * tariff.demand_per_kw_month
    )
