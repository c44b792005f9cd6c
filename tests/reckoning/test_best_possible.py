"""The best possible of jobs: what it says, and the two ways against each other."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.best import best_possible
from lodestaff.reckoning.leading import groups_of
from lodestaff.reckoning.several import bound_of
from lodestaff.samples import sample_path


def job_of(name, demand):
    return edit(load_job(sample_path(name)), Change("tariff/demand_per_kw_month", demand))


@pytest.mark.parametrize(
    ("name", "demand"), [("far-byre", 0.0), ("far-byre", 6.0), ("cobbler-s-yard-workshop", 0.0)]
)
def test_the_two_ways_agree_on_one_battery(reckoner, name, demand):
    """A dynamic programme of the year's own steps lies above a linear one's bound and near to it: means of
    hours, loss lines from below and no taper are worth up to 7 of 100 of what a battery saves."""
    job = job_of(name, demand)
    possible = best_possible(reckoner, job)
    bound = bound_of(reckoner, job, groups_of(reckoner, job, reckoner.year(job)))
    could = possible.idle - bound
    assert not possible.bound
    assert bound - 0.01 <= possible.best <= bound + 0.07 * could
    assert possible.best <= possible.bill


@pytest.mark.parametrize(("name", "demand"), [("harrow-mill-flats", 6.0), ("ocotillo-wash-centre", 0.0)])
def test_of_several_it_is_a_bound_and_says_so(reckoner, name, demand):
    possible = best_possible(reckoner, job_of(name, demand))
    assert possible.bound
    assert "bound" in possible.words
    assert possible.best < possible.bill < possible.idle
    assert 0.5 < possible.reached < 1
