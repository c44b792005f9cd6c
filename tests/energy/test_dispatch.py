"""The year's dispatch against an independent slow simulator, its balances, signs and monotone truths."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lodestaff.energy import kernels
from lodestaff.energy.control import Controller, control_arrays
from lodestaff.energy.dispatch import (
    Battery,
    ChargeWindow,
    Converter,
    loss_curve,
    orders_of,
    simulate,
    unit_arrays,
)
from lodestaff.energy.late import forecast
from lodestaff.reckoning.figures import imbalance_kwh
from tests.energy.slow import simulate as slow_simulate

UNIT = Converter(0, 5.8, 6, 8, 0.02, 0.004, 0.04, 9, Battery(18, 0.1, 0.3, 1, 5, 5.5, 0.96, 0.95, 0.9, 0.15))


def random_days(seed, steps=192):
    random = np.random.default_rng(seed)
    hours = np.arange(steps) / 4 % 24
    sun = np.clip(np.sin((hours - 6) / 12 * np.pi), 0, None) * 10 * random.uniform(0, 1, steps)
    return sun[None, :], random.exponential(1.2, steps)[None, :]


def slow(unit, pv, load, export, imported, windows, soc, dt=0.25):
    bank = unit.battery
    battery = {
        "top": bank.capacity_kwh * bank.top_soc, "floor": bank.capacity_kwh * bank.reserve_soc,
        "charge_kw": bank.charge_kw,
        "discharge_kw": bank.discharge_kw, "eta_charge": bank.eta_charge, "eta_discharge": bank.eta_discharge,
        "taper": bank.capacity_kwh * bank.taper_start_soc, "taper_end": bank.taper_end_share,
    }  # fmt: skip
    plain = {"k1": unit.k1, "k2": unit.k2, "rated_kw": unit.rated_kw, "pv_max_kw": unit.pv_max_kw}
    return slow_simulate(
        plain,
        battery,
        pv[0],
        load[0] + unit.own_use_kw,
        export,
        imported,
        windows,
        bank.capacity_kwh * soc,
        dt,
    )


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize(("export", "imported"), [(3.6, 23.0), (0.0, 3.0), (np.inf, np.inf)])
def test_the_kernel_does_what_the_slow_simulator_does(seed, export, imported):
    pv, load = random_days(seed)
    active = (np.arange(pv.size) // 4 % 24 >= 1) & (np.arange(pv.size) // 4 % 24 < 5)
    year = simulate((UNIT,), pv, load, (ChargeWindow(active, 0.8, 3.0),), export, imported, soc_start=0.5)
    expected = slow(
        UNIT, pv, load, export, imported, [(18 * 0.8, 3.0) if one else None for one in active], 0.5
    )
    for name, series in (
        ("pv_ac", year.series.pv_ac_kw),
        ("battery_ac", year.series.battery_ac_kw),
        ("grid", year.series.grid_kw),
        ("energy", year.series.energy_kwh),
    ):
        assert series[0] == pytest.approx([row[name] for row in expected], abs=1e-7), name


numbers = st.floats(0, 12, allow_nan=False)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(numbers, numbers), min_size=4, max_size=60),
    numbers,
    numbers,
    st.floats(0.3, 1),
    st.floats(0, 0.06),
    st.floats(0, 0.01),
)
def test_every_bus_balances_and_the_battery_keeps_its_bounds(steps, export, imported, soc, k1, k2):
    """Within 1e-9 kWh at each bus, whatever is asked."""
    pv = np.array([[sun for sun, _ in steps]])
    load = np.array([[need for _, need in steps]])
    unit = Converter(0, 5, 5, 5, k1, k2, 0.03, 8, UNIT.battery)
    window = ChargeWindow(np.arange(len(steps)) % 5 == 0, 0.9, 2.5)
    year = simulate((unit,), pv, load, (window,), export, imported, soc_start=soc)
    assert max(imbalance_kwh(year, (unit,)).values()) < 1e-9
    series = year.series
    assert series.energy_kwh.min() >= 18 * 0.3 - 1e-9
    assert series.energy_kwh.max() <= 18 + 1e-9
    assert year.export_kw.sum(axis=0).max() <= export + 1e-9
    assert (series.pv_ac_kw + series.battery_ac_kw).max() <= 5 + 1e-9
    assert (
        min(series.pv_ac_kw.min(), series.clipped_kw.min(), series.curtailed_kw.min(), series.pv_dc_kw.min())
        >= -1e-12
    )


def test_signs_at_the_ac_bus():
    """What feeds the bus is positive: discharge and import above 0, charge and export below."""
    night = simulate((UNIT,), np.zeros((1, 4)), np.full((1, 4), 7.0), soc_start=0.9)
    assert (night.series.battery_ac_kw > 0).all()
    assert (night.series.grid_kw > 0).all()
    noon = simulate((UNIT,), np.full((1, 4), 8.0), np.zeros((1, 4)), soc_start=0.5)
    assert (noon.series.battery_dc_kw < 0).all()
    assert (noon.series.grid_kw < 0).all()
    charge = simulate(
        (UNIT,),
        np.zeros((1, 4)),
        np.zeros((1, 4)),
        (ChargeWindow(np.ones(4, bool), 1.0, 2.0),),
        soc_start=0.4,
    )
    assert charge.series.battery_ac_kw == pytest.approx(-2.0)


def test_sun_into_the_battery_never_shows_on_the_ac_bus():
    """More DC than the inverter's rating is taken while the battery charges."""
    noon = simulate((UNIT,), np.full((1, 1), 9.0), np.full((1, 1), 5.76), soc_start=0.4)
    assert noon.series.pv_dc_kw[0, 0] > UNIT.rated_kw
    assert noon.series.pv_ac_kw[0, 0] == pytest.approx(5.8)


def test_clipped_and_curtailed_are_kept_apart():
    full = simulate((UNIT,), np.full((1, 1), 10.0), np.full((1, 1), 1.0), export_kw=2.0, soc_start=1.0)
    dc_at_rating = 5.8 * (1 + 0.02) + 0.004 * 5.8**2
    assert full.series.clipped_kw[0, 0] == pytest.approx(10 - dc_at_rating)
    made = 1.0 + 0.04 + 2.0
    assert full.series.curtailed_kw[0, 0] == pytest.approx(dc_at_rating - (made * 1.02 + 0.004 * made**2))


def test_charging_yields_to_the_import_limit():
    window = (ChargeWindow(np.ones(4, bool), 1.0, 5.0),)
    year = simulate((UNIT,), np.zeros((1, 4)), np.full((1, 4), 2.0), window, import_kw=3.0, soc_start=0.4)
    assert year.series.grid_kw[0] == pytest.approx(3.0)
    beyond = simulate((UNIT,), np.zeros((1, 4)), np.full((1, 4), 4.0), window, import_kw=3.0, soc_start=0.4)
    assert beyond.series.grid_kw[0] == pytest.approx(4.04)
    assert (beyond.series.battery_ac_kw == 0).all()


def test_two_hybrids_on_two_phases_keep_to_their_own():
    """Lists and phases: each unit serves its phase; the export limit is shared in proportion."""
    other = Converter(1, 5.8, 6, 8, 0.02, 0.004, 0.04, 9, UNIT.battery)
    pv = np.array([[5.0] * 8, [3.0] * 8])
    load = np.array([[0.5] * 8, [0.7] * 8, [1.0] * 8])
    year = simulate((UNIT, other), pv, load, export_kw=2.0, soc_start=1.0)
    assert max(imbalance_kwh(year, (UNIT, other)).values()) < 1e-9
    assert year.series.grid_kw[2] == pytest.approx(1.0)
    exported = -year.series.grid_kw[:2]
    assert exported.sum(axis=0) == pytest.approx(2.0)
    possible = [
        kernels.ac_from.py_func(sun, 0.02, 0.004) - need - 0.04 for sun, need in ((5.0, 0.5), (3.0, 0.7))
    ]
    assert exported[0, 0] / exported[1, 0] == pytest.approx(possible[0] / possible[1])


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 1000), st.floats(2, 20), st.floats(1.01, 3))
def test_more_battery_never_imports_more(seed, capacity, times):
    """True for the plain rule: constant efficiency, no own use, no windows, equal reserve in kWh."""
    pv, load = random_days(seed, 96 * 4)

    def imported(kwh):
        bank = Battery(kwh, 0, 0, 1, 5, 5, 0.95, 0.95, 1, 1)
        return simulate(
            (Converter(0, 6, 6, 6, 0.03, 0, 0, 9, bank),), pv, load, soc_start=0.0
        ).import_kw.sum()

    assert imported(capacity * times) <= imported(capacity) + 1e-6


@pytest.mark.parametrize("count", [1, 2, 3])
def test_the_compiled_loop_of_few_units_and_the_plain_one_of_any_agree_to_the_bit(count):
    """One and two that are each led by themselves have loops of their own; three haven't."""
    days = [random_days(3 + number, 96) for number in range(count)]
    pv, load = np.vstack([sun for sun, _ in days]), np.vstack([drawn for _, drawn in days])
    led_by = tuple(
        Controller((at,), load[at], limit=at, export_kw=3.0 - at, import_kw=20.0) for at in range(count)
    )
    units = (UNIT,) * count
    controls, led = control_arrays(led_by, (0.04,) * count)
    ahead, orders = forecast(pv, load, np.full(count, 2.0)), orders_of(units, (), 96)
    given_ = (unit_arrays(units, led), controls, pv, orders, ahead, np.full(count, 9.0), 0.25)
    room = np.zeros((7, *pv.shape))
    kernels.rule.py_func(0, *given_, room)
    assert room[0].any(), "there is sun"
    assert room[3].any(), "and the batteries work"
    for fast, slow_ in zip(kernels.dispatch(*given_), room, strict=False):
        assert np.array_equal(fast, slow_)


@settings(deadline=None)
@given(st.floats(0, 20), st.floats(0, 0.1), st.floats(0, 0.02))
def test_ac_and_dc_are_each_others_inverse(ac, k1, k2):
    assert kernels.ac_from(kernels.dc_for(ac, k1, k2), k1, k2) == pytest.approx(ac, abs=1e-9)


def test_the_loss_curve_meets_the_sheet():
    """Within half a point of every efficiency on the sheet, own use counted in."""
    points = ((0.1, 0.925), (0.2, 0.95), (0.3, 0.96), (0.5, 0.965), (0.75, 0.964), (1.0, 0.96))
    k1, k2 = loss_curve(points, 5.8, 0.04)
    for share, eta in points:
        ac = share * 5.8
        assert ac / (kernels.dc_for(ac, k1, k2) + 0.04) == pytest.approx(eta, abs=0.005)


def test_one_point_is_a_constant_efficiency():
    k1, k2 = loss_curve(((1.0, 0.96),), 5.0, 0.0)
    assert k2 == 0
    assert 1 / (1 + k1) == pytest.approx(0.96)
