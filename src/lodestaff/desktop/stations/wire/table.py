"""Switches and conductors as rows: the diagram's equal."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHeaderView, QTableWidget, QTableWidgetItem

from lodestaff.desktop.store import Store


class WireTable(QTableWidget):
    """Switches first, with a choice of positions; then every conductor with what makes it live."""

    def __init__(self, store: Store) -> None:
        super().__init__(0, 3)
        self.store = store
        self.setAccessibleName("Switches and conductors")
        self.setHorizontalHeaderLabels(["Part or conductor", "Position or cores", "Live from"])
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(34)
        self.setAlternatingRowColors(True)
        self.setTabKeyNavigation(False)
        self._switches: tuple[str, ...] = ()

    def refresh(self) -> None:
        """Show the present state."""
        answer = self.store.answer()
        if answer is None or self.store.job is None:
            return
        topology = self.store.reckoner.wiring(self.store.job).topology
        switches = topology.switches()
        self.setRowCount(len(switches) + len(topology.conductors))
        ids = tuple(part.id for part in switches)
        if ids != self._switches:
            self._switches = ids
            for row, part in enumerate(switches):
                box = QComboBox()
                box.addItems(list(part.positions))
                box.setAccessibleName(f"Position of {part.name}")
                box.textActivated.connect(
                    lambda text, part=part: self.store.set_state(self.store.state.with_hand(part.id, text))
                )
                self.setCellWidget(row, 1, box)
        for row, part in enumerate(switches):
            self._put(row, 0, part.name)
            chooser = self.cellWidget(row, 1)
            assert isinstance(chooser, QComboBox)
            chooser.setCurrentText(answer.positions[part.id])
            self._put(row, 2, "")
        for row, conductor in enumerate(topology.conductors, start=len(switches)):
            a, b = topology.parts[conductor.a[0]].name, topology.parts[conductor.b[0]].name
            self._put(row, 0, f"{a} to {b}")
            self._put(row, 1, conductor.name)
            self._put(row, 2, ", ".join(sorted(answer.live[conductor.id])) or "dead")

    def _put(self, row: int, column: int, text: str) -> None:
        item = self.item(row, column)
        if item is None:
            item = QTableWidgetItem()
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
            self.setItem(row, column, item)
        item.setText(text)
