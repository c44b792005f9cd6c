"""Proposing a split and dealing legs out in the real window: reckoned aside, shown side by side, taken as
one step."""

import pytest
from PySide6.QtCore import Qt


def compared(window, qtbot):
    qtbot.waitUntil(
        lambda: window.pages.currentWidget() is window.side.comparison is not None, timeout=20_000
    )
    return window.side.comparison


def test_the_proposed_split_is_shown_and_taken(window, qtbot, settled):
    station = window.stations["loads"]
    qtbot.mouseClick(station.propose, Qt.MouseButton.LeftButton)
    page = compared(window, qtbot)
    assert "Left out: Dental compressor" in station.words.text()
    assert "Hybrid 8 kVA, invented would let in Dental compressor" in station.words.text()
    page.taken.emit()
    settled(window)
    assert window.store.job.circuit("dental-compressor").role == "grid only"
    assert "Take the proposed split" in window.store.history.undo_name
    window.store.undo()
    assert window.store.job.circuit("dental-compressor").role == "held"


def test_back_from_an_offer_is_back_to_the_rails(window, qtbot):
    station = window.stations["loads"]
    station._propose()
    page = compared(window, qtbot)
    page.closed.emit()
    assert window.pages.currentWidget() is station


def test_legs_are_dealt_out(empty, qtbot, settled):
    empty.files.open_sample("ocotillo-wash-centre")
    settled(empty)
    station = empty.stations["loads"]
    qtbot.mouseClick(station.deal, Qt.MouseButton.LeftButton)
    compared(empty, qtbot).taken.emit()
    settled(empty)
    assert "moved" in station.words.text()
    assert "Deal the circuits out" in empty.store.history.undo_name


@pytest.mark.parametrize(
    ("sample", "words"), [("wendle-row-14", "forms no island"), ("far-byre", "No board stands")]
)
def test_where_there_is_nothing_to_propose_it_says_so(empty, qtbot, settled, sample, words):
    empty.files.open_sample(sample)
    settled(empty)
    station = empty.stations["loads"]
    (station._deal if "board" in words else station._propose)()
    qtbot.waitUntil(lambda: words in station.words.text(), timeout=20_000)
    assert not empty.store.changed
