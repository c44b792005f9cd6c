"""What hands can do next, what is left when a unit fails, and the adjustments: tables beside the diagram."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from lodestaff.desktop.store import Store
from lodestaff.job import Change
from lodestaff.quantities import text_of
from lodestaff.topology.moves import failures, next_moves


class _Rows(QTableWidget):
    """A read-only table; Enter or a double click does what the row says."""

    def __init__(self, store: Store, name: str, headings: list[str]) -> None:
        super().__init__(0, len(headings))
        self.store = store
        self.setAccessibleName(name)
        self.setHorizontalHeaderLabels(headings)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.verticalHeader().hide()
        self.setAlternatingRowColors(True)
        self.setTabKeyNavigation(False)
        self.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.cellActivated.connect(lambda row, _: self.do(row))

    def do(self, row: int) -> None:
        """Do what a row says."""

    def fill(self, rows: list[tuple[str, ...]]) -> None:
        self.setRowCount(len(rows))
        for row, texts in enumerate(rows):
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
                self.setItem(row, column, item)


class MovesTable(_Rows):
    """Every state that one hand reaches from the present one; Enter makes the move."""

    def __init__(self, store: Store) -> None:
        headings = ["Switch", "To", "Darkens", "Feeds", "Becomes live", "Becomes dead", "Meets"]
        super().__init__(store, "What a hand can reach next", headings)
        self.moves: list[tuple[str, str]] = []

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        topology = self.store.reckoner.wiring(job).topology
        found = next_moves(topology, self.store.state)
        self.moves = [(one.part, one.position) for one in found]
        self.fill(
            [
                (
                    topology.parts[one.part].name,
                    one.position,
                    _count(one.darkened),
                    _count(one.fed),
                    str(one.made_live),
                    str(one.made_dead),
                    "; ".join(" and ".join(hazard.leads) for hazard in one.hazards) or "nothing",
                )
                for one in found
            ]
        )

    def do(self, row: int) -> None:
        part, position = self.moves[row]
        self.store.set_state(self.store.state.with_hand(part, position))


class FailuresTable(_Rows):
    """For each unit what its failure in an outage leaves."""

    def __init__(self, store: Store) -> None:
        headings = ["Fails in an outage", "Batteries on it", "Still fed", "Lost", "Battery left"]
        super().__init__(store, "If a unit fails", headings)

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        topology = self.store.reckoner.wiring(job).topology
        kwh = {bank.id: bank.modules * job.sheets.batteries[bank.sheet].module_kwh for bank in job.banks}
        on = {unit.id: [bank for bank in job.banks if bank.unit == unit.id] for unit in job.units}
        self.fill(
            [
                (
                    topology.parts[one.unit].name,
                    ", ".join(f"{bank.modules} modules" for bank in on[one.unit]) or "none",
                    _count(one.fed),
                    _count(one.lost),
                    text_of(sum(kwh[bank] for bank in one.batteries), "kWh"),
                )
                for one in failures(topology)
            ]
        )


class AdjustmentsTable(_Rows):
    """Changes made by hand, and whether each has its place; Delete takes one out."""

    def __init__(self, store: Store) -> None:
        super().__init__(store, "Adjustments of the wiring", ["Adjustment", "Kind", "Where", "State"])
        self.ids: list[str] = []

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        lost = {one.id: one.missing for one in self.store.reckoner.wiring(job).topology.orphans}
        self.ids = [one.id for one in job.adjustments]
        rows: list[tuple[str, ...]] = []
        for one in job.adjustments:
            where = getattr(one, "into", "") or getattr(one, "board", "") or getattr(one, "fed_from", "")
            where = where or ", ".join(getattr(one, "on", ())) or getattr(one, "around", "")
            rows.append((getattr(one, "name", one.id), one.kind, where, lost.get(one.id, "in place")))
        self.fill(rows)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete and 0 <= self.currentRow() < len(self.ids):
            self.take_out(self.ids[self.currentRow()])
        else:
            super().keyPressEvent(event)

    def take_out(self, id: str) -> None:
        """Take an adjustment out, as one undoable step."""
        job = self.store.job
        if job is not None:
            kept = [one.model_dump(mode="json") for one in job.adjustments if one.id != id]
            self.store.edit(f"Take out {id}", Change("adjustments", kept))


def _count(names: tuple[str, ...]) -> str:
    return f"{len(names)} circuits" if len(names) != 1 else "1 circuit"
