"""A year's bill and one cycle of arbitrage, against values computed twice elsewhere."""

import numpy as np
import pytest

from lodestaff.energy.tariff import bill, cycle_gain, self_consumption, self_sufficiency


def test_yearly_bill_and_ratios():
    """Source: derived."""
    flat = np.ones(1)
    money = bill(1480 * flat[None], 1560 * flat[None], 3900 * flat[None], 0.285 * flat, 0.15, 0.55, 365, 1.0)
    assert self_consumption(4200, 1560) == pytest.approx(0.6286, rel=1e-3)
    assert self_sufficiency(3900, 1480) == pytest.approx(0.6205, rel=1e-3)
    assert money.bill == pytest.approx(388.5, rel=1e-3)
    assert money.without == pytest.approx(1312, rel=1e-3)
    assert money.saving == pytest.approx(923.7, rel=1e-3)


def test_one_cycle_of_arbitrage():
    """Source: derived; break-even by root finding."""
    cycle = cycle_gain(9.5, 0.955, 0.955, 0.075, 0.285, 0.15, 0.02)
    assert cycle.in_kwh == pytest.approx(9.948, rel=1e-3)
    assert cycle.out_kwh == pytest.approx(9.072, rel=1e-3)
    assert cycle.out_kwh / cycle.in_kwh == pytest.approx(0.9120, rel=1e-3)
    assert cycle.gain_from_grid == pytest.approx(1.658, rel=1e-3)
    assert cycle.gain_from_sun == pytest.approx(0.9121, rel=1e-3)
    assert cycle.break_even_price == pytest.approx(0.1022, rel=1e-3)
