"""The day's stack in the real window: blocks dragged along the hours, money and endurance with them."""

import itertools

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QFontMetricsF

from lodestaff.desktop.stations.loads.day_geometry import lay_stack
from lodestaff.desktop.theme import font
from lodestaff.reckoning.day_stack import day_stack


@pytest.fixture
def day(window, settled, qtbot):
    window.go("loads")
    window.store.set_moment(month=5)
    settled(window)
    station = window.stations["loads"]
    qtbot.mouseClick(station.day_button, Qt.MouseButton.LeftButton)
    settled(window)
    return station.day


def grip(day, circuit):
    box = max(day.plan.layer_of(circuit).boxes, key=lambda one: one.height())
    return box.center().toPoint()


def drag(qtbot, day, circuit, hours, drop=True):
    start = grip(day, circuit)
    end = start + QPoint(round(hours * day.plan.hour_px), 0)
    qtbot.mousePress(day, Qt.MouseButton.LeftButton, pos=start)
    for step in range(1, 5):
        qtbot.mouseMove(day, start + (end - start) * step / 4)
    if drop:
        qtbot.mouseRelease(day, Qt.MouseButton.LeftButton, pos=end)


def test_dragging_a_block_moves_its_runs(qtbot, window, day):
    before = window.store.job.circuit("autoclave")
    drag(qtbot, day, "autoclave", 3)
    after = window.store.job.circuit("autoclave")
    assert after.weekday == (*before.weekday[-3:], *before.weekday[:-3])
    assert after.weekend == (*before.weekend[-3:], *before.weekend[:-3])
    assert window.store.history.undo_name == "Run Autoclave 3 h later"
    window.store.undo()
    assert window.store.job.circuit("autoclave") == before


def test_money_and_endurance_move_while_dragging(qtbot, window, day):
    drag(qtbot, day, "kennel-heat", -4, drop=False)
    qtbot.waitUntil(lambda: window.store.preview is not None, timeout=20_000)
    words = day.try_words()
    assert words[0] == "Kennel heating: 4 h earlier"
    assert "bill" in words[1]
    assert "now" in words[1]
    assert any(line.startswith("lasts") for line in words)
    assert window.store.preview.figures.bill != window.store.results.figures.bill
    assert not window.store.changed
    qtbot.keyClick(day, Qt.Key.Key_Escape)
    assert window.store.preview is None
    assert day.shift == 0


def test_a_click_and_a_short_pull_move_nothing(qtbot, window, day):
    qtbot.mouseClick(day, Qt.MouseButton.LeftButton, pos=grip(day, "autoclave"))
    assert day.chosen == "autoclave"
    assert not window.store.changed


def test_by_keyboard(qtbot, window, day, settled):
    day.setFocus()
    day.chosen = "autoclave"
    qtbot.keyClick(day, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert window.store.history.undo_name == "Run Autoclave 1 h earlier"
    settled(window)
    before = day.chosen
    qtbot.keyClick(day, Qt.Key.Key_Up)
    assert day.chosen != before
    assert "kWh a day" in day.accessibleDescription()
    qtbot.keyClick(day, Qt.Key.Key_W)
    assert day.stack.weekend


def test_what_runs_at_any_hour_is_said(window, day):
    assert not day.move_runs("server", 2)
    assert "runs at any hour" in window.notices.words()[0]


def test_another_job_while_the_day_is_shown(window, day, settled):
    window.files.open_sample("sallow-bank-cottage")
    day.repaint()
    settled(window)
    assert {id for id, _ in day.stack.layers} <= {c.id for c in window.store.job.circuits}


def test_the_rails_come_back(qtbot, window, day):
    station = window.stations["loads"]
    qtbot.mouseClick(station.day_button, Qt.MouseButton.LeftButton)
    assert station.sheets.currentIndex() == 0
    assert "Width: running kVA" in station.words.text()


@pytest.mark.parametrize("size", [(820, 600), (520, 420), (1300, 900)])
def test_layers_stand_on_each_other_at_one_scale(reckoner, larkmoor, qapp, size):
    stack = day_stack(reckoner, larkmoor, 5)
    plan = lay_stack(larkmoor, stack, *size, QFontMetricsF(font("label")))
    for hour in range(24):
        boxes = [layer.boxes[hour] for layer in plan.layers]
        for below, above in itertools.pairwise(boxes):
            assert above.bottom() == pytest.approx(below.top())
        assert boxes[-1].top() == pytest.approx(plan.y(float(stack.total_kw[hour])))
        assert plan.sun[hour].top() == pytest.approx(plan.y(float(stack.sun_kw[hour])))
    labels = [layer.label for layer in plan.layers if layer.label is not None]
    for index, one in enumerate(labels):
        assert not any(one.adjusted(1, 1, -1, -1).intersects(other) for other in labels[index + 1 :])
    for layer in plan.layers:
        thick = max(layer.boxes, key=lambda box: box.height())
        if thick.height() > 4:
            assert plan.layer_at(thick.center()).circuit == layer.circuit
