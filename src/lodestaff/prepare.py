"""Compile the loops once, after setting up: `python -m lodestaff.prepare year` and `island`.

Each compiles what the other doesn't, so that both may run at once. What isn't compiled here is when it is
first used; it is kept beside the sources either way.
"""

import sys

from lodestaff.job import Job, load_job
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.samples import sample_path


def year(reckoner: Reckoner, job: Job) -> None:
    """The loops of a year with the grid, of a map's cells and of the best possible."""
    from lodestaff.reckoning.best import best_possible

    reckoner.figures(job)
    best_possible(reckoner, job)
    _brief(reckoner, job)


def island(reckoner: Reckoner, job: Job) -> None:
    """The loops of outages, and of a year without the grid."""
    unit = job.units[0]
    reckoner.outage(job, unit, Moment(soc=0.5))
    reckoner.ride(job, unit)
    without = load_job(sample_path("skerry-light-cottage"))
    reckoner.figures(without)
    _brief(reckoner, without)


def _brief(reckoner: Reckoner, job: Job) -> None:
    from lodestaff.reckoning.brief import briefs_of

    parts = reckoner.parts(job)
    brief = briefs_of(reckoner, job, parts)
    assert brief is not None
    brief(parts.converters)


PARTS = {"year": year, "island": island}

if __name__ == "__main__":
    PARTS[sys.argv[1]](Reckoner(), load_job(sample_path("larkmoor")))
