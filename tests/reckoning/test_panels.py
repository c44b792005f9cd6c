"""Circuits dealt between panels of two sources: against every assignment, and in the samples."""

import itertools

import pytest

from lodestaff.job import Change, Role, edit, load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.panels import deal_panels
from lodestaff.samples import sample_names, sample_path

SHARED = Reckoner()


def sample(name):
    return load_job(sample_path(name))


@pytest.mark.parametrize("name", ["ocotillo-wash-centre", "harrow-mill-flats"])
def test_headroom_is_more_even_and_every_circuit_is_where_it_was_dealt(name):
    job = sample(name)
    found = deal_panels(SHARED, job)

    def spread(kva):
        head = [rated - there for rated, there in zip(found.rated_kva, kva, strict=True)]
        return max(head) - min(head)

    assert spread(found.after_kva) <= spread(found.before_kva) + 1e-9
    assert found.exact
    made = edit(job, *found.changes)
    again = deal_panels(SHARED, made)
    assert again.before_kva == pytest.approx(found.after_kva)
    assert again.moved == ()  # it is dealt already
    assert {c.role for c in made.circuits if c.id in {name for name, *_ in found.moved}} <= {
        Role.HELD,
        Role.SHED,
    }


def test_against_every_assignment():
    """Brute force over the flats' seven circuits on two panels, one of them empty: the least difference,
    fewest moves."""
    job = sample("harrow-mill-flats")
    uneven = edit(job, *(Change(f"circuits/{c.id}/phase", "L1") for c in job.with_role(Role.HELD, Role.SHED)))
    found = deal_panels(SHARED, uneven)
    circuits = uneven.with_role(Role.HELD, Role.SHED)
    loads = [c.running_kva for c in circuits]

    def apart(where):
        return abs(sum(kva * (1 if leg else -1) for kva, leg in zip(loads, where, strict=True)))

    every = list(itertools.product((0, 1), repeat=len(loads)))
    least = min(map(apart, every))
    assert abs(found.after_kva[0] - found.after_kva[1]) == pytest.approx(least, abs=1e-5)
    assert len(found.moved) == min(sum(where) for where in every if apart(where) <= least + 1e-5)


def test_a_smaller_source_gets_less():
    """Headroom is dealt, not load."""
    job = sample("harrow-mill-flats")
    smaller = edit(job, Change("units/hybrid-2/sheet", "hybrid-3"))
    found = deal_panels(SHARED, smaller)
    head = [rated - kva for rated, kva in zip(found.rated_kva, found.after_kva, strict=True)]
    loads = sorted(c.running_kva for c in smaller.with_role(Role.HELD, Role.SHED))
    assert found.rated_kva[1] < found.rated_kva[0]
    assert abs(head[0] - head[1]) <= loads[-1] + found.rated_kva[0] - found.rated_kva[1]
    assert found.after_kva[1] < found.after_kva[0]


def test_one_source_has_nothing_to_deal_between():
    for name in sample_names():
        job = sample(name)
        several = len(SHARED.wiring(job).islands) > 1
        assert (deal_panels(SHARED, job) is not None) is several, name
