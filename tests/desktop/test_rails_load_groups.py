"""Rails of several boards, legs and sources in the real window."""

import itertools

import pytest
from PySide6.QtCore import QPoint, Qt

from lodestaff.catalogue.library import library_circuit
from lodestaff.desktop.stations.loads.adding import add_circuit, fill_menu
from lodestaff.job import Role


@pytest.fixture
def rails(empty, settled):
    empty.files.open_sample("ocotillo-wash-centre")
    settled(empty)
    empty.go("loads")
    settled(empty)
    return empty.stations["loads"].rails


def place(rails, board, leg, role=Role.HELD):
    rail = next(one for one in rails.rails.rails if one.group.key == (role, board, leg))
    return QPoint(400, round(rail.band.center().y()))


def drag(qtbot, rails, circuit, end, drop=True):
    start = rails.rails.block_of(circuit).rect.center().toPoint()
    qtbot.mousePress(rails, Qt.MouseButton.LeftButton, pos=start)
    for step in range(1, 5):
        qtbot.mouseMove(rails, start + (end - start) * step / 4)
    if drop:
        qtbot.mouseRelease(rails, Qt.MouseButton.LeftButton, pos=end)


def test_from_leg_to_leg(qtbot, empty, rails):
    drag(qtbot, rails, "radio", place(rails, "backup-1", "A"))
    assert empty.store.job.circuit("radio").phase == "A"
    assert empty.store.history.undo_name == "Move Radio and network to A"
    empty.store.undo()
    assert empty.store.job.circuit("radio").phase == "B"


def test_from_one_source_to_the_other(qtbot, empty, rails):
    drag(qtbot, rails, "radio", place(rails, "backup-2", "B"))
    job = empty.store.job
    assert job.circuit("radio").board == "backup-2"
    wiring = empty.store.reckoner.wiring(job)
    assert wiring.board_of("radio").forming == ("hybrid-2",)
    assert "Backup board 2" in empty.store.history.undo_name


def test_from_the_grid_to_a_backup_board(qtbot, empty, rails):
    drag(qtbot, rails, "laundry", place(rails, "backup-1", "A"))
    circuit = empty.store.job.circuit("laundry")
    assert (circuit.role, circuit.phase) == (Role.HELD, "A")
    assert empty.store.reckoner.wiring(empty.store.job).board_of("laundry").id == "backup-1"


def test_while_dragging_the_aim_is_said_and_tried(qtbot, empty, rails):
    drag(qtbot, rails, "laundry", place(rails, "backup-1", "A"), drop=False)
    assert rails.target_words() == "Backed up, Backup board 1, A"
    qtbot.waitUntil(lambda: empty.store.preview is not None, timeout=20_000)
    assert rails.is_tried(empty.store.preview.job)
    qtbot.keyClick(rails, Qt.Key.Key_Escape)
    assert not empty.store.changed


def test_a_circuit_between_legs_stays_between_them(qtbot, empty, rails):
    drag(qtbot, rails, "dryer", place(rails, "backup-1", "A"))
    circuit = empty.store.job.circuit("dryer")
    assert (circuit.role, circuit.phase) == (Role.HELD, "A+B")


def test_the_neutral_is_said_with_the_board(rails):
    words = rails.neutral_words(next(one.group for one in rails.rails.rails if one.group.board == "backup-1"))
    assert words == "neutral 26.8 A, 66 % apart"


def test_every_rail_has_its_place(rails):
    bands = [rail.band for rail in rails.rails.rails]
    for one, other in itertools.pairwise(bands):
        assert other.top() == pytest.approx(one.bottom())
    assert rails.minimumHeight() >= bands[-1].bottom()
    for rail in rails.rails.rails:
        for block in rail.blocks:
            assert (
                rail.band.adjusted(-1, -1, 1, 1).contains(block.rect)
                or block.rect.right() > rail.band.right()
            )


def test_surplus_by_key(qtbot, empty, rails):
    rails.chosen = "yard"
    qtbot.keyClick(rails, Qt.Key.Key_U)
    assert empty.store.job.circuit("yard").role is Role.SURPLUS


def test_circuits_of_the_library_are_added_and_taken_out(qtbot, empty, rails, settled):
    station = empty.stations["loads"]
    fill_menu(station.add_menu, empty.store)
    assert next(one.text() for one in station.add_menu.actions()) == "Field station"
    made = add_circuit(empty.store, library_circuit("house", "pool", "na"))
    assert made == "pool"
    assert empty.store.history.undo_name == "Add Pool pump"
    settled(empty)
    rails.chosen = made
    qtbot.keyClick(rails, Qt.Key.Key_Delete)
    assert empty.store.history.undo_name == "Take out Pool pump"
    assert made not in {c.id for c in empty.store.job.circuits}


class TestTable:
    def cell(self, window, heading):
        model = window.stations["loads"].circuits.model()
        from lodestaff.desktop.stations.loads.table import COLUMNS

        return model, next(n for n, column in enumerate(COLUMNS) if column.heading == heading)

    @pytest.mark.parametrize(
        ("heading", "text", "field", "value"),
        [
            ("Measured, W", "812", "measured_w", 812),
            ("Device, A", "20", "device_a", 20),
            ("Worth, 0 to 10", "7", "priority", 7),
            ("Worth, 0 to 10", "", "priority", None),
            ("Shed below, %", "35", "shed_soc", 0.35),
            ("Dropped by", "hand", "switched_by", "hand"),
            ("Restart after, s", "12,5", "restart_s", 12.5),
            ("Counted as", "cooker", "use", "cooker"),
            ("Came later", "yes", "added", True),
        ],
    )
    def test_what_is_typed_is_taken(self, window, heading, text, field, value):
        model, column = self.cell(window, heading)
        if text == "":
            model.setData(model.index(0, column), "3", Qt.ItemDataRole.EditRole)
        assert model.setData(model.index(0, column), text, Qt.ItemDataRole.EditRole)
        found = getattr(window.store.job.circuits[0], field)
        assert (found.value if hasattr(found, "known") else found) == value
        if field == "measured_w":
            assert found.known == "measured"
            assert found.date

    def test_thresholds_of_a_surplus_load(self, window):
        model, column = self.cell(window, "Surplus on, kW")
        assert model.setData(model.index(0, column), "1.5", Qt.ItemDataRole.EditRole)
        assert window.store.job.circuits[0].surplus.start_kw == 1.5
        model, column = self.cell(window, "off, kW")
        assert not model.setData(model.index(0, column), "2", Qt.ItemDataRole.EditRole)
        assert "above its start" in window.notices.words()[0]

    @pytest.mark.parametrize(("heading", "text", "words"), [("Measured, W", "many", "not a number"),
                                                            ("Came later", "perhaps", "none of"),
                                                            ("Start, s", "", "nothing was typed"),
                                                            ("Phase", "L7", "is not there")])  # fmt: skip
    def test_what_is_wrong_is_said(self, window, heading, text, words):
        model, column = self.cell(window, heading)
        assert not model.setData(model.index(0, column), text, Qt.ItemDataRole.EditRole)
        assert words in window.notices.words()[0]
