"""What a kWh costs in each step: two bands, further bands by season and day, hourly prices, demand."""

import numpy as np
import pytest

from lodestaff.energy.calendar import is_weekend, month_of_step, standard_hour
from lodestaff.job import Change, edit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.prices import hourly_prices, low_hours

PEAK = {"id": "peak", "price": 0.45, "start_h": 16, "end_h": 19, "days": "weekdays", "months": [11, 12, 1]}


@pytest.fixture
def banded(larkmoor):
    return edit(larkmoor, Change("tariff/bands", [PEAK, {"id": "sell", "price": 0.25, "of": "export"}]))


def test_bands_lie_over_the_two_by_hour_day_and_month(reckoner, banded):
    """By hand: 92 days of November to January are 66 weekdays or so, three hours each."""
    price = reckoner.import_price(banded)
    peak = price == 0.45
    hours = standard_hour()
    assert set(np.unique(price)) == {0.12, 0.31, 0.45}
    assert (
        peak == ((hours >= 16) & (hours < 19) & ~is_weekend() & np.isin(month_of_step(), [10, 11, 0]))
    ).all()
    assert 60 * 12 <= peak.sum() <= 67 * 12
    assert (reckoner.export_price(banded) == 0.25).all()


def test_the_bill_is_the_sum_of_its_steps(reckoner, banded):
    year, money = reckoner.year(banded), reckoner.figures(banded).money
    imported = year.import_kw.sum(axis=0)
    assert money.import_cost == pytest.approx((imported * reckoner.import_price(banded)).sum() / 4)
    assert money.export_income == pytest.approx(0.25 * reckoner.figures(banded).export_kwh, rel=1e-6)


def test_a_demand_charge_goes_by_each_months_highest_quarter(reckoner, larkmoor):
    charged = edit(larkmoor, Change("tariff/demand_per_kw_month", 2.0))
    year, months = reckoner.year(charged), month_of_step()
    highest = sum(year.import_kw.sum(axis=0)[months == month].max() for month in range(12))
    money = reckoner.figures(charged).money
    assert money.demand == pytest.approx(2.0 * highest)
    assert money.bill == pytest.approx(reckoner.figures(larkmoor).bill + 2.0 * highest)


def test_hourly_prices_are_an_attached_file(larkmoor):
    text = "hour;eur\n" + "\n".join(f"{hour};{0.1 + (hour % 24) / 100}" for hour in range(8760))
    data = text.replace(";", ",").encode()
    reckoner = Reckoner(lambda digest: data)
    hourly = edit(larkmoor, Change("tariff/hourly", {"sha256": "0" * 64, "name": "prices.csv"}))
    price = reckoner.import_price(hourly)
    assert price[[0, 3, 4, 95]] == pytest.approx([0.10, 0.10, 0.11, 0.33])
    assert reckoner.low_band(hourly)[:24].all()  # the lowest quarter of the prices' span
    assert not reckoner.low_band(hourly)[24:96].any()
    start, end = low_hours(reckoner, hourly)
    assert (end - start) % 24 == 6


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("0.1\n" * 8000, "8000 prices"),
        ("210\n" * 8760, "not a MWh"),
        ("0.1\n" * 20 + "x\n", "row 21 ends in no number"),
    ],
)
def test_prices_that_can_not_be_are_refused_in_words(rows, words):
    with pytest.raises(JobError, match=words):
        hourly_prices(rows.encode(), "prices.csv")


def test_the_cheap_span_of_two_bands_is_the_low_band(reckoner, larkmoor):
    assert low_hours(reckoner, larkmoor) == (0.5, 5.5)
    flat = edit(larkmoor, Change("tariff/low_start_h", 3.0), Change("tariff/low_end_h", 3.0))
    assert low_hours(reckoner, flat) is None
