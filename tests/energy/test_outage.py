"""Outages: when they end and why, against a slow simulation in seconds."""

import numpy as np
import pytest

from lodestaff.energy import riding
from lodestaff.energy.dispatch import Battery, Converter
from lodestaff.energy.outage import (
    CircuitSeries,
    island_arrays,
    island_loads,
    island_of,
    loop_arrays,
    no_generator,
    reserve_needed_kwh,
    ride_horizon_h,
    ride_starts,
    ride_through,
    run_outage,
)
from tests.energy.slow import outage_hours

BANK = Battery(18, 0.1, 0.3, 1, 5, 5.5, 0.96, 0.95, 1.0, 1.0)
UNIT = Converter(0, 5.8, 6, 8, 0.02, 0.004, 0.04, 9, BANK)


def series(kw, running, start=None, shed_soc=0.4):
    kw = np.asarray(kw, float)
    return CircuitSeries(kw, running, start if start is not None else running, shed_soc)


def arrays(pv, *held, shed=()):
    sun = np.atleast_2d(np.asarray(pv, float))
    return island_arrays(sun, island_loads(held, tuple(shed), UNIT.own_use_kw, sun.shape[1]))


@pytest.mark.parametrize("seed", range(5))
@pytest.mark.parametrize("soc", [0.25, 0.6, 1.0])
def test_endurance_against_seconds(seed, soc):
    """Within the slow simulation's own step."""
    random = np.random.default_rng(seed)
    hours = np.arange(400) / 4 % 24
    pv = np.clip(np.sin((hours - 7) / 10 * np.pi), 0, None) * 3 * random.uniform(0, 1, 400)
    held = random.uniform(0.2, 1.6, 400)
    outage = run_outage(arrays(pv, series(held, 1.6)), island_of(UNIT), 0, 18 * soc, horizon_h=99)
    unit = {"k1": 0.02, "k2": 0.004, "pv_max_kw": 9}
    battery = {"top": 18, "floor": 1.8, "charge_kw": 5, "eta_charge": 0.96, "eta_discharge": 0.95}
    expected = outage_hours(unit, battery, pv, held + 0.04, 0, 18 * soc, 0.25, 90)
    assert outage.reason == "energy"
    assert outage.hours == pytest.approx(expected, abs=0.25 / 90 + 1e-9)


def test_an_overload_ends_it():
    outage = run_outage(
        arrays([0] * 96, series([1] * 20 + [4] * 76, 4.0), series([0] * 20 + [3] * 76, 3.0)),
        island_of(UNIT),
        0,
        18,
    )
    assert outage.reason == "overload"
    assert outage.hours == 5.0


def test_a_start_ends_it():
    """Running alone fits; the compressor's start on top of it does not."""
    compressor = series([0] * 12 + [0.3] * 84, 0.9, 5.0)
    outage = run_outage(arrays([0] * 96, series([2] * 96, 3.2), compressor), island_of(UNIT), 0, 18)
    assert outage.reason == "start"
    assert outage.hours == 3.0


def test_a_battery_that_cannot_give_the_power_ends_it():
    weak = Converter(0, 5.8, 6, 8, 0.02, 0.004, 0.04, 9, Battery(18, 0.1, 0.3, 1, 5, 2.0, 0.96, 0.95, 1, 1))
    outage = run_outage(arrays([0] * 96, series([3] * 96, 3.2)), island_of(weak), 0, 18)
    assert (outage.reason, outage.hours) == ("overload", 0.0)


def test_with_enough_sun_it_is_held():
    outage = run_outage(arrays([5] * 96, series([1] * 96, 1.1)), island_of(UNIT), 0, 9, horizon_h=168)
    assert outage.reason == "held"
    assert outage.hours == 168
    assert outage.energy_kwh[-1] == pytest.approx(18)


def test_shed_first_circuits_drop_at_their_level():
    quiet, shed = series([0.5] * 96, 0.6), series([1.5] * 96, 1.6, shed_soc=0.5)
    outage = run_outage(arrays([0] * 96, quiet, shed=[shed]), island_of(UNIT), 0, 18)
    first_off = int(np.argmin(outage.shed_on))
    assert outage.shed_on[:first_off].all()
    assert not outage.shed_on[first_off:].any()
    assert outage.energy_kwh[first_off - 1] <= 9.0 < outage.energy_kwh[first_off - 2]


def test_shed_first_circuits_drop_instead_of_an_overload():
    quiet, heavy = series([0.5] * 96, 0.6), series([5.5] * 96, 5.6, shed_soc=0.2)
    outage = run_outage(arrays([0] * 96, quiet, shed=[heavy]), island_of(UNIT), 0, 18)
    assert outage.reason == "energy"
    assert not outage.shed_on.any()


def test_circuits_of_different_levels_are_shed_one_after_the_other():
    """The one with the higher level goes first; each is off from the step after its level on."""
    quiet = series([0.3] * 96, 0.4)
    early, late = series([0.8] * 96, 0.9, shed_soc=0.7), series([0.6] * 96, 0.7, shed_soc=0.35)
    outage = run_outage(arrays([0] * 96, quiet, shed=[early, late]), island_of(UNIT), 0, 18)
    tiers = outage.shed_on
    assert list(dict.fromkeys(tiers)) == [2.0, 1.0, 0.0]
    first, second = int(np.argmax(tiers < 2)), int(np.argmax(tiers < 1))
    assert outage.energy_kwh[first - 1] <= 18 * 0.7 < outage.energy_kwh[first - 2]
    assert outage.energy_kwh[second - 1] <= 18 * 0.35 < outage.energy_kwh[second - 2]


def test_an_overload_drops_only_as_many_as_it_must():
    quiet = series([0.5] * 96, 0.6)
    light, heavy = series([0.4] * 96, 0.5, shed_soc=0.1), series([5.5] * 96, 5.6, shed_soc=0.5)
    outage = run_outage(arrays([0] * 96, quiet, shed=[light, heavy]), island_of(UNIT), 0, 18)
    assert set(outage.shed_on) == {1.0}


def test_the_year_runs_on_into_the_next():
    held = np.full(35_040, 0.5)
    outage = run_outage(arrays(np.zeros(35_040), series(held, 0.6)), island_of(UNIT), 35_036, 18)
    assert outage.hours > 24


def test_no_battery_no_outage():
    with pytest.raises(ValueError, match="without a battery"):
        island_of(Converter(0, 5, 5, 5, 0, 0, 0, 9, None))


@pytest.fixture(scope="module")
def year():
    random = np.random.default_rng(5)
    hours = np.arange(35_040) / 4 % 24
    pv = np.clip(np.sin((hours - 8) / 8 * np.pi), 0, None) * random.uniform(0, 2.5, 35_040)
    return arrays(pv, series(random.uniform(0.1, 1.1, 35_040), 1.2))


def test_ride_through_is_many_single_outages(year):
    island = island_of(UNIT, energy_only=True)
    ride = ride_through(year, island, 9.0, 24)
    for index in (0, 1, 777, 2919):
        assert ride.hours[index] == run_outage(year, island, index * 12, 9.0, horizon_h=24).hours


@pytest.mark.parametrize("promised", [6.0, 10.0])
def test_the_reserve_needed_is_just_enough(year, promised):
    """With it 19 of 20 outages of every month last the promised hours; with half a kWh less they don't."""
    island = island_of(UNIT, energy_only=True)
    needed = reserve_needed_kwh(year, island, promised, 5)
    horizon = ride_horizon_h(promised)
    assert ride_through(year, island, needed, horizon).worst(5)[1] >= promised - 1e-9
    assert ride_through(year, island, needed - 0.5, horizon).worst(5)[1] < promised


def test_a_battery_too_small_for_the_promise_says_so(year):
    assert reserve_needed_kwh(year, island_of(UNIT, energy_only=True), 168, 5) == np.inf


def test_percentiles_are_numpys(year):
    ride = ride_through(year, island_of(UNIT, energy_only=True), 9.0, 24)
    for month in (0, 6):
        assert ride.percentile_h(month, 5) == pytest.approx(
            np.percentile(ride.hours[ride.starts_month == month], 5)
        )


def test_the_compiled_outage_and_the_plain_one_agree_to_the_bit(year):
    island = island_of(UNIT)
    trace, plain = np.zeros((96, 5)), np.zeros((96, 5))
    given, ac_sun, units = loop_arrays(year, island)
    begun = (given, ac_sun, units, no_generator(given), 5000, np.array([12.0]), 96, 0.25)
    assert riding.outage(*begun, trace) == riding.outage.py_func(*begun, plain)
    assert np.array_equal(trace, plain)


@pytest.mark.parametrize("begins", [5.0, 9.0, 14.0])
def test_many_outages_are_as_long_as_each_by_itself(year, begins):
    """What is reckoned once for all full islands is what each outage comes to that is followed alone."""
    island = island_of(UNIT)
    starts = np.arange(0, 35_040, 731)
    together = ride_starts(year, island, starts, np.full((starts.size, 1), begins), horizon_h=240)
    alone = [run_outage(year, island, int(start), begins, horizon_h=240).hours for start in starts]
    assert together == pytest.approx(alone, abs=1e-9)
    assert len({round(hours, 6) for hours in alone}) > 10
