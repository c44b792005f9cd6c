"""Values as people read them."""

import math

import pytest

from lodestaff.quantities import text_of
from lodestaff.quantities.errors import JobError, OurError
from lodestaff.quantities.units import clock


@pytest.mark.parametrize(
    ("value", "unit", "expected"),
    [
        (3.4499, "kVA", "3.45 kVA"),
        (12173.7, "kWh", "12\u00a0174 kWh"),
        (-0.3, "kW", "−0.30 kW"),
        (-0.001, "kW", "0.00 kW"),
        (230, "V", "230 V"),
        (3046.51, "GBP", "3\u00a0047 GBP"),
        (2.06, "GBP", "2.06 GBP"),
        (1, "bonds", "1"),
        (36.0, "", "36"),
        (0.955, "", "0.95"),
        (257.05, "", "257"),
        (math.nan, "kW", "unknown"),
        (math.inf, "h", "no limit"),
    ],
)
def test_text_of(value, unit, expected):
    assert text_of(value, unit) == expected


def test_decimals_can_be_given():
    assert text_of(12173.7, "kWh", 0) == "12\u00a0174 kWh"


@pytest.mark.parametrize(
    ("hour", "expected"), [(0, "00:00"), (18.75, "18:45"), (23.999, "00:00"), (29.5, "05:30")]
)
def test_clock(hour, expected):
    assert clock(hour) == expected


def test_a_job_error_says_what_where_and_what_would_be_right():
    error = JobError("is empty", "larkmoor.json", "restore it from a copy")
    assert str(error) == "larkmoor.json: is empty; restore it from a copy"
    assert str(JobError("is empty")) == "is empty"


def test_our_error_asks_for_a_report():
    assert "please report it" in str(OurError("The figures did not come."))
