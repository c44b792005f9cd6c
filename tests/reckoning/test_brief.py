"""The few figures of a map's cells are those of the whole year, of every kind that they are reckoned for."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.brief import briefs_of, whole_years
from lodestaff.samples import sample_names, sample_path

DEMAND = Change("tariff/demand_per_kw_month", 5.0)


@pytest.mark.parametrize("name", sample_names())
def test_they_are_those_of_the_year(reckoner, name):
    job = edit(load_job(sample_path(name)), DEMAND)
    parts = reckoner.parts(job)
    for limits in ((), (Change("limits/keep_room", True),)):
        taken = edit(job, *limits)
        made = briefs_of(reckoner, taken, parts)
        if made is None:
            assert surplus_only(job), "what is expected depends on what they take"
            continue
        short, whole = made(parts.converters), whole_years(reckoner, taken, parts)(parts.converters)
        figures = reckoner.figures(taken)
        assert short.self_sufficiency == pytest.approx(figures.self_sufficiency, abs=1e-9)
        assert short.curtailed_kwh == pytest.approx(figures.curtailed_kwh, abs=1e-6)
        assert short.unserved_kwh == pytest.approx(whole.unserved_kwh, abs=1e-6)
        assert short.generator_h == whole.generator_h
        assert (short.bill is None) == (not job.mains.grid)
        assert (short.bill or 0.0) == pytest.approx(figures.bill if job.mains.grid else 0.0, rel=1e-9)


def surplus_only(job):
    return any(circuit.role == "surplus only" for circuit in job.circuits)


def test_some_samples_ask_for_each_of_its_ways(reckoner):
    """With and without a grid, each with and without surplus loads."""
    jobs = [load_job(sample_path(name)) for name in sample_names()]
    asked = {(job.mains.grid, surplus_only(job)) for job in jobs}
    assert len(asked) == 4
