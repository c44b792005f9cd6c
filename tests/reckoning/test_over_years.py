"""Money over years, by hand where a hand can follow."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.over_years import OverYears, YearOf, over_years
from lodestaff.samples import sample_path

SHEET = "sheets/batteries/battery-48"


@pytest.fixture(scope="module")
def plain(reckoner, larkmoor):
    return over_years(reckoner, larkmoor)


def test_the_first_year_is_nearly_the_year_as_it_is(reckoner, larkmoor, plain):
    """Half a year old: a quarter of a per cent of the sun and 1.5 % of the battery are gone."""
    money = reckoner.figures(larkmoor).money
    assert plain.rows[0].bill == pytest.approx(money.bill, rel=0.01)
    assert plain.rows[0].bill > money.bill
    assert plain.rows[0].bill_before == pytest.approx(money.without)  # nothing stood there
    assert len(plain.rows) == 20


def test_health_and_sun_of_a_year_by_hand(plain):
    """Assumed 70 % after 10 years: 1 − 0.3 × 4.5 / 10 in the fifth; 0.995 a year of the sun."""
    fifth = plain.rows[4]
    assert fifth.health == pytest.approx(1 - 0.3 * 0.45)
    assert fifth.sun_share == pytest.approx(0.995**4.5)
    assert [row.year for row in plain.rows if row.replaced] == [11]
    assert plain.rows[10].health == pytest.approx(plain.rows[0].health)


def test_drift_and_discount(reckoner, larkmoor, plain):
    """By hand: (1 + drift)^(n − 1) on every bill, 1 / (1 + discount)^(n − 0.5) on what is saved."""
    other = over_years(
        reckoner, edit(larkmoor, Change("wishes/price_drift", 0.02), Change("wishes/discount", 0.03))
    )
    tenth, same = other.rows[9], plain.rows[9]
    assert tenth.bill == pytest.approx(same.bill * 1.02**9)
    assert tenth.present == pytest.approx(same.saving * 1.02**9 / 1.03**9.5)
    assert other.saved == pytest.approx(sum(row.present for row in other.rows))


def test_cycles_end_a_battery_before_its_years(reckoner, larkmoor):
    """The demo cycles 257 times a year: 1,285 warranted cycles are five years, ten by the calendar."""
    cycles = reckoner.figures(larkmoor).cycles
    worked = edit(
        larkmoor,
        Change(f"{SHEET}/warranty_cycles", 5 * cycles),
        Change(f"{SHEET}/warranty_years", 10.0),
        Change(f"{SHEET}/warranty_end_share", 0.8),
    )
    found = over_years(reckoner, worked)
    assert [row.year for row in found.rows if row.replaced] == [6, 11, 16]
    assert found.rows[4].health == pytest.approx(1 - 0.2 * 4.5 / 5)
    assert found.assumed == ("modules lose 0.5 % a year",)


def test_what_already_stands_there_is_before():
    """An existing array saves before and after: what is added saves less than the whole."""
    job = load_job(sample_path("tern-quay-boatshed"))
    reckoner = Reckoner()
    found, money = over_years(reckoner, job), reckoner.figures(job).money
    assert money.bill < found.rows[0].bill_before < money.without


def test_paid_back_within_a_year():
    rows = tuple(
        YearOf(n, 1.0, 1.0, bill=0.0, bill_before=100.0, present=100.0, replaced=False) for n in (1, 2, 3)
    )
    assert OverYears(rows, ()).pays_back(250.0) == pytest.approx(2.5)
    assert OverYears(rows, ()).pays_back(301.0) is None
