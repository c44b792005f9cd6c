"""A whole job by keys alone, and the same by what a screen reader presses: from nothing to a written pack."""

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QFileDialog, QLineEdit, QPushButton
from tests.desktop.test_spoken import named, press

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def answers(monkeypatch, tmp_path):
    """The dialogs of the system for names of files, which are its own: answered as a person would."""
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *args: (str(tmp_path / args[2]), "PDF (*.pdf)")
    )
    return tmp_path


def key(which, modifiers=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(QApplication.focusWidget() or QApplication.activeWindow(), which, modifiers)
    QApplication.processEvents()


def tab_to(wanted, most=80):
    """Go on by Tab until the focus is where it is wanted."""
    for _ in range(most):
        focus = QApplication.focusWidget()
        if focus is not None and wanted(focus):
            return focus
        key(Qt.Key.Key_Tab)
    raise AssertionError("Tab doesn't come there")


def in_menu(*keys):
    """Keys for the menu that the next key opens, one after the other."""
    for number, which in enumerate(keys, start=1):
        QTimer.singleShot(120 * number, lambda which=which: QTest.keyClick(menu(), which))


def menu():
    return QApplication.activePopupWidget() or QApplication.activeWindow()


@pytest.mark.qt_log_ignore("This plugin does not support")  # of the menu, without a screen
def test_from_nothing_to_a_written_pack_by_keys(empty, settled, answers, qtbot):
    empty.activateWindow()
    tab_to(lambda widget: isinstance(widget, QPushButton) and "Begin a new job" in widget.text())
    key(Qt.Key.Key_Space)
    page = empty.side.new
    assert empty.pages.currentWidget() is page
    key(Qt.Key.Key_Down)  # a starting point
    name = tab_to(
        lambda widget: isinstance(widget, QLineEdit) and widget.accessibleName() == "Name of the job"
    )
    name.selectAll()
    QTest.keyClicks(name, "By keys")
    qtbot.waitUntil(lambda: page.begin.isEnabled(), timeout=10_000)
    tab_to(lambda widget: widget is page.begin)
    key(Qt.Key.Key_Space)
    settled(empty)
    assert empty.store.job.title == "By keys"
    # Site: the first value that is still to read waits for its answer
    assert empty.station == "site"
    site = empty.stations["site"]
    first = site.wall.chosen
    focus = QApplication.focusWidget()
    if isinstance(focus, QComboBox):
        key(Qt.Key.Key_Down)
    else:
        QTest.keyClicks(focus, "50" if first.kind in ("number", "whole") else "read")
    tab_to(lambda widget: widget is site.editor.set_button)
    key(Qt.Key.Key_Space)
    assert site.wall.chosen != first
    # Loads: a circuit to another rail
    key(Qt.Key.Key_Escape)
    empty.actions_by_id["station-loads"].trigger()
    settled(empty)
    rails = empty.stations["loads"].rails
    tab_to(lambda widget: widget is rails)
    circuit = rails.chosen
    key(Qt.Key.Key_G)
    assert str(empty.store.job.circuit(circuit).role) == "grid only"
    # Place: a wall, all that has a place on it, the battery a little further
    key(Qt.Key.Key_5)
    settled(empty)
    place = empty.stations["place"]
    tab_to(lambda widget: widget is place.add)
    in_menu(Qt.Key.Key_Down, Qt.Key.Key_Right, Qt.Key.Key_Return)
    key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(empty.store.job.walls) == 1, timeout=10_000)
    settled(empty)
    tab_to(lambda widget: widget is place.all)
    key(Qt.Key.Key_Space)
    stood = empty.store.job.standing
    assert stood
    tab_to(lambda widget: widget is place.view)
    while place.view.body.standing is None:
        key(Qt.Key.Key_PageDown)
    x = place.view.body.standing.x_m
    key(Qt.Key.Key_Right)
    assert place.view.body.standing.x_m == pytest.approx(x + 0.05)
    # Visits: laid out
    key(Qt.Key.Key_8)
    settled(empty)
    visits = empty.stations["visits"]
    tab_to(lambda widget: widget is visits.out)
    key(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: bool(empty.store.job.visits.laid), timeout=60_000)
    # Commission: the first step is confirmed
    empty.actions_by_id["station-commission"].trigger()
    settled(empty)
    card = empty.stations["commission"].card
    step = card.result.step.id
    assert QApplication.focusWidget() in (card.yes, card.reading, *card.fields.values())
    tab_to(lambda widget: widget is card.person)
    QTest.keyClicks(card.person.lineEdit(), "Somebody")
    tab_to(lambda widget: widget is card.yes)
    key(Qt.Key.Key_Space)
    assert any(entry.data["step"] == step for entry in empty.store.site.entries if "step" in entry.data)
    # saved, and the pack written
    key(Qt.Key.Key_S, CTRL)
    assert empty.store.path is not None
    assert not empty.store.changed
    key(Qt.Key.Key_P, CTRL | SHIFT)
    written = answers / f"{empty.store.job.id}.pdf"
    qtbot.waitUntil(lambda: written.is_file(), timeout=60_000)
    assert written.read_bytes().startswith(b"%PDF")


def test_the_same_by_what_a_screen_reader_presses(empty, settled, answers, qtbot):
    def push(widget):
        found = QAccessible.queryAccessibleInterface(widget)
        assert found.role() == QAccessible.Role.Button, widget
        found.actionInterface().doAction("Press")
        qtbot.wait(150)  # a button that is pressed this way is seen to go down first

    begin = next(b for b in empty.welcome.findChildren(QPushButton) if "Begin a new job" in b.text())
    push(begin)
    page = empty.side.new
    qtbot.waitUntil(lambda: page.begin.isEnabled(), timeout=10_000)
    push(page.begin)
    settled(empty)
    site = empty.stations["site"]
    press(named(site.wall, site.wall.spoken()[0].name))
    press(named(empty.staff, "Loads"))
    settled(empty)
    rails = empty.stations["loads"].rails
    press(named(rails, rails.spoken()[1].name))
    assert rails.chosen == rails.spoken()[1].key[1]
    press(named(empty.staff, "Wire"))
    settled(empty)
    wire = empty.stations["wire"].diagram
    switch = next(item for item in wire.spoken() if item.role == QAccessible.Role.Button)
    before = dict(wire.answer.positions)
    press(named(wire, switch.name))
    assert wire.answer.positions != before
    press(named(empty.staff, "Commission"))
    settled(empty)
    card = empty.stations["commission"].card
    card.person.setCurrentText("Somebody")
    step = card.result.step.id
    push(card.yes)
    assert any(entry.data["step"] == step for entry in empty.store.site.entries if "step" in entry.data)
    press(named(empty.staff, "Handover"))
    settled(empty)
    push(empty.stations["handover"].write_button)
    written = answers / f"{empty.store.job.id}.pdf"
    qtbot.waitUntil(lambda: written.is_file(), timeout=60_000)
