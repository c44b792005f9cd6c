"""Totals of a split, and derating."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lodestaff.electrical.split import Running, derating, totals

circuit = st.builds(
    lambda kw, pf, times, s: Running("c", kw, pf, kw / pf * times, s),
    st.floats(0.01, 8),
    st.floats(0.5, 1),
    st.floats(1, 8),
    st.floats(0, 5),
)


def test_nothing_held():
    nothing = totals(())
    assert (nothing.kw, nothing.kva, nothing.worst_kva, nothing.worst_name) == (0, 0, 0, "")


def test_apparent_power_adds_by_kw_and_kvar():
    """Derived: 3 kW at 1.0 and 3 kW at 0.6 are 6 kW and 4 kvar, 7.211 kVA, not 8."""
    both = totals((Running("a", 3, 1, 3), Running("b", 3, 0.6, 5)))
    assert both.kva == pytest.approx(math.hypot(6, 4))
    assert both.running_kva_sum == pytest.approx(8)


@given(st.lists(circuit, min_size=1, max_size=12))
def test_orders_that_always_hold(circuits):
    found = totals(tuple(circuits))
    assert found.kw <= found.kva + 1e-9
    assert found.kva <= found.running_kva_sum + 1e-9
    assert found.running_kva_sum <= found.worst_kva + 1e-9
    assert found.worst_kva <= found.together_kva + 1e-9
    brute = max(found.running_kva_sum + max(0, one.start_kva - one.kva) for one in circuits)
    assert found.worst_kva == pytest.approx(brute)


@pytest.mark.parametrize(
    ("ambient", "altitude", "expected"),
    # Derived: 2 %/K above 40 °C; 1 % per 100 m above 2000 m (common practice).
    [(25, 0, 1.0), (40, 2000, 1.0), (50, 0, 0.8), (40, 2500, 0.95), (50, 2500, 0.76), (95, 0, 0.0)],
)
def test_derating(ambient, altitude, expected):
    assert derating(ambient, altitude, 40, 2, 2000) == pytest.approx(expected)


def test_a_sheet_without_derating_takes_nothing_off():
    assert derating(70, 4000, None, None, None) == 1.0
