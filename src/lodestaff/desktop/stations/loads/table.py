"""The table of circuits: the drawing's equal, every cell that can be typed in is."""

from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import QComboBox, QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableView, QWidget

from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import font
from lodestaff.job import Change, Circuit
from lodestaff.reckoning.lanes import ROLES

Index = QModelIndex | QPersistentModelIndex
# Heading, the field of the circuit, whether it is a number that can be typed.
COLUMNS: tuple[tuple[str, str, bool], ...] = (
    ("Circuit", "name", False),
    ("In an outage", "role", False),
    ("Phase", "phase", False),
    ("Runs, W", "running_w", True),
    ("Power factor", "power_factor", True),
    ("Start, times", "start_multiple", True),
    ("Start, s", "start_s", True),
    ("A year, kWh", "kwh_year", True),
    ("Night, kWh", "", False),
    ("Known", "known", False),
)
READ_ONLY = ("", "phase", "known")


class CircuitModel(QAbstractTableModel):
    """Rows are circuits in the job's order."""

    def __init__(self, store: Store) -> None:
        super().__init__()
        self.store = store

    def circuits(self) -> tuple[Circuit, ...]:
        return self.store.job.circuits if self.store.job else ()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  (Qt's signature)
        return 0 if parent.isValid() else len(self.circuits())

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return COLUMNS[section][0]
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        circuit = self.circuits()[index.row()]
        _, field, number = COLUMNS[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            if field == "":
                results = self.store.results
                return f"{results.night_kwh.get(circuit.id, 0):.2f}" if results else "…"
            value = getattr(circuit, field)
            if field == "known":
                return value.words()
            return f"{value:g}" if number else str(value)
        if role == Qt.ItemDataRole.TextAlignmentRole and (number or field == ""):
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.FontRole and (number or field == ""):
            return font("text")
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        editable = COLUMNS[index.column()][1] not in READ_ONLY
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return base | Qt.ItemFlag.ItemIsEditable if editable else base

    def setData(self, index: Index, value: Any, role: int = 0) -> bool:
        if role != Qt.ItemDataRole.EditRole:
            return False
        circuit = self.circuits()[index.row()]
        heading, field, number = COLUMNS[index.column()]
        text = str(value).strip()
        if number:
            try:
                typed: Any = float(text.replace(",", "."))
            except ValueError:
                self.store.trouble.emit(
                    "edit", f"Not changed. {circuit.name}, {heading}: {text!r} is not a number; type one like 750."
                )
                return False
        else:
            typed = text
        name = (
            f"Move {circuit.name} to {typed}"
            if field == "role"
            else f"Set {heading.lower()} of {circuit.name} to {text}"
        )
        return self.store.edit(name, Change(f"circuits/{circuit.id}/{field}", typed))

    def refresh(self) -> None:
        self.layoutChanged.emit()


class RoleChooser(QStyledItemDelegate):
    """The roles to choose from."""

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        box = QComboBox(parent)
        box.addItems([str(role) for role in ROLES])
        box.setCurrentText(str(index.data()))
        box.activated.connect(lambda: self.commitData.emit(box))
        return box

    def setModelData(self, editor: QWidget, model: Any, index: Index) -> None:
        assert isinstance(editor, QComboBox)
        model.setData(index, editor.currentText(), Qt.ItemDataRole.EditRole)


def circuit_table(store: Store) -> QTableView:
    """The view with its model."""
    view = QTableView()
    view.setAccessibleName("Circuits")
    model = CircuitModel(store)
    model.setParent(view)
    view.setModel(model)
    view.setItemDelegateForColumn(1, RoleChooser(view))
    view.setAlternatingRowColors(True)
    view.verticalHeader().hide()
    view.verticalHeader().setDefaultSectionSize(32)
    view.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    view.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
    view.setColumnWidth(0, 190)
    view.setEditTriggers(
        QTableView.EditTrigger.DoubleClicked
        | QTableView.EditTrigger.EditKeyPressed
        | QTableView.EditTrigger.SelectedClicked
    )
    view.setTabKeyNavigation(False)
    return view
