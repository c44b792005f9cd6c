"""The rails in the real window: drag, keys, table, undo."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QFontMetricsF

from lodestaff.desktop.stations.loads.geometry import lay_rails
from lodestaff.desktop.stations.loads.table import COLUMNS
from lodestaff.desktop.theme import font
from lodestaff.job import Role
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.load_groups import ROLES, load_groups


@pytest.fixture
def rails(window):
    window.go("loads")
    return window.stations["loads"].rails


def centre_of(rails, circuit):
    return rails.rails.block_of(circuit).rect.center().toPoint()


def place_on(rails, role):
    band = next(rail for rail in rails.rails.rails if rail.role is role).band
    return QPoint(int(band.center().x()), int(band.top() + min(30, band.height() - 4)))


def drag(qtbot, rails, circuit, role, drop=True):
    start, end = centre_of(rails, circuit), place_on(rails, role)
    qtbot.mousePress(rails, Qt.MouseButton.LeftButton, pos=start)
    for step in range(1, 5):
        qtbot.mouseMove(rails, start + (end - start) * step / 4)
        qtbot.wait(5)
    if drop:
        qtbot.mouseRelease(rails, Qt.MouseButton.LeftButton, pos=end)


@pytest.mark.parametrize(
    ("circuit", "role"),
    [("laundry", Role.HELD), ("server", Role.GRID), ("consulting", Role.SHED), ("autoclave", Role.LOCKED)],
)
def test_dragging_a_circuit_moves_it(qtbot, window, rails, circuit, role):
    before = window.store.job
    drag(qtbot, rails, circuit, role)
    assert window.store.job.circuit(circuit).role is role
    assert window.store.history.undo_name == f"Move {before.circuit(circuit).name} to {role}"
    window.actions_by_id["undo"].trigger()
    assert window.store.job == before
    window.actions_by_id["redo"].trigger()
    assert window.store.job.circuit(circuit).role is role


def test_margins_start_endurance_and_money_move_while_dragging(qtbot, window, rails, settled):
    """Before the button is let go: the try-out's figures stand in the reckoning and beside the hand."""
    before = {reading.name: reading.text for reading in window.stations["loads"].readings()}
    drag(qtbot, rails, "laundry", Role.HELD, drop=False)
    qtbot.waitUntil(lambda: window.store.preview is not None, timeout=20_000)
    station = window.stations["loads"]
    during = {reading.name: reading.text for reading in station.readings()}
    for name in ("Backed up together", "Worst start", "Night energy", "Cost of the reserve, a year"):
        assert during[name] != before[name], name
    assert window.store.job.circuit("laundry").role is Role.GRID
    assert station.readings_before() is not None
    from lodestaff.desktop.stations.loads.painting import changes

    words = " ".join(changes(window.store.results, window.store.preview))
    assert "together" in words
    assert "lasts" in words
    assert "GBP a year" in words
    qtbot.keyClick(rails, Qt.Key.Key_Escape)
    assert window.store.preview is None
    assert window.store.job.circuit("laundry").role is Role.GRID


def test_dropping_it_where_it_was_changes_nothing(qtbot, window, rails):
    drag(qtbot, rails, "server", Role.HELD)
    assert not window.store.changed


def test_a_click_is_no_drag(qtbot, window, rails):
    qtbot.mouseClick(rails, Qt.MouseButton.LeftButton, pos=centre_of(rails, "consulting"))
    assert rails.chosen == "consulting"
    assert not window.store.changed


@pytest.mark.parametrize(
    ("key", "role"),
    [
        (Qt.Key.Key_H, Role.HELD),
        (Qt.Key.Key_S, Role.SHED),
        (Qt.Key.Key_G, Role.GRID),
        (Qt.Key.Key_L, Role.LOCKED),
    ],
)
def test_every_drag_has_a_key(qtbot, window, rails, key, role):
    rails.chosen = "laundry" if role is not Role.GRID else "server"
    qtbot.keyClick(rails, key)
    assert window.store.job.circuit(rails.chosen).role is role


def test_arrow_keys_walk_and_shift_moves(qtbot, window, rails):
    rails.chosen = "vaccine-fridges"
    qtbot.keyClick(rails, Qt.Key.Key_Right)
    assert rails.chosen == "theatre-lights"
    qtbot.keyClick(rails, Qt.Key.Key_Down)
    assert window.store.job.circuit(rails.chosen).role is Role.SHED
    qtbot.keyClick(rails, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert window.store.job.circuit("staff-kitchen").role is Role.GRID


def test_blocks_are_as_wide_as_they_draw_at_one_scale(window, rails):
    for rail in rails.rails.rails:
        for block in rail.blocks:
            if block.rect.width() > 6:
                assert block.rect.width() + 1.5 == pytest.approx(
                    block.circuit.running_kva * rails.rails.px_per_kva
                )


def test_a_split_that_does_not_fit_looks_too_long(qtbot, window, rails, settled):
    rails.chosen = "laundry"
    qtbot.keyClick(rails, Qt.Key.Key_H)
    rails.chosen = "autoclave"
    qtbot.keyClick(rails, Qt.Key.Key_H)
    held = next(rail for rail in rails.rails.rails if rail.role is Role.HELD)
    continuous, surge = held.group.stop
    assert held.blocks[-1].rect.right() > rails.rails.x(continuous)
    assert held.start.right() > rails.rails.x(surge)
    settled(window)
    assert window.staff.worst["loads"][0] == "blocks"


@pytest.mark.parametrize("size", [(820, 640), (600, 560), (1400, 900)])
def test_labels_never_overlap(larkmoor, window, size):
    metrics = QFontMetricsF(font("label"))
    rails = lay_rails(
        larkmoor,
        load_groups(larkmoor, Reckoner().wiring(larkmoor)),
        window.store.results.night_kwh,
        *size,
        metrics,
        metrics.height() + 1,
    )
    labels = [block.label for rail in rails.rails for block in rail.blocks if not block.inside]
    for index, one in enumerate(labels):
        assert not any(one.intersects(other) for other in labels[index + 1 :])
    for rail in rails.rails:
        for block in rail.blocks:
            assert block.label.top() >= rail.band.top() + 14
            assert all(block.inside or not block.label.intersects(other.rect) for other in rail.blocks)


def test_the_table_is_the_drawings_equal(qtbot, window, rails):
    model = window.stations["loads"].circuits.model()
    job = window.store.job
    assert model.rowCount() == len(job.circuits)
    assert [model.index(row, 0).data() for row in range(model.rowCount())] == [c.name for c in job.circuits]
    model.setData(model.index(2, 1), "grid only", Qt.ItemDataRole.EditRole)
    assert window.store.job.circuits[2].role is Role.GRID
    model.setData(model.index(2, 3), "1250,5", Qt.ItemDataRole.EditRole)
    assert window.store.job.circuits[2].running_w == 1250.5
    assert window.store.history.undo_name == "Set runs of Server and phones to 1250.5 W"


@pytest.mark.parametrize(
    ("column", "typed", "words"),
    [
        (3, "lots", "'lots' is not a number"),
        (3, "-4", "greater than 0"),
        (7, "99999", "running all year"),
        (1, "sometimes", "'held'"),
    ],
)
def test_bad_typing_is_said_and_changes_nothing(window, rails, column, typed, words):
    before = window.store.job
    model = window.stations["loads"].circuits.model()
    assert not model.setData(model.index(2, column), typed, Qt.ItemDataRole.EditRole)
    assert window.store.job is before
    (notice,) = window.notices.words()
    assert "Not changed." in notice
    assert words in notice
    model.setData(model.index(2, 3), "240", Qt.ItemDataRole.EditRole)
    assert window.notices.words() == []


def test_every_role_has_a_rail(rails):
    assert [rail.role for rail in rails.rails.rails] == list(ROLES)


def test_a_remedy_is_one_named_step(qtbot, window, rails, settled):
    card = next(
        one for one in window.stations["loads"].findings() if one.rule == "LOAD-SURGE: start" and one.remedies
    )
    window.reckoning.remedy_chosen.emit(card.remedies[0])
    assert window.store.history.undo_name == "Soft starter on Dental compressor"
    settled(window)
    assert all(
        one.verdict != "warns" or "restart at once" in one.text
        for one in window.stations["loads"].findings()
        if one.code == "LOAD-SURGE"
    )
    window.store.undo()
    assert not window.store.changed


def test_a_motors_plate_is_typed_in_one_cell(window):
    """Four values set what the circuit draws and how it starts, as one step that says so."""
    model, store = window.stations["loads"].circuits.model(), window.store
    column = next(at for at, field in enumerate(COLUMNS) if field.kind == "plate")
    row = next(at for at, circuit in enumerate(store.job.circuits) if circuit.id == "dental-compressor")
    before = store.job.circuit("dental-compressor")
    cell = model.index(row, column)
    assert model.setData(cell, "1.1 kW; 78 %; 0.8; 6", Qt.ItemDataRole.EditRole)
    now = store.job.circuit("dental-compressor")
    assert (now.kind, now.running_w, now.power_factor, now.start_multiple) == ("motor", 1410.3, 0.8, 6.0)
    assert "1.1 kW; 78 %; 0.8; 6" in now.known.note
    assert store.history.undo_name.endswith("it draws 1.41 kW and 7.7 A, starts with 46.0 A")
    assert not model.setData(cell, "1.1 kW; 78 %", Qt.ItemDataRole.EditRole)
    assert "2 of 4 values by semicolons" in window.notices.words()[0]
    assert store.job.circuit("dental-compressor") == now
    store.undo()
    assert store.job.circuit("dental-compressor") == before
