"""The bound of several batteries: against another programme of one battery, by hand, and against the rule."""

from dataclasses import replace

import numpy as np
import pytest

from lodestaff.energy.bound import Leading, Metered, Storing, least_cost
from lodestaff.energy.dispatch import Battery, Converter, simulate
from lodestaff.energy.foresight import Store
from lodestaff.reckoning.leading import store_of
from tests.energy.test_foresight import DT, STEPS, bound, case

NOTHING = np.zeros((0, STEPS))
LOSSLESS = Store(
    rated_kw=10.0, k1=0.0, k2=0.0, floor=0.0, top=20.0, charge_kw=10.0, discharge_kw=10.0, eta_in=1.0,
    eta_out=1.0, taper=20.0, taper_end=1.0, gives=0.0,
)  # fmt: skip


def metered(seen, store, parts=1):
    """A case of one battery as so many equal ones, each with its part of the sun and of the load."""
    shared = ("rated_kw", "floor", "top", "charge_kw", "discharge_kw")
    part = store._replace(**{name: getattr(store, name) / parts for name in shared})
    storing = (Storing(0, seen.sun_dc / parts, part),) * parts
    return Metered(
        base=seen.load[None],
        sun_ac=seen.sun_ac[None],
        sun_row=(0,),
        storing=storing,
        leading=(),
        price=seen.price,
        export_price=seen.export_price,
        paid_kw=seen.export_kw,
        demand=0.0,
        step_h=DT,
    )


@pytest.mark.parametrize("seed", [1, 2])
@pytest.mark.parametrize("family", ["hybrid", "battery unit", "selling hybrid"])
def test_it_is_the_programme_of_one_and_of_equal_parts(seed, family):
    seen, store = case(seed, family)
    least = bound(seen, store)
    assert least_cost(metered(seen, store), [0, STEPS]) == pytest.approx(least, rel=1e-6)
    assert least_cost(metered(seen, store, parts=3), [0, STEPS]) == pytest.approx(least, rel=1e-6)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_in_pieces_it_is_never_above_and_near(seed):
    seen, store = case(seed, "hybrid")
    whole = least_cost(metered(seen, store, parts=2), [0, STEPS])
    pieces = least_cost(metered(seen, store, parts=2), [0, 96, STEPS])
    assert whole - 0.02 * abs(whole) <= pieces <= whole + 1e-9


def test_the_highest_import_by_hand():
    """1 kW for a day, 5 kW for its thirteenth hour, no loss: with 12 hours before it the highest import D
    is least where 12 (D - 1) = 5 - D, so 17/13 kW. By hand."""
    load = np.ones(24)
    load[12] = 5.0
    one = Storing(0, np.zeros(24), LOSSLESS._replace(floor=1.0))
    site = Metered(load[None], NOTHING[:, :24], (), (one,), (), np.full(24, 0.2), np.zeros(24), 0.0, 3.0, 1.0)
    assert least_cost(site, [0, 24]) == pytest.approx(28 * 0.2 + 3.0 * 17 / 13)


def test_what_may_not_sell_serves_its_load_alone():
    """Full sun of 4 kWh stored, sold dear: who may sell is paid; who may not spares 1 kW of load."""
    hours, sun = 6, np.array([4.0, 0, 0, 0, 0, 0])
    load, dear = np.full(hours, 1.0), np.array([0, 0, 0, 0, 0, 1.0])
    price = 0.2 + dear
    one = Storing(0, sun, LOSSLESS)
    lead = Leading((0,), (), load, np.maximum(load, sun), np.full(hours, 10.0), np.inf)
    site = Metered(load[None], NOTHING[:, :hours], (), (one,), (), price, dear, 99.0, 0.0, 1.0)
    assert least_cost(replace(site, leading=(lead,)), [0, hours]) == pytest.approx((6 - 4) * 0.2)
    # free to sell: in the last hour 10 kW go out, 9 of them sold, and the sun's 4 kWh are the cheap part
    assert least_cost(site, [0, hours]) == pytest.approx((6 + 9 - 4) * 0.2 - 9.0)


def test_a_stop_is_heard():
    seen, store = case(1, "hybrid")
    assert least_cost(metered(seen, store), [0, 96, STEPS], lambda share: share == 0) is None


@pytest.mark.parametrize("seed", [4, 5])
def test_no_rule_of_two_unlike_units_is_below(seed):
    seen, _ = case(seed, "hybrid")
    small = Battery(6.0, 0.1, 0.1, 1.0, 3.0, 3.0, 0.96, 0.96, 1.0, 1.0)
    large = Battery(12.0, 0.2, 0.2, 0.9, 5.0, 5.0, 0.98, 0.98, 1.0, 1.0)
    units = (Converter(0, 3.0, 3.0, 3.0, 0.05, 0.002, 0.0, 99.0, small, True),
             Converter(0, 5.0, 5.0, 5.0, 0.03, 0.001, 0.0, 99.0, large, True))  # fmt: skip
    sun = np.array([seen.sun_dc * 0.3, seen.sun_dc * 0.7])
    year = simulate(units, sun, seen.load[None], export_kw=2.0, import_kw=50.0)
    grid = year.series.grid_kw[0]
    paid = float(np.where(grid > 0, grid * seen.price, grid * seen.export_price).sum() * DT)
    storing = tuple(Storing(0, sun[at], store_of(one)) for at, one in enumerate(units))
    site = Metered(seen.load[None], NOTHING, (), storing, (), seen.price, seen.export_price, 2.0, 0.0, DT)
    assert least_cost(site, [0, 96, STEPS]) <= paid + 1e-9
