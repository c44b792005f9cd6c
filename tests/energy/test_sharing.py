"""Units that share: in proportion to what each can give, whatever their order; one island as one."""

from dataclasses import replace
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lodestaff.energy.dispatch import Battery, ChargeWindow, Converter, simulate
from lodestaff.energy.together import together

STEPS = 192


def unit(rated, kwh, pv_max=99.0, ac=False, phase=0, share=0.5):
    bank = Battery(kwh, 0.1, 0.2, 1.0, kwh * share, kwh * share, 0.97, 0.97, 0.9, 0.2) if kwh else None
    return Converter(phase, rated, rated, rated, 0.02, 0.004, 0.02, pv_max, bank, ac)


def two_days(seed, units):
    dice = np.random.default_rng(seed)
    sun = np.clip(np.sin(np.linspace(0, 4 * np.pi, STEPS)), 0, None) * dice.uniform(1, 7, units)[:, None]
    return sun * dice.uniform(0.3, 1, sun.shape), dice.uniform(0.1, 6, (1, STEPS))


@settings(max_examples=25)
@given(st.integers(0, 10_000))
def test_the_order_of_units_changes_nothing(seed):
    dice = np.random.default_rng(seed)
    units = (unit(5.0, 9.6), unit(8.0, float(dice.choice([0.0, 4.8]))), unit(3.0, 9.8, ac=True))
    sun, load = two_days(seed, 3)
    sun[2] = 0.0  # an AC-coupled battery has no sun of its own
    window = (ChargeWindow(np.arange(STEPS) % 96 < 20, 0.8, 2.0),) if seed % 2 else ()
    first = None
    for order in permutations(range(3)):
        found = simulate(tuple(units[i] for i in order), sun[list(order)], load, window, 3.0, 9.0)
        back = np.argsort(order)
        values = (
            found.series.grid_kw,
            found.series.energy_kwh[back],
            found.series.pv_ac_kw[back],
            found.series.curtailed_kw[back],
        )
        if first is None:
            first = values
        for one, other in zip(first, values, strict=True):
            np.testing.assert_allclose(one, other, atol=1e-9)


def test_equal_units_stay_equal():
    """By hand: two equal units with equal sun share every flow by halves."""
    sun, load = two_days(4, 1)
    pair = simulate((unit(5.0, 9.6), unit(5.0, 9.6)), np.vstack([sun, sun]), load)
    np.testing.assert_allclose(pair.series.energy_kwh[0], pair.series.energy_kwh[1], atol=1e-9)


def test_three_batteries_behind_one_gateway_charge_and_give_together():
    sun, load = two_days(7, 1)
    dark = np.zeros_like(sun)
    units = (unit(6.0, 0.0), unit(5.0, 9.8, ac=True), unit(5.0, 9.8, ac=True), unit(5.0, 9.8, ac=True))
    found = simulate(units, np.vstack([sun, dark, dark, dark]), load)
    assert found.series.energy_kwh[1].max() > 2.0
    for other in (2, 3):
        np.testing.assert_allclose(found.series.energy_kwh[1], found.series.energy_kwh[other], atol=1e-9)


def test_units_of_one_island_are_one():
    """By hand: ratings and energies add up; two equal units have the loss of each at half of the power,
    twice."""
    one = unit(5.0, 9.6)
    both = together((one, one))
    assert (both.rated_kw, both.rated_kva, both.own_use_kw) == (10.0, 10.0, 0.04)
    assert both.battery.capacity_kwh == pytest.approx(19.2)
    assert both.battery.discharge_kw == pytest.approx(2 * one.battery.discharge_kw)
    power = 6.0
    half = one.k1 * power / 2 + one.k2 * (power / 2) ** 2
    assert both.k1 * power + both.k2 * power**2 == pytest.approx(2 * half)
    assert together((one,)) is one
    with pytest.raises(ValueError, match="no unit"):
        together(())


class TestExportLimit:
    """What obeys no meter gives all it makes; the others share what the limit leaves. Worked by hand."""

    def day(self, *keeps, limit=3.0, sun=(4.0, 4.0)):
        units = tuple(
            replace(unit(5.0, 0.0), k1=0.0, k2=0.0, own_use_kw=0.0, keeps_limit=one) for one in keeps
        )
        dc = np.repeat(np.array(sun)[:, None], 4, axis=1)
        return simulate(units, dc, np.full((1, 4), 1.0), (), limit, 99.0).series

    def test_all_obey(self):
        np.testing.assert_allclose(self.day(True, True).grid_kw, -3.0)

    def test_one_obeys_none(self):
        found = self.day(
            True, False
        )  # its transformer sees 3 kW of the loose one go out: all that is allowed
        np.testing.assert_allclose(found.grid_kw, -3.0)
        np.testing.assert_allclose(found.pv_ac_kw[:, 0], (0.0, 4.0))
        np.testing.assert_allclose(found.curtailed_kw[:, 0], (4.0, 0.0))

    def test_the_loose_one_alone_goes_past_the_limit(self):
        found = self.day(True, False, limit=2.0)
        np.testing.assert_allclose(found.grid_kw, -3.0)
        np.testing.assert_allclose(found.pv_ac_kw[:, 0], (0.0, 4.0))

    def test_what_the_loose_one_leaves_is_the_others(self):
        found = self.day(True, False, limit=5.0)
        np.testing.assert_allclose(found.grid_kw, -5.0)
        np.testing.assert_allclose(found.pv_ac_kw[:, 0], (2.0, 4.0))

    def test_none_obeys(self):
        found = self.day(False, False, limit=0.0)
        np.testing.assert_allclose(found.grid_kw, -7.0)
        np.testing.assert_allclose(found.curtailed_kw, 0.0)
