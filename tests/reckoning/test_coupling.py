"""DC- against AC-coupled on one job: by hand where nothing is lost, and by the known order of losses."""

import pytest
from tests.reference.seam import Given, hours_from
from tests.reference.test_year_through_jobs import NOON, demo

from lodestaff.job import load_job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.coupling import coupling, rows_of
from lodestaff.samples import sample_path


def test_where_nothing_is_lost_both_ways_are_alike():
    """By hand: 24 kWh of sun, 9 of load by day, 10 by night, a battery of 8: 2 kWh are bought, 7 go out."""
    job = demo(kwh=8.0, changes={})
    sun, load = hours_from(NOON + 8, [3.0] * 8), hours_from(NOON + 8, [9 / 8] * 8)
    given = Given({"hybrid": sun}, {job.circuits[0].id: load + hours_from(NOON + 20, [5.0] * 2)})
    found = coupling(given, job)
    assert found.now == "DC"
    for year in (found.dc, found.ac):
        assert year.import_kwh == pytest.approx(2.0)
        assert year.export_kwh == pytest.approx(7.0)
        assert found.lost_kwh(year) == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("name", ["far-byre", "brockle-vicarage", "harrow-mill-flats"])
def test_what_goes_through_a_battery_loses_more_over_ac(name):
    """Twice through an inverter costs more than once (common practice); energy is kept either way."""
    job = load_job(sample_path(name))
    found = coupling(Reckoner(), job)
    dc, ac = found.dc, found.ac
    assert found.now == ("AC" if name == "brockle-vicarage" else "DC")
    assert found.lost_kwh(ac) / ac.battery_in_kwh > found.lost_kwh(dc) / dc.battery_in_kwh
    assert ac.bill > dc.bill
    assert len(rows_of(found, job)) == 10


def test_without_a_grid_it_is_not_compared():
    with pytest.raises(JobError, match="no grid"):
        coupling(Reckoner(), load_job(sample_path("skerry-light-cottage")))
