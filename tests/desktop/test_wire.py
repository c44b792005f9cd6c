"""The live diagram in the real window: switches switch, conductors answer."""

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QNativeGestureEvent, QPointingDevice


@pytest.fixture
def station(window):
    window.go("wire")
    return window.stations["wire"]


def click(qtbot, diagram, part):
    qtbot.mouseClick(diagram, Qt.MouseButton.LeftButton, pos=diagram.part_rect(part).center().toPoint())


def test_a_click_works_a_switch(qtbot, window, station):
    click(qtbot, station.diagram, "hybrid-feed")
    answer = window.store.answer()
    assert answer.positions["hybrid-feed"] == "open"
    assert answer.unit_modes == {"hybrid": "island"}
    assert station.own.text() == "switched by hand"
    click(qtbot, station.diagram, "hybrid-feed")
    assert window.store.answer().positions["hybrid-feed"] == "closed"


def test_the_bypass_goes_through_its_positions(qtbot, window, station):
    seen = []
    for _ in range(3):
        click(qtbot, station.diagram, "hybrid-bypass")
        seen.append(window.store.answer().positions["hybrid-bypass"])
    assert seen == ["off", "grid", "unit"]


@pytest.mark.parametrize(
    ("state", "live", "fed"), [("grid", 36, 17), ("island", 20, 11), ("bypass", 35, 17), ("all off", 6, 0)]
)
def test_states_by_button(window, station, state, live, fed):
    next(button for button in station.states.buttons() if button.text() == state).click()
    values = {reading.name: reading.figure.value for reading in station.readings()}
    assert (values["Live conductors"], values["Circuits fed"]) == (live, fed)
    assert window.store.moment.grid == (state != "island")


def test_cautions_stand_with_their_state(window, station):
    station._choose("bypass")
    assert "not isolation" in station.note()
    station._choose("island")
    assert "TN-C-S" in station.note()


def test_a_part_brings_its_caution(qtbot, window, station):
    click(qtbot, station.diagram, "battery")
    assert "Insulated tools" in station.note()
    station._asked("hybrid-array-a")
    assert "live in daylight" in station.note()


def test_the_moments_grid_is_the_diagrams(window, station):
    window.store.set_moment(grid=False)
    assert window.store.state.name == "island"
    window.actions_by_id["grid"].trigger()
    assert window.store.state.name == "grid"


def test_a_conductor_answers(qtbot, window, station):
    diagram = station.diagram
    station._choose("island")
    words = diagram.words_of("hybrid.backup>hybrid-bypass.unit")
    assert words == "Hybrid to Manual changeover (bypass), L1 N: live from array, battery"
    assert diagram.words_of("supply.load>cutout.line").endswith("dead")
    scale, corner = diagram._fit()
    route = next(
        shape.points for shape in diagram.drawing.shapes if shape.owner == "hybrid.backup>hybrid-bypass.unit"
    )
    (ax, ay), (bx, by) = route[0], route[1]
    middle = corner + QPointF((ax + bx) / 2 * scale, (ay + by) / 2 * scale)
    assert diagram.at(middle) == "hybrid.backup>hybrid-bypass.unit"
    qtbot.mouseClick(diagram, Qt.MouseButton.LeftButton, pos=middle.toPoint())
    assert station.words.text().startswith(words)
    assert "Sources: Battery, 4 modules, " in station.words.text()
    assert "A to loads, 0 A back." in station.words.text()


def test_by_keyboard(qtbot, window, station):
    diagram = station.diagram
    diagram.chosen = diagram._switches()[0]
    qtbot.keyClick(diagram, Qt.Key.Key_Return)
    assert window.store.answer().positions["main-isolator"] == "open"
    qtbot.keyClick(diagram, Qt.Key.Key_Right)
    assert diagram.chosen != "main-isolator"


def test_two_fingers_on_a_touch_pad_zoom(station):
    diagram, at = station.diagram, QPointF(200, 150)
    device, kind = QPointingDevice.primaryPointingDevice(), Qt.NativeGestureType.ZoomNativeGesture
    event = QNativeGestureEvent(kind, device, 2, at, at, at, 0.5, QPointF())
    assert diagram.event(event)
    assert diagram.zoom == pytest.approx(1.5)


def test_zoom_keeps_the_point_under_the_hand_and_home_fits(qtbot, station):
    diagram = station.diagram
    point = QPointF(300, 300)
    before = diagram._to_mm(point)
    diagram._zoom_by(2.0, point)
    after = diagram._to_mm(point)
    assert (after - before).manhattanLength() < 1e-6
    assert diagram.zoom == 2.0
    qtbot.keyClick(diagram, Qt.Key.Key_Home)
    assert diagram.zoom == 1.0


def test_the_table_is_the_drawings_equal(window, station):
    table = station.wires
    switch = table.indexWidget(table.index_of(0, 1))
    assert switch.accessibleName() == f"Position of {table.text_at(0, 0)}"
    switch.setCurrentText("open")
    switch.activated.emit(switch.currentIndex())
    assert "open" in window.store.answer().positions.values()
    rows = [table.text_at(row, 2) for row in range(len(table.rows))]
    assert any("battery" in row for row in rows)


def test_an_edit_redraws(window, station):
    from lodestaff.job import Change

    window.store.edit("No bypass", Change("wiring/bypass", False))
    assert "hybrid-bypass" not in station.diagram.drawing.boxes
    window.store.undo()
    assert "hybrid-bypass" in station.diagram.drawing.boxes
