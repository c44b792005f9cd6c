"""Dates as people type them: taken where there is one reading, asked back where there are two."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lodestaff.quantities.dates import read_date
from lodestaff.quantities.errors import JobError


@pytest.mark.parametrize(
    "text",
    [
        "2026-11-25",
        " 25 Nov 2026",
        "25. November 2026",
        "25.11.2026",
        "25/11/2026",
        "11/25/2026",
        "25-11-2026",
    ],
)
def test_one_reading_is_taken(text):
    assert read_date(text) == "2026-11-25"


def test_two_readings_are_asked_back():
    with pytest.raises(JobError, match="2026-11-03 or 2026-03-11"):
        read_date("3/11/2026")
    assert read_date("11.11.2026") == "2026-11-11"


@pytest.mark.parametrize(
    "text", ["tomorrow", "31 Feb 2026", "2026-13-01", "25.11.26", "13.13.2026", "3 Foo 2026"]
)
def test_what_is_no_date_says_what_would_be_right(text):
    with pytest.raises(JobError, match="2026-11-25"):
        read_date(text)


@given(st.dates(date(1900, 1, 1), date(2199, 12, 31)))
def test_what_is_kept_reads_back_as_itself(day):
    assert read_date(day.isoformat()) == day.isoformat()


def test_nothing_stays_nothing():
    assert read_date("  ") == ""
