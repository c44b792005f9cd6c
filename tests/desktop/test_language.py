"""One station in another language, with its figures, findings and workings; and back."""

import re

import pytest
from PySide6.QtWidgets import QAbstractButton, QLabel

from lodestaff.desktop.language import choose_language, present_language

ENGLISH = re.compile(
    r"\b(the|of|is|are|and|with|gives?|takes?|at|its|more|sheet|needed|module|modules|bill)\b"
)


@pytest.fixture
def german(window, settled):
    window.go("storage")
    window.actions_by_id["language-de"].trigger()
    settled(window)
    yield window
    choose_language("en")


def words_in(widget):
    shown = [one for kind in (QLabel, QAbstractButton) for one in widget.findChildren(kind)]
    return {one.text() for one in shown if one.isVisibleTo(widget) and one.text()}


def test_the_storage_station_speaks_german(german, qtbot, settled):
    station = german.stations["storage"]
    qtbot.waitUntil(lambda: station.map.sizes is not None and station.ride.rides is not None, timeout=60_000)
    said = words_in(station) | words_in(german.reckoning.scroller)
    assert {"Zahlen", "Befunde", "Rechnung", "Tabelle"} <= said
    assert {text for text in said if ENGLISH.search(text)} == set()
    assert german.bar.title.text() == "Speicher"
    assert [item.name for item in german.staff.spoken()][:2] == ["Standort", "Lasten"]
    columns = station.cells.source.columns
    assert [column.heading for column in columns][:2] == ["Gerät", "Module"]
    assert "dicke Linie" not in said  # that one is painted


def test_a_working_is_told_in_german(german):
    finding = next(one for one in german.store.results.findings if one.rule == "STO-POWER")
    german.reckoning.open_working(finding)
    text = german.reckoning.working.plain_text()
    assert "Entladeleistung von Hybrid" in text
    assert "Abstand" in text
    assert ENGLISH.search(text) is None


def test_it_is_kept_for_the_next_start_and_english_comes_back(german, settled):
    from lodestaff.desktop.settings import load_settings

    assert (load_settings().language, present_language()) == ("de", "de")
    german.actions_by_id["language-en"].trigger()
    settled(german)
    assert german.stations["storage"].table_button.text() == "Table"
    assert "Figures" in words_in(german.reckoning)
    assert load_settings().language == "en"
