"""Cables with their glands and the entries of the cases that they end at."""

from collections.abc import Iterator

from lodestaff.checks.glands import Gland, Glands
from lodestaff.job import Job
from lodestaff.places import bodies
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.records.runs import runs
from lodestaff.topology.questions import inside_cases


@makes
def glands(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Glands]:
    all_glands = glands_of(reckoner, job)
    if all_glands:
        yield Glands(all_glands)


def glands_of(reckoner: Reckoner, job: Job) -> tuple[Gland, ...]:
    """The cables that a hand brings into cases; a gland is asked for where they aren't single conductors."""
    topology = reckoner.wiring(job).topology
    apart, entries = inside_cases(topology), _widest(job, reckoner)
    laid = {
        run for run in topology.runs if any(c.run == run and c.id not in apart for c in topology.conductors)
    }
    all_glands = []
    for run in runs(reckoner, job, False):
        cable = run.cable
        if cable is None or run.id not in laid:
            continue
        ends = {
            end[0]
            for conductor in topology.conductors
            if conductor.run == run.id
            for end in (conductor.a, conductor.b)
        }
        widest = [entries[end] for end in ends if end in entries]
        several = job.pack.conductor_rule != "NEC" and not run.dc and not cable.existing
        known = (cable.outside_mm, cable.gland_least_mm, cable.gland_most_mm)
        if several or any(value is not None for value in known):
            all_glands.append(Gland(run.id, run.name, *known, min(widest, default=None), asked=several))
    return tuple(all_glands)


def _widest(job: Job, reckoner: Reckoner) -> dict[str, float]:
    """The widest entry of each case whose entries are known, mm."""
    cases = bodies(job, reckoner.wiring(job).topology)
    return {body.id: max(hole.diameter_mm for hole in body.entries) for body in cases if body.entries}
