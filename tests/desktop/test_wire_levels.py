"""Levels of the diagram, the tables beside it, and adjusting by hand, in the real window."""

import pytest
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QFontMetricsF

from lodestaff.desktop.stations.wire.labels import fitting

LARGE = ("ocotillo-wash-centre", "brindle-mesa-field-station", "gannet-point-lodge", "sotol-ridge-house")


@pytest.fixture
def large(empty, settled):
    empty.files.open_sample("ocotillo-wash-centre")
    settled(empty)
    empty.go("wire")
    return empty


# The offscreen platform raises no windows and grabs no keyboard; it says so for every menu.
PLUGIN = pytest.mark.qt_log_ignore("This plugin does not support")


def station_of(window):
    return window.stations["wire"]


def test_a_large_kind_begins_with_its_overview(large):
    diagram = station_of(large).diagram
    assert diagram.present_level() == "overview"
    assert "hybrid-1" in diagram.drawing.boxes
    assert "hybrid-1-feed" not in diagram.drawing.boxes


def test_coming_closer_and_going_back(large, qtbot):
    station = station_of(large)
    diagram = station.diagram
    before = large.store.state
    qtbot.mouseDClick(
        diagram, Qt.MouseButton.LeftButton, pos=diagram.part_rect("hybrid-1").center().toPoint()
    )
    assert diagram.present_level() == "boards"
    assert station.level.currentText() == "boards"
    assert large.store.state == before
    assert diagram.rect().contains(diagram.part_rect("hybrid-1").center().toPoint())
    diagram.closer("hybrid-1")
    assert diagram.present_level() == "terminals"
    assert any("battery: DC+" in shape.text for shape in diagram.drawing.shapes)
    diagram.setFocus()
    qtbot.keyClick(diagram, Qt.Key.Key_PageUp)
    qtbot.keyClick(diagram, Qt.Key.Key_PageUp)
    assert diagram.present_level() == "overview"
    station._choose_level("terminals")
    assert "Ports" in station.words.text() or "ports" in station.words.text()


def test_labels_are_readable_where_the_large_kind_is_shown(large):
    """At 1280 x 800 the overview and, after coming closer, the devices have labels of 9 pixels or more."""
    diagram = station_of(large).diagram
    for level in ("overview", "boards", "terminals"):
        diagram.show_level(level, "hybrid-1")
        scale, _ = diagram._fit()
        assert diagram.drawing.text_mm * scale * diagram.zoom >= 9, level


def test_further_states_are_in_the_list(large):
    station = station_of(large)
    names = [station.more.itemText(index) for index in range(station.more.count())]
    assert "Hybrid 1 failed in an outage" in names
    assert "bypass overnight" in names
    station.more.setCurrentText("Hybrid 1 failed in an outage")
    station.more.textActivated.emit("Hybrid 1 failed in an outage")
    assert large.store.state.name == "Hybrid 1 failed in an outage"
    assert not large.store.moment.grid


def test_the_table_of_moves_makes_a_move(large):
    station = station_of(large)
    station.table_button.click()
    station.tabs.setCurrentWidget(station.moves)
    rows = [
        [station.moves.text_at(row, column) for column in range(7)] for row in range(len(station.moves.rows))
    ]
    row = next(index for index, texts in enumerate(rows) if texts[:2] == ["Bypass 1", "grid"])
    assert rows[row][6] == "nothing"
    station.moves.do(station.moves.rows[row].of)
    assert large.store.answer().positions["bypass-1"] == "grid"


def test_the_table_of_failures(large):
    station = station_of(large)
    station.table_button.click()
    station.tabs.setCurrentWidget(station.failures)
    texts = [station.failures.text_at(0, column) for column in range(5)]
    assert texts[0] == "Hybrid 1"
    assert texts[4] == "19.2 kWh"


@PLUGIN
def test_an_adjustment_from_the_menu_is_one_undoable_step(window, qtbot):
    window.go("wire")
    station = station_of(window)
    menu = station.diagram.offer("hybrid-feed.load>hybrid.grid")
    action = next(one for one in menu.actions() if one.text().startswith("Insert an isolator"))
    action.trigger()
    assert [one.kind for one in window.store.job.adjustments] == ["insert"]
    assert "Insert an isolator" in window.store.history.undo_name
    station.table_button.click()
    station.tabs.setCurrentWidget(station.adjustments)
    assert station.adjustments.text_at(0, 3) == "in place"
    station.adjustments.setCurrentIndex(station.adjustments.index_of(0, 0))
    qtbot.keyClick(station.adjustments, Qt.Key.Key_Delete)
    assert window.store.job.adjustments == ()
    window.store.undo()
    assert len(window.store.job.adjustments) == 1
    menu.close()


@PLUGIN
def test_every_place_offers_what_fits_it(window, qtbot):
    window.go("wire")
    diagram = station_of(window).diagram

    def words(place):
        menu = diagram.offer(place)
        found = [one.text() for one in menu.actions()]
        menu.close()
        return found

    assert any("Add a board" in one for one in words("block"))
    assert words("hybrid")
    assert words("supply") == ["Nothing to adjust here"]
    assert "Move Supply CT here" in words("cutout.load>meter.line")


@PLUGIN
def test_a_right_click_opens_the_menu(window, qtbot):
    window.go("wire")
    diagram = station_of(window).diagram
    from PySide6.QtGui import QContextMenuEvent

    at = diagram.part_rect("block").center().toPoint()
    diagram.contextMenuEvent(QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, diagram.mapToGlobal(at)))
    from PySide6.QtWidgets import QMenu

    assert any(
        "Add a board" in action.text() for menu in diagram.findChildren(QMenu) for action in menu.actions()
    )
    diagram.contextMenuEvent(QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, QPoint(), QPoint()))
    for menu in diagram.findChildren(QMenu):
        menu.close()


# No backup with three units, no grid, three AC batteries, two units with a generator.
UNLIKE = (
    "pinfold-terrace-3", "skerry-light-cottage", "sotol-ridge-house", "ocotillo-wash-centre",
)  # fmt: skip


@PLUGIN
def test_unlike_samples_go_through_every_station(empty, settled):
    """No kind of system breaks a station: each opens, shows its figures, and its table."""
    for name in UNLIKE:
        empty.files.open_sample(name)
        settled(empty)
        for station in ("site", "loads", "array", "wire", "limits", "visits", "commission", "handover"):
            empty.go(station)
            assert empty.station == station
            assert station == "handover" or empty.stations[station].readings() is not None
            empty.stations[station].table_button.setChecked(True)
        assert empty.notices.words() == [], (name, empty.notices.words())
        empty.store.history.mark_saved(empty.store.job)


@pytest.mark.parametrize("name", LARGE)
def test_beside_a_table_it_still_fills_its_surface_and_words_are_read(empty, reckoned, qapp, name):
    """At 1280 x 800 with a table open: 85 % of the longer side, words of 12 px, none over another."""
    empty.resize(1280, 800)
    empty.files.open_sample(name)
    reckoned(empty)
    empty.go("wire")
    station = station_of(empty)
    station.table_button.setChecked(True)
    qapp.processEvents()
    diagram = station.diagram
    scale, corner = diagram._fit()
    wide, tall = diagram._extent()
    left, right, size = diagram._margins()
    shares = (wide * scale / (diagram.width() - left - right), tall * scale / (diagram.height() - size))
    assert max(shares) >= 0.85
    assert shares[0] >= 0.85 or diagram.width() < diagram.height()
    assert diagram._pixel_size("small", scale) >= 12
    metrics = QFontMetricsF(diagram._label_font(12))
    rows = fitting(
        diagram.drawing, diagram.topology(), metrics, lambda at: corner + at * scale, QRectF(diagram.rect())
    )
    assert len(rows) >= 5
    for number, (_, words, row) in enumerate(rows):
        assert diagram.rect().left() - 1 <= row.left()
        assert row.right() <= diagram.rect().right() + 1, words
        assert not any(row.intersects(other) for owner, _, other in rows[:number] if owner != rows[number][0])
    units = {unit for unit in diagram.answer.unit_modes if unit in diagram.drawing.boxes}
    assert units <= {owner for owner, _, _ in rows}
