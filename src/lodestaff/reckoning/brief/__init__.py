"""The few figures of a year that a map of sizes is shaded by, without the year's series."""

from collections.abc import Callable

import numpy as np

from lodestaff.energy.calendar import STEPS, Floats
from lodestaff.energy.dispatch import Converter
from lodestaff.energy.surplus import losing, surplus_taken
from lodestaff.job import Job, Role
from lodestaff.reckoning import selectors
from lodestaff.reckoning.brief.grid import on_the_grid
from lodestaff.reckoning.brief.island import on_islands
from lodestaff.reckoning.brief.made import Brief, Made
from lodestaff.reckoning.controlling import netted
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import Parts, years_of

__all__ = ["Brief", "Briefs", "briefs_of", "whole_years"]

Briefs = Callable[[tuple[Converter, ...]], Brief]


def briefs_of(reckoner: Reckoner, job: Job, parts: Parts) -> Briefs | None:
    """What makes these figures of a job's year with other converters in the place of its own.

    None where a year can't be reckoned so: what surplus loads take changes what controllers see of each
    other, or what batteries expect.
    """
    takers = tuple(number for number, c in enumerate(job.circuits) if c.role is Role.SURPLUS)
    run = (on_the_grid if job.mains.grid else on_islands)(reckoner, job, parts, takers)
    if run is None:
        return None
    if not takers:
        nothing = np.zeros((0, STEPS))
        return lambda units: run(units, nothing).brief
    loads = tuple(
        selectors.surplus_load(job, job.circuits[number], reckoner.circuit_kw(job, job.circuits[number]))
        for number in takers
    )
    summed = netted(job)

    def made(units: tuple[Converter, ...]) -> Brief:
        def over_with(mains: Floats) -> tuple[Floats, Floats]:
            return _over(run(units, mains), units, summed)

        mains, taken = surplus_taken(loads, STEPS, over_with)
        return run(units, mains + taken).brief

    return made


def whole_years(reckoner: Reckoner, job: Job, parts: Parts) -> Briefs:
    """The same figures by way of whole years with all their series, of any job."""
    run = years_of(reckoner, job, parts.plans)

    def made(units: tuple[Converter, ...]) -> Brief:
        year = reckoner.figures_of(job, run(units, parts.sun_kw), units)
        if job.mains.grid:
            return Brief(year.self_sufficiency, year.bill, year.curtailed_kwh)
        return Brief(
            year.self_sufficiency,
            None,
            year.curtailed_kwh,
            unserved_kwh=year.unserved_kwh,
            generator_h=year.generator_h,
        )

    return made


def _over(year: Made, units: tuple[Converter, ...], summed: bool) -> tuple[Floats, Floats]:
    """What is over in such a year, and how full batteries are, as surplus loads look at it."""
    from lodestaff.energy.sums import over_into

    grid = year.grid.sum(axis=0, keepdims=True) if summed and year.grid.shape[0] > 1 else year.grid
    spare, soc = np.empty_like(grid), np.empty_like(grid)
    over_into(losing(units, grid.shape[0]), grid, year.pv_ac, year.curtailed, year.energy, spare, soc)
    return spare, soc
