"""A year and a day reckoned a second way: by hand from the series, and by linear programme."""

import numpy as np
import pytest
from scipy.optimize import linprog

from lodestaff.energy.dispatch import Battery, Converter, simulate
from lodestaff.job import Change, edit
from lodestaff.reckoning.figures import imbalance_kwh


def lossless(battery):
    return Converter(0, 20, 20, 20, 0, 0, 0, 99, battery)


@pytest.mark.parametrize("seed", range(5))
def test_greedy_import_is_the_least_there_can_be(seed):
    """Source: derived. With free export and one price, using the battery at once is the best a plan can do.

    The least import by linear programme over charge, discharge and energy of each hour.
    """
    random = np.random.default_rng(seed)
    hours = 48
    pv = np.clip(np.sin((np.arange(hours) % 24 - 6) / 12 * np.pi), 0, None) * random.uniform(0, 6, hours)
    load = random.uniform(0.2, 2.5, hours)
    eta, capacity, power = 0.95, 9.0, 2.5
    year = simulate(
        (lossless(Battery(capacity, 0, 0, 1, power, power, eta, eta, 1, 1)),),
        pv[None],
        load[None],
        soc_start=0.0,
        step_h=1.0,
    )
    # variables: import, export, charge, discharge (each per hour); energy is their running sum
    n = hours
    cost = np.concatenate([np.ones(n), np.full(n, 1e-6), np.zeros(2 * n)])
    identity = np.eye(n)
    balance = np.hstack([identity, -identity, -identity, identity])
    running = np.tril(np.ones((n, n)))
    energy = np.hstack([np.zeros((n, 2 * n)), eta * running, -running / eta])
    limits = np.vstack([energy, -energy])
    bounds = [(0, None)] * (2 * n) + [(0, power)] * (2 * n)
    best = linprog(
        cost,
        A_ub=limits,
        b_ub=np.concatenate([np.full(n, capacity), np.zeros(n)]),
        A_eq=balance,
        b_eq=load - pv,
        bounds=bounds,
    )
    assert best.success
    assert year.kwh(year.import_kw) == pytest.approx(best.x[:n].sum(), abs=1e-5)


def test_without_array_and_battery_the_bill_is_the_load_times_its_price(reckoner, larkmoor):
    """Source: derived; each quarter hour by its own band."""
    low = reckoner.low_band(larkmoor)
    load = reckoner.load_kw(larkmoor)[0] / 4
    tariff = larkmoor.tariff
    expected = (
        load[low].sum() * tariff.import_low
        + load[~low].sum() * tariff.import_high
        + 365 * tariff.standing_per_day
    )
    assert reckoner.figures(larkmoor).money.without == pytest.approx(expected)


def test_the_low_band_is_five_hours_of_every_day(reckoner, larkmoor):
    """00:30 to 05:30 by the standard clock: 20 quarter hours."""
    days = reckoner.low_band(larkmoor).reshape(365, 96)
    assert set(days.sum(axis=1)) == {20}


def test_a_year_without_sun_or_window_buys_the_load_and_the_units_own_use(reckoner, larkmoor):
    off = [
        Change(f"faces/{face.id}/modules/{m.id}/string", "") for face in larkmoor.faces for m in face.modules
    ]
    job = edit(larkmoor, *off, Change("limits/windows/night", None))
    figures = reckoner.figures(job)
    assert figures.pv_kwh == 0
    assert figures.import_kwh == pytest.approx(figures.load_kwh + figures.own_use_kwh)
    assert figures.own_use_kwh == pytest.approx(0.04 * 8760)
    assert figures.cycles == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize(
    ("change", "figure", "up"),
    # Facts of the trade (common practice): the direction in which a figure goes.
    [
        (Change("limits/export_kw", 1.0), "export_kwh", False),
        (Change("limits/export_kw", 1.0), "curtailed_kwh", True),
        (Change("limits/reserve_soc", 0.8), "cycles", False),
        (Change("limits/reserve_soc", 0.8), "bill", True),
        (Change("banks/battery/modules", 6), "bill", False),
        (Change("banks/battery/modules", 1), "export_kwh", True),
        (Change("limits/windows/night", None), "bill", True),
        (Change("tariff/export", 0.3), "bill", False),
        (Change("circuits/immersion/kwh_year", 3000), "import_kwh", True),
        (Change("faces/south-east/azimuth_deg", 0), "pv_kwh", False),
        (Change("banks/battery/state_of_health", 0.7), "bill", True),
        (Change("site/latitude_deg", 45.0), "pv_kwh", True),
    ],
)
def test_figures_go_the_way_the_trade_knows(reckoner, larkmoor, change, figure, up):
    before, after = (getattr(reckoner.figures(job), figure) for job in (larkmoor, edit(larkmoor, change)))
    assert (after > before) == up
    assert after != before


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_other_weather_years_balance_too(reckoner, larkmoor, seed):
    job = edit(larkmoor, Change("site/weather/seed", seed))
    assert max(imbalance_kwh(reckoner.year(job), reckoner.converters(job)).values()) < 1e-9
    assert reckoner.figures(job).pv_kwh == pytest.approx(reckoner.figures(larkmoor).pv_kwh, rel=0.06)


@pytest.mark.parametrize(
    ("change", "longer"),
    # Facts of the trade (common practice): what makes an outage last.
    [
        (Change("circuits/consulting/role", "grid only"), True),
        (Change("limits/reserve_soc", 0.6), True),
        (Change("circuits/immersion/role", "held"), False),
        (Change("banks/battery/modules", 2), False),
        (Change("limits/shed_soc", 0.2), False),
    ],
)
def test_endurance_goes_the_way_the_trade_knows(reckoner, larkmoor, change, longer):
    """From a full battery on a January evening where the battery is changed; else from the reserve."""
    from lodestaff.reckoning import Moment

    moment = Moment(month=1, hour=18, soc=0.9)
    if "reserve" in change.path:
        moment = Moment(month=1, hour=18)
    job = edit(larkmoor, change)
    before = reckoner.outage(larkmoor, larkmoor.units[0], moment).hours
    after = reckoner.outage(job, job.units[0], moment).hours
    assert (after > before) == longer
    assert after != before


def test_the_worst_night_is_in_winter_and_the_best_sun_in_summer(reckoner, larkmoor):
    ride = reckoner.ride(larkmoor, larkmoor.units[0])
    assert ride.worst(5)[0] in ("November", "December", "January")
    by_month = [ride.percentile_h(month, 50) for month in range(12)]
    assert max(by_month[4:8]) > max(by_month[0], by_month[11])
