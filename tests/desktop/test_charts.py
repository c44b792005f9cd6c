"""What every chart can: round scales, a reading under hand and keys, a closer look, copies as SVG and CSV."""

import csv
import io
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QCoreApplication, QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QMouseEvent, QPainter
from PySide6.QtTest import QTest

from lodestaff.desktop.charts import Chart, Mark, Value, table_of
from lodestaff.desktop.charts.axes import ticks
from lodestaff.desktop.pictures import SVG

SIDE = 40.0


class Squares(Chart):
    """Two rows of three squares."""

    def __init__(self):
        super().__init__("Squares, by row")

    def axes(self):
        return ("row", "column")

    def marks(self):
        return [
            Mark((f"r{row}", f"c{column}"), (Value("size", row + column / 2, "kW"), Value("note", "a, b")),
                 QRectF(column * SIDE, row * SIDE, SIDE, SIDE))
            for row in range(2) for column in range(3)
        ]  # fmt: skip

    def paint(self, painter: QPainter):
        painter.fillRect(QRectF(0, 0, SIDE, SIDE), QColor("black"))


@pytest.fixture
def squares(qtbot, qapp):
    chart = Squares()
    qtbot.addWidget(chart)
    chart.resize(120, 80)
    chart.show()
    return chart


@given(most=st.floats(1e-4, 1e6), length=st.floats(50, 2000))
def test_scales_have_round_steps_far_enough_apart(most, length):
    found = ticks(most, length)
    assert found[0] == 0
    assert found[-1] <= most * (1 + 1e-9)
    step = found[1] if len(found) > 1 else most
    assert step / most * length >= 42 * (1 - 1e-9) or len(found) == 1
    if len(found) > 1:
        digits = f"{step:e}".split("e")[0]
        assert float(digits) in (1.0, 2.0, 2.5, 5.0)
        assert len(found) <= length / 42 + 1


def test_the_arrows_read_mark_by_mark_and_the_reader_hears_it(squares):
    for key, where in (
        (Qt.Key.Key_Right, ("r0", "c0")),
        (Qt.Key.Key_Right, ("r0", "c1")),
        (Qt.Key.Key_Down, ("r1", "c1")),
        (Qt.Key.Key_Left, ("r1", "c0")),
        (Qt.Key.Key_Left, ("r1", "c0")),  # the edge
    ):
        QTest.keyClick(squares, key)
        assert squares.hand.mark.where == where
    spoken = [item for item in squares.spoken() if item.chosen]
    assert [(item.name, item.value) for item in spoken] == [("r1, c0", "size 1.00 kW; note a, b")]


def test_what_lies_under_the_hand_is_read(squares):
    at = QPointF(100, 20)  # sent to the chart itself: another window may lie under the pointer
    free = Qt.MouseButton.NoButton
    none = Qt.KeyboardModifier.NoModifier
    move = QMouseEvent(QEvent.Type.MouseMove, at, squares.mapToGlobal(at), free, free, none)
    QCoreApplication.sendEvent(squares, move)
    assert squares.hand.mark.where == ("r0", "c2")


def test_a_closer_look_and_back(squares):
    hand = squares.hand
    corner = squares.grab().toImage().pixelColor(119, 79)
    hand.closer(4.0, QPointF(0, 0))
    assert hand.zoom == 4.0
    assert hand.on_chart(QPointF(118, 78)).x() == pytest.approx(29.5)
    assert squares.grab().toImage().pixelColor(118, 78) == QColor("black") != corner
    QTest.keyClick(squares, Qt.Key.Key_Escape)
    assert hand.zoom == 1.0
    for key in (Qt.Key.Key_Plus, Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Home):
        QTest.keyClick(squares, key, Qt.KeyboardModifier.AltModifier)
    assert hand.zoom == 1.0
    hand.closer(100)
    assert hand.zoom == 6.0  # and no further


def test_values_as_a_table_and_the_picture_as_svg(squares, tmp_path):
    rows = list(csv.DictReader(io.StringIO(table_of(squares))))
    assert rows[4] == {"row": "r1", "column": "c1", "size [kW]": "1.5", "note": "a, b"}
    QTest.keyClick(squares, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    data = QGuiApplication.clipboard().mimeData()
    assert ElementTree.fromstring(bytes(data.data(SVG).data())).tag.endswith("svg")
    assert data.text().startswith("row\tcolumn\tsize [kW]\tnote\nr0\tc0\t0\t")
    squares.hand.save("csv", tmp_path / "s.csv")
    squares.hand.save("svg", tmp_path / "s.svg")
    assert (tmp_path / "s.csv").read_text() == table_of(squares)
    ElementTree.parse(tmp_path / "s.svg")


def test_what_is_unknown_is_said_and_left_empty():
    assert Value("x", None, "kW").text() == Value("x", float("nan"), "kW").text() == "unknown"


def test_the_charts_of_the_window_share_it(window, settled, qtbot):
    """Every chart of stations and pages: all its marks lie on it, and their table can be read back."""
    window.side.open_backups()
    window.side.open_roof()
    window.side.open_meter()
    found = {"loads": [], "storage": [], "limits": [], "array": []}
    for station in found:
        window.go(station)
        if station == "loads":
            window.stations[station].day_button.setChecked(True)
        settled(window)
        for chart in window.stations[station].findChildren(object):
            if hasattr(chart, "hand") and hasattr(chart, "marks"):
                found[station].append(chart)
    storage = window.stations["storage"]
    qtbot.waitUntil(lambda: None not in (storage.map.sizes, storage.ride.rides), timeout=60_000)
    backups = window.side.backups
    pages = [backups.bars, backups.pictures, window.side.roof.bars]
    qtbot.waitUntil(
        lambda: None not in (backups.bars.strategies, backups.pictures.strategies, pages[2].on_roof),
        timeout=60_000,
    )
    charts = [chart for charts in found.values() for chart in charts] + pages
    assert len(charts) >= 8
    shown = 0
    for chart in charts:
        marks = chart.marks()
        shown += bool(marks)
        inside = QRectF(chart.rect()).adjusted(-1, -1, 1, 1)
        assert all(inside.contains(mark.rect.center()) for mark in marks), chart.accessibleName()
        assert all(len(mark.where) == len(chart.axes()) for mark in marks)
        rows = list(csv.DictReader(io.StringIO(table_of(chart))))
        assert len(rows) == len(marks)
    assert [chart.accessibleName() for chart in charts if not chart.marks()] == []
    assert shown >= 8


def test_the_day_in_limits_reads_what_flows(window, settled):
    window.go("limits")
    settled(window)
    day = window.stations["limits"].day
    flows = day.flows(window.store.results)
    mark = next(mark for mark in day.marks() if mark.where == ("18:00",))
    values = {value.name: value.of for value in mark.values}
    assert values["circuits"] == pytest.approx(float(flows.circuits[24]))
    into, out = ("sun", "battery", "grid"), ("circuits", "into the battery", "export", "lost")
    assert sum(values[name] for name in into) == pytest.approx(sum(values[name] for name in out), abs=0.05)
