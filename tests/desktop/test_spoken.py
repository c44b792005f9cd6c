"""What a screen reader finds in the window: every thing of every drawing, with name, value, state and action.

Source: WCAG 2.2 AA, 4.1.2 name, role, value (published); through Qt's own accessible interface.
"""

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QWidget
from tests.desktop import audit

from lodestaff.desktop.spoken.item import Pressed, Speaks
from lodestaff.job import Role

DRAWINGS = {
    "site": lambda station: station.wall,
    "loads": lambda station: station.rails,
    "array": lambda station: station.view,
    "storage": lambda station: station.map,
    "wire": lambda station: station.diagram,
    "limits": lambda station: station.day,
    "commission": lambda station: station.diagram,
}


def interface(widget):
    found = QAccessible.queryAccessibleInterface(widget)
    assert found is not None
    return found


def children(widget):
    whole = interface(widget)
    return [whole.child(place) for place in range(whole.childCount())]


def named(widget, name):
    return next(child for child in children(widget) if child.text(QAccessible.Text.Name) == name)


def press(child):
    actions = child.actionInterface()
    assert actions.actionNames()
    actions.doAction(actions.actionNames()[0])


@pytest.fixture
def drawing(window, settled):
    def of(name):
        window.go(name)
        settled(window)
        return DRAWINGS[name](window.stations[name])

    return of


@pytest.mark.parametrize("name", DRAWINGS)
def test_each_thing_of_a_drawing_is_a_child_with_a_name_and_a_place(drawing, name, qtbot):
    view = drawing(name)
    if name == "storage":
        qtbot.waitUntil(lambda: view.sizes is not None, timeout=60000)
    things = children(view)
    assert len(things) > 3
    whole = interface(view).rect()
    for place, thing in enumerate(things):
        assert thing.text(QAccessible.Text.Name)
        assert thing.isValid()
        assert interface(view).indexOfChild(thing) == place
        assert thing.parent() is not None
        assert thing.rect().isEmpty() or thing.rect().intersects(whole.adjusted(-900, -900, 900, 900))
    assert [thing.state().selected for thing in things].count(True) >= (name not in ("commission",))
    keys = [item.key for item in view.spoken()]
    assert len(keys) == len(set(keys))


def test_a_thing_that_stays_keeps_its_interface(drawing, window, settled):
    rails = drawing("loads")
    before = named(rails, "Server and phones")
    window.store.edit(
        "Move it", *rails._changes(window.store.job.circuit("server"), rails.rails.rails[2].group)
    )
    settled(window)
    assert named(rails, "Server and phones") is before
    assert "grid only" in before.text(QAccessible.Text.Value)


def test_pressing_chooses_switches_adopts(drawing, window, qtbot, settled):
    wire = drawing("wire")
    isolator = named(wire, "Main isolator")
    assert isolator.role() == QAccessible.Role.Button
    press(isolator)
    assert wire.answer.positions["main-isolator"] == "open" or window.store.state.name == "own positions"
    rails = drawing("loads")
    press(named(rails, "Autoclave"))
    assert rails.chosen == "autoclave"
    assert window.store.job.circuit("autoclave").role is Role.GRID
    wall = drawing("site")
    press(named(wall, "Service rating"))
    assert window.stations["site"].editor.row.words == "Service rating"


def test_the_staff_goes_to_stations(window):
    press(named(window.staff, "Wire"))
    assert window.station == "wire"
    assert named(window.staff, "Wire").state().checked
    assert not named(window.staff, "Loads").state().checked


def test_figures_and_findings_are_pressed(window):
    window.go("loads")
    view = window.reckoning.views[0]
    found = interface(view)
    assert found.role() == QAccessible.Role.Button
    assert "Backed up together" in found.text(QAccessible.Text.Name)
    press(found)
    assert window.reckoning.currentWidget() is window.reckoning.working


def test_a_limit_and_a_window_are_moved_by_keys(drawing, window, qtbot):
    from PySide6.QtCore import Qt

    day = drawing("limits")
    block = window.store.job.limits.windows[0]
    press(named(day, "window night"))
    assert day.chosen == block.id
    day.setFocus()
    qtbot.keyClick(day, Qt.Key.Key_Right)
    moved = window.store.job.limits.windows[0]
    assert (moved.start_h, moved.end_h) == ((block.start_h + 0.25) % 24, (block.end_h + 0.25) % 24)
    qtbot.keyClick(day, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert window.store.job.limits.windows[0].end_h == block.end_h
    assert window.store.job.limits.windows[0].start_h == moved.start_h


def test_child_at_a_point_is_the_thing_there(drawing):
    wall = drawing("site")
    item = wall.spoken()[2]
    at = wall.mapToGlobal(QPoint(round(item.rect.center().x()), round(item.rect.center().y())))
    assert interface(wall).childAt(at.x(), at.y()).text(QAccessible.Text.Name) == item.name


@pytest.mark.parametrize("page", [*DRAWINGS, *audit.PAGES])
def test_nothing_that_takes_the_keyboard_is_silent(window, settled, page):
    """New drawings are asked too: whatever is painted and takes the focus says what is in it."""
    shown = audit.open_page(window, page)
    settled(window)
    silent = [
        audit.said(widget)
        for widget in (*shown.findChildren(QWidget), *window.bar.findChildren(QWidget), window.staff)
        if type(widget).__module__.startswith("lodestaff.desktop")
        and type(widget).paintEvent is not QWidget.paintEvent
        and widget.focusPolicy() & widget.focusPolicy().TabFocus
        and "paintEvent" in {name for kind in type(widget).__mro__ for name in vars(kind)
                             if kind.__module__.startswith("lodestaff.desktop")}
        and not isinstance(widget, Speaks | Pressed)
        and not hasattr(widget, "setChecked")
    ]  # fmt: skip
    assert silent == []
