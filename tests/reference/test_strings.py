"""String voltages, lengths, currents and fuses, against values computed twice elsewhere."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lodestaff.electrical.strings import (
    at_temperature,
    module_volts,
    string_fuse,
    string_lengths,
    tracker_currents,
)

FUSES = (10, 12, 15, 16, 20, 25, 30, 32)


def test_open_circuit_voltage_at_the_record_low():
    """Source: IEC 62548 clause on array maximum voltage; NEC 690.7(A)(1) (from memory)."""
    assert pytest.approx(-135.0, rel=1e-3) == -0.272 / 100 * 49.62 * 1000
    cold = at_temperature(49.62, -0.272, -17)
    assert cold == pytest.approx(55.29, rel=1e-3)
    assert (500 // cold, 600 // cold) == (9, 10)
    assert 9 * cold == pytest.approx(497.6, rel=1e-3)
    assert 10 * cold == pytest.approx(552.9, rel=1e-3)


def test_string_length_range():
    """Source: IEC 62548 string design; common practice for the mounting rise."""
    volts = module_volts(49.62, -0.272, 41.34, -0.335, -17, 38, 32)
    assert volts.hot_c == 70
    assert volts.vmp_hot_v == pytest.approx(35.11, rel=1e-3)
    assert volts.voc_hot_v == pytest.approx(43.55, rel=1e-3)
    assert volts.vmp_cold_v == pytest.approx(47.16, rel=1e-3)
    lengths = string_lengths(volts, 120, 450, 150, 500)
    assert (lengths.least, lengths.most) == (4, 9)
    assert 9 * volts.vmp_hot_v == pytest.approx(316.0, rel=1e-3)


def test_design_current_of_one_string():
    """Source: IEC 62548; NEC 690.8(A)(1), 690.8(B)(1) (from memory)."""
    one = tracker_currents([13.88], [13.07], 1.25, 12.5)
    assert one.design_a == pytest.approx(17.35, rel=1e-3)
    assert one.design_a <= 18
    assert one.clipped_a == pytest.approx(0.57, rel=1e-3)
    assert 100 * one.clipped_a / one.imp_sum_a == pytest.approx(4.361, rel=1e-3)
    assert tracker_currents([13.88], [13.07], 1.5625, 12.5).design_a == pytest.approx(21.69, rel=1e-3)


def test_two_strings_are_rated_by_the_plain_sum():
    """Source: derived; whatever the azimuths, a short-circuit rating is no matter of typical sun."""
    assert tracker_currents([9.85, 9.85], [9, 9], 1.25, 22).design_a == pytest.approx(24.62, rel=1e-3)


@pytest.mark.parametrize(("parallel", "reverse", "needed"), [(2, 13.88, False), (3, 27.76, True)])
def test_reverse_current_and_fuses(parallel, reverse, needed):
    """Source: IEC 62548 string overcurrent protection (from memory); list of gPV ratings: common practice."""
    fuse = string_fuse(parallel, 13.88, 25, FUSES)
    assert fuse.reverse_a == pytest.approx(reverse, rel=1e-3)
    assert fuse.needed is needed
    assert fuse.least_a == pytest.approx(20.82, rel=1e-3)
    assert fuse.most_a == pytest.approx(33.31, rel=1e-3)
    assert fuse.choices_a == (25,)


@given(
    st.floats(20, 60),
    st.floats(-0.4, -0.2),
    st.floats(0.75, 0.9),
    st.floats(-40, 10),
    st.floats(25, 45),
    st.floats(20, 35),
    st.floats(80, 300),
    st.floats(350, 900),
    st.floats(1.05, 1.5),
)
def test_lengths_by_trying_every_one(voc, beta, ratio, low, high, rise, v_min, v_max, above):
    """Against trying every length from 1 to 80 by its own words."""
    volts = module_volts(voc, beta, voc * ratio, beta * 1.2, low, high, rise)
    start, most_v = v_min * 1.1, v_max * above
    lengths = string_lengths(volts, v_min, v_max, start, most_v)
    tiny = 1e-6
    fit = [
        n
        for n in range(1, 81)
        if n * volts.vmp_hot_v >= v_min - tiny
        and n * volts.voc_hot_v >= start - tiny
        and n * volts.vmp_cold_v <= v_max + tiny
        and n * volts.voc_cold_v <= most_v + tiny
    ]
    assert list(range(lengths.least, lengths.most + 1)) == fit
    assert lengths.most <= lengths.most_hard
