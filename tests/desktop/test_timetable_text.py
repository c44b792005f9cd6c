"""Timetables as they are typed into the table of circuits."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import Qt

from lodestaff.desktop.stations.loads.table import COLUMNS
from lodestaff.desktop.stations.loads.timetable_text import (
    climate_text,
    hours_text,
    months_text,
    typed_climate,
    typed_hours,
    typed_months,
)
from lodestaff.job.circuit import Climate

WEIGHT = st.sampled_from([0.0, 0.2, 0.5, 1.0, 1.6])


@given(st.lists(WEIGHT, min_size=24, max_size=24).filter(any))
def test_hours_come_back_as_they_were_written(weights):
    assert typed_hours(hours_text(tuple(weights))) == (weights if len(set(weights)) > 1 else [1.0] * 24)


@given(st.lists(WEIGHT, min_size=12, max_size=12).filter(any))
def test_months_come_back_as_they_were_written(weights):
    assert typed_months(months_text(tuple(weights))) == (weights if len(set(weights)) > 1 else [1.0] * 12)


@pytest.mark.parametrize(
    ("text", "hours"),
    [
        ("7-9 1", (7, 8)),
        ("22-2 1", (22, 23, 0, 1)),
        ("13 1", (13,)),
        ("0-24 1", range(24)),
        ("6-8: 1, 20-21 1", (6, 7, 20)),
    ],
)
def test_spans_of_hours(text, hours):
    found = typed_hours(text)
    assert [n for n, weight in enumerate(found) if weight] == sorted(hours)


@pytest.mark.parametrize(
    ("text", "months"), [("11-2 1.5", (1, 2, 11, 12)), ("6 1", (6,)), ("4-9 1", range(4, 10))]
)
def test_spans_of_months(text, months):
    assert [n + 1 for n, weight in enumerate(typed_months(text)) if weight] == sorted(months)


def test_all_weights_may_be_typed_as_they_are():
    assert typed_months("1 1 1 0 0 0 0 0 0 1 1 1")[3] == 0.0
    assert typed_hours("any hour") == [1.0] * 24


@pytest.mark.parametrize("text", ["", "morning", "7-25 1", "7-9", "7-9 0", "0 0 0"])
def test_what_is_no_span_says_what_would_be(text):
    with pytest.raises(ValueError, match="type spans of hours like"):
        typed_hours(text)


@pytest.mark.parametrize("text", ["0-3 1", "1-13 1", "winter"])
def test_what_is_no_month_says_what_would_be(text):
    with pytest.raises(ValueError, match="type spans of months like"):
        typed_months(text)


@given(st.sampled_from(["heating", "cooling"]), st.integers(-10, 40), st.integers(0, 100))
def test_weather_comes_back_as_it_was_written(kind, balance, share):
    climate = Climate(kind=kind, balance_c=balance, share=share / 100)
    assert Climate.model_validate(typed_climate(climate_text(climate))) == climate


def test_no_weather():
    assert typed_climate("no") is None
    assert climate_text(None) == "no"
    assert typed_climate("heating below 15.5 °C") == {"kind": "heating", "balance_c": 15.5, "share": 1.0}
    for text in ("heating above 15", "warm", "cooling below 20"):
        with pytest.raises(ValueError, match="type no, or heating below"):
            typed_climate(text)


@pytest.mark.parametrize(
    ("heading", "text", "words"),
    [("On weekdays", "9-17 1", "On weekdays"), ("In the year", "11-2 1.5, 3-10 0.5", "in the year"),
     ("Follows the weather", "cooling above 21, 60 %", "follows the weather")],
)  # fmt: skip
def test_they_are_typed_in_the_table(window, heading, text, words):
    model = window.stations["loads"].circuits.model()
    column = next(n for n, one in enumerate(COLUMNS) if one.heading == heading)
    row = next(n for n, c in enumerate(window.store.job.circuits) if c.id == "laundry")
    before = window.store.job
    assert model.setData(model.index(row, column), text, Qt.ItemDataRole.EditRole)
    assert model.index(row, column).data() == text.replace(
        "11-2 1.5, 3-10 0.5", "1-2 1.5, 3-10 0.5, 11-12 1.5"
    )
    assert words.lower() in window.store.history.undo_name.lower()
    window.store.undo()
    assert window.store.job == before
    assert not model.setData(model.index(row, column), "now and then", Qt.ItemDataRole.EditRole)
    assert "Not changed. Washer and dryer" in window.notices.words()[0]
