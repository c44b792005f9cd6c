"""The Visits station in the real window: days laid, pieces moved by hand and keys, what was worked booked."""

from datetime import date

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from lodestaff.desktop.stations.visits import station as module
from lodestaff.desktop.stations.visits.adding import add_day, add_delivery, add_hand, add_task, add_wait
from lodestaff.desktop.stations.visits.tables import rows_of
from lodestaff.job import Change


@pytest.fixture
def visits(window, settled):
    window.go("visits")
    settled(window)
    return window.stations["visits"]


@pytest.fixture
def march(monkeypatch):
    """Days are laid from a date of its own."""

    class Day(date):
        @classmethod
        def today(cls):
            return cls(2027, 3, 1)

    monkeypatch.setattr(module, "date", Day)


def laid(window, task, piece=1):
    return next(one for one in window.store.job.visits.laid if (one.task, one.piece) == (task, piece))


def test_days_are_laid_as_one_step_and_taken_back(window, visits, settled, qtbot, march):
    window.store.edit("Clear", Change("visits", {}))
    settled(window)
    assert visits.view.board.overview == ()
    assert len(visits.view.board.shelf) > 5
    visits.out.click()
    qtbot.waitUntil(lambda: bool(window.store.job.visits.laid), timeout=60_000)
    assert window.store.job.visits.in_order[0].date == "2027-03-01"
    assert "no better way exists" in visits.words.text()
    assert "Inspection: not asked" in visits.words.text()
    window.store.undo()
    assert window.store.job.visits.laid == ()


def test_a_piece_is_dragged_along_its_day(window, visits):
    view = visits.view
    view.choose(("electrodes", 1))
    before = laid(window, "electrodes")
    rows, span = view.board.large, view.span_of(("electrodes", 1))
    start = rows.boxes(span, 4.0)[0].center().toPoint()
    hour = rows.rect.width() / rows.visit.hours
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    assert view.at(start) == ("electrodes", 1)
    for step in range(1, 5):
        QTest.mouseMove(view, start + QPoint(round(hour * step / 2), 0))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton)
    after = laid(window, "electrodes")
    assert after.at_h == pytest.approx(before.at_h + 2, abs=0.26)
    assert after.held
    window.store.undo()
    assert laid(window, "electrodes") == before


def test_what_would_be_wrong_is_said_while_it_is_in_the_hand(window, visits):
    view = visits.view
    view.choose(("cut-in", 1))
    view._try(window.store.job, "day-2026-12-17", 8.0, ("rowe",))
    assert any("outside the hours agreed" in one.words for one in view.told)
    view.held = None
    assert window.store.job.visits.laid  # nothing was put


def test_keys_move_give_hold_and_take_off(window, visits):
    view = visits.view
    view.setFocus()
    view.choose(("electrodes", 1))
    before = laid(window, "electrodes")
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert laid(window, "electrodes").at_h == before.at_h + 0.25
    QTest.keyClick(view, Qt.Key.Key_Down)
    assert laid(window, "electrodes").hands == ("gell",)
    assert "nobody there does electrical work" in visits.note()
    QTest.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert laid(window, "electrodes").visit == "day-2026-12-09"
    assert view.day == "day-2026-12-09"
    QTest.keyClick(view, Qt.Key.Key_H)
    assert not laid(window, "electrodes").held
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert "electrodes" in view.programme.unlaid
    assert [one.task.id for one in view.board.shelf] == ["electrodes"]
    QTest.keyClick(view, Qt.Key.Key_Right)  # from the shelf onto the day
    assert laid(window, "electrodes").hands == ("rowe",)
    QTest.keyClick(view, Qt.Key.Key_PageDown)
    assert view.chosen != ("electrodes", 1)


def test_rows_are_put_in_and_typed(window, visits, settled):
    store = window.store
    add_day(store)
    assert store.job.visits.in_order[-1].date == "2026-12-21"  # the Monday after Friday
    add_hand(store)
    add_task(store)
    add_wait(store, "other trade")
    add_delivery(store, "isolator", 3)
    settled(window)
    visits.table_button.setChecked(True)
    days = visits.days
    assert [days.model().index(row, 0).data() for row in range(6)][-1] == "2026-12-21"
    hands = visits.hands.model()
    assert hands.setData(hands.index(3, 3), "electrical, roof")
    assert store.job.visits.hands[3].skills == ("electrical", "roof")
    assert not hands.setData(hands.index(3, 2), "magic")
    tasks = visits.tasks.model()
    row = next(n for n in range(tasks.rowCount()) if tasks.index(n, 0).data() == "Earth electrode")
    assert tasks.setData(tasks.index(row, 1), "2.5 h")
    assert visits.view.programme.task("electrodes").hours == 2.5
    assert visits.view.programme.task("own-1").hours == 1.0
    visits._without(next(one for one in rows_of(store.job, "hands") if one.of.id == "gell"))
    assert all("gell" not in one.hands for one in store.job.visits.laid)


def test_what_was_worked_is_booked_done_and_learnt(window, visits, settled):
    found = visits.view.programme
    rails = found.task("brackets-south-east")
    assert not visits.learn.isEnabled()
    assert visits.book(rails, 4.0, False)
    assert visits.book(rails, 4.8, True)
    visits.refresh()
    assert "brackets-south-east" in visits.view.programme.done
    visits.learn.click()
    assert visits.view.programme.task("brackets-south-west").hours > found.task("brackets-south-west").hours
    assert "corrected by what was booked" in visits.words.text()


def test_hours_of_ones_own_and_the_order_of_the_roof(window, visits):
    table = visits.rates.model()
    row = next(n for n in range(table.rowCount()) if table.index(n, 0).data() == "Earth electrode")
    assert table.setData(table.index(row, 1), "1.5 h")
    assert visits.view.programme.task("electrodes").hours == pytest.approx(1.5 + 0.7)
    assert not table.setData(table.index(row, 1), "soon")
    assert table.setData(table.index(row, 1), "")
    assert visits.view.programme.task("electrodes").hours == pytest.approx(0.5 + 0.7)
    visits.order.setCurrentText("modules first")
    assert window.store.job.visits.order == "modules first"
    assert "modules-south-east" in visits.view.programme.task("roof-runs-hybrid").after


def test_days_go_onto_paper_beside_the_window(window, visits, qtbot, tmp_path):
    visits.print_to(tmp_path / "days.ics")
    qtbot.waitUntil(lambda: "Written" in visits.words.text(), timeout=30_000)
    assert (tmp_path / "days.ics").read_bytes().startswith(b"BEGIN:VCALENDAR")
    visits.print_to(tmp_path / "days.doc")
    qtbot.waitUntil(lambda: "Not written" in visits.words.text(), timeout=30_000)


def test_the_staff_and_a_screen_reader_hear_of_the_days(window, visits):
    names = [one.name for one in visits.view.spoken()]
    assert names[:2] == ["Day Mon 7 Dec", "Day Wed 9 Dec"]
    visits.view.choose(("cut-in", 1))
    said = next(one for one in visits.view.spoken() if one.chosen and one.name == "Into the supply")
    assert "13:15 to 16:15, Ines Rowe" in said.value
    readings = {reading.name: reading.text for reading in visits.readings()}
    assert readings["Without power"] == "3.0 h"
