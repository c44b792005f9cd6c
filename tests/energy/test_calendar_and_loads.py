"""Clocks and timetables: what runs when, and that energy and power are kept."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lodestaff.energy.calendar import (
    STEPS,
    daylight_saving,
    household_hour,
    is_weekend,
    moment_of,
    month_of_step,
    standard_hour,
    step_of,
    within,
)
from lodestaff.energy.loads import Timetable, circuit_kw

EUROPE = "Europe/London"
AMERICA = "America/Denver"
FLAT = (1.0,) * 24


def test_daylight_saving_in_europe():
    """2025: 30 March 01:00 UTC to 26 October 01:00 UTC (common practice, calendar)."""
    saving = daylight_saving(EUROPE, 0)
    assert np.flatnonzero(saving)[0] == step_of(3, 30, 1)
    assert np.flatnonzero(saving)[-1] == step_of(10, 26, 1) - 1
    assert daylight_saving(EUROPE, 1)[step_of(3, 30, 2)]
    assert not daylight_saving(EUROPE, 1)[step_of(3, 30, 2) - 1]


def test_daylight_saving_in_north_america():
    """2025: 9 March 02:00 to 2 November 02:00 summer time, which is 01:00 standard time (common practice)."""
    saving = daylight_saving("America/New_York", -5)
    assert np.flatnonzero(saving)[0] == step_of(3, 9, 2)
    assert np.flatnonzero(saving)[-1] == step_of(11, 2, 1) - 1


def test_no_zone_means_none():
    assert not daylight_saving("", 0).any()


def test_household_clocks_show_every_hour_but_the_lost_one():
    hours = household_hour(EUROPE, 0)
    spring = hours[step_of(3, 30, 0) : step_of(3, 31, 0)]
    assert 1.0 not in spring
    assert len(spring) == 96


def test_the_year_and_its_months():
    assert [int((month_of_step() == month).sum() / 96) for month in range(12)] == [
        31,
        28,
        31,
        30,
        31,
        30,
        31,
        31,
        30,
        31,
        30,
        31,
    ]
    assert is_weekend()[step_of(1, 4, 12)]  # 4 January 2025 is a Saturday (calendar)
    assert not is_weekend()[step_of(1, 6, 0)]
    assert moment_of(step_of(7, 14, 18.75))[1] == 18.75
    assert str(moment_of(step_of(7, 14, 18.75))[0]) == "2025-07-14"
    assert moment_of(STEPS) == moment_of(0)


def test_windows_over_midnight():
    hours = standard_hour()[:96]
    assert within(hours, 23, 5).sum() == 6 * 4
    assert within(hours, 5, 23).sum() == 18 * 4
    assert not (within(hours, 23, 5) & within(hours, 5, 23)).any()


def table(**changes):
    made = dict(
        id="x",
        running_kw=2.0,
        kwh_year=700.0,
        event_minutes=4.0,
        weekday=FLAT,
        weekend=FLAT,
        months=(1.0,) * 12,
        daylight_saving=EUROPE,
        utc_offset_h=0.0,
        seed=1,
    )
    return Timetable(**{**made, **changes})


@settings(max_examples=40, deadline=None)
@given(
    st.floats(0.05, 8),
    st.floats(0.001, 1.0),
    st.one_of(st.none(), st.floats(1, 300)),
    st.integers(0, 50),
    st.lists(st.floats(0.01, 1), min_size=24, max_size=24),
)
def test_energy_is_kept_and_power_is_never_exceeded(running, share, minutes, seed, weights):
    """Any timetable that can be: the year's energy to a millionth, the running power as the most."""
    kwh = running * 8760 * share
    made = circuit_kw(
        table(running_kw=running, kwh_year=kwh, event_minutes=minutes, seed=seed, weekday=tuple(weights))
    )
    assert made.sum() / 4 == pytest.approx(kwh, rel=1e-6)
    assert made.max() <= running * (1 + 1e-9)
    assert made.min() >= 0


def test_runs_are_real_runs():
    """A kettle of 2 kW for 4 minutes is no smooth 80 W: most steps are empty, some near a third of it."""
    kettle = circuit_kw(table())
    assert (kettle == 0).mean() > 0.8
    assert kettle.max() > 0.5


def test_a_smooth_timetable_flatters():
    """The same energy drawn smoothly would meet more of a small sun: why runs are drawn."""
    sun = np.clip(np.sin((standard_hour() - 6) / 12 * np.pi), 0, None) * 0.5
    bursts = np.minimum(circuit_kw(table(kwh_year=1500.0)), sun).sum()
    smooth = np.minimum(circuit_kw(table(kwh_year=1500.0, event_minutes=None)), sun).sum()
    assert bursts < 0.8 * smooth


def test_runs_fall_in_their_hours_and_months():
    morning = tuple(1.0 if 8 <= hour < 10 else 0.0 for hour in range(24))
    winter = (1.0, 1.0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1.0)
    made = circuit_kw(table(weekday=morning, weekend=(0.0,) * 24, months=winter, kwh_year=60.0))
    on = made > 0
    assert not on[is_weekend()].any()
    assert not on[(month_of_step() > 1) & (month_of_step() < 11)].any()
    hours = household_hour(EUROPE, 0)
    assert within(hours, 8, 10.25)[on].all()


def test_seeds_and_names_give_their_own_runs():
    assert np.array_equal(circuit_kw(table()), circuit_kw(table()))
    assert not np.array_equal(circuit_kw(table()), circuit_kw(table(seed=2)))
    assert not np.array_equal(circuit_kw(table()), circuit_kw(table(id="y")))


def test_no_energy_is_no_power():
    assert not circuit_kw(table(kwh_year=0.0)).any()


AIR = 10 - 8 * np.cos(np.arange(35_040) / 35_040 * 2 * np.pi) + 3 * np.sin(np.arange(35_040) / 96 * 2 * np.pi)


@pytest.mark.parametrize("minutes", [None, 30.0])
def test_heating_follows_degree_hours(minutes):
    """Common practice: energy goes with the degrees below a balance; by month it matches them within its
    runs."""
    heating = circuit_kw(table(event_minutes=minutes, climate=("heating", 15.0, 1.0)), AIR)
    degrees = np.clip(15 - AIR, 0, None)
    by_month = np.bincount(month_of_step(), heating) / heating.sum()
    expected = np.bincount(month_of_step(), degrees) / degrees.sum()
    assert by_month == pytest.approx(expected, abs=0.02)
    assert heating.sum() / 4 == pytest.approx(700)


def test_cooling_and_heating_are_opposite_and_a_share_stays():
    cooling = circuit_kw(table(event_minutes=None, climate=("cooling", 15.0, 1.0)), AIR)
    assert not cooling[AIR <= 15].any()
    half = circuit_kw(table(event_minutes=None, climate=("cooling", 15.0, 0.5)), AIR)
    assert half[AIR <= 15].sum() / 4 == pytest.approx(350 * (AIR <= 15).mean(), rel=1e-6)


def test_weather_that_never_calls_leaves_the_timetable():
    never = circuit_kw(table(event_minutes=None, climate=("cooling", 39.0, 1.0)), AIR)
    assert np.array_equal(never, circuit_kw(table(event_minutes=None)))


def test_a_circuit_that_follows_the_weather_needs_one():
    with pytest.raises(ValueError, match="no temperature"):
        circuit_kw(table(climate=("heating", 15.0, 1.0)))
