"""The few figures of a map's cells are those of the whole year, of every kind that they are reckoned for."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.brief import briefs_of
from lodestaff.samples import sample_names, sample_path

DEMAND = Change("tariff/demand_per_kw_month", 5.0)


@pytest.mark.parametrize("name", sample_names())
def test_they_are_those_of_the_year(reckoner, name):
    job = edit(load_job(sample_path(name)), DEMAND)
    parts = reckoner.parts(job)
    brief = briefs_of(reckoner, job, parts)
    surplus = any(circuit.role == "surplus only" for circuit in job.circuits)
    unequal = any(one.also and one.unequal for one in parts.converters)
    assert (brief is None) == (not job.mains.grid or surplus or unequal)
    if brief is None:
        return
    for limits in ((), (Change("limits/keep_room", True),)):
        taken = edit(job, *limits)
        short, whole = briefs_of(reckoner, taken, parts)(parts.converters), reckoner.figures(taken)
        assert short.bill == pytest.approx(whole.bill, rel=1e-9)
        assert short.self_sufficiency == pytest.approx(whole.self_sufficiency, abs=1e-9)
        assert short.curtailed_kwh == pytest.approx(whole.curtailed_kwh, abs=1e-6)
