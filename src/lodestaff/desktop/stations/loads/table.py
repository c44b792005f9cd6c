"""The table of circuits: the drawing's equal, every cell that can be typed in is."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal, get_args

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QSortFilterProxyModel, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from lodestaff.desktop.copying import gives_and_takes
from lodestaff.desktop.stations.loads.timetable_text import (
    climate_text,
    hours_text,
    months_text,
    typed_climate,
    typed_hours,
    typed_months,
)
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import font
from lodestaff.desktop.understood import Reads, UnderstoodDelegate, as_number
from lodestaff.job import Change, Circuit, Fact
from lodestaff.job.circuit import Climate, Use
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.reckoning.load_groups import ROLES

Index = QModelIndex | QPersistentModelIndex
Kind = Literal["text", "number", "share", "choice", "fact", "yes", "shown", "hours", "months", "climate"]


@dataclass(frozen=True)
class Column:
    """A column: its heading, the field of the circuit (a dot steps into a part of it), and what may be
    typed."""

    heading: str
    field: str
    kind: Kind = "number"
    choices: tuple[str, ...] = ()

    @property
    def unit(self) -> str:
        """The unit that stands in the heading, '' where it names none."""
        unit = self.heading.rpartition(", ")[2]
        return unit if unit in UNITS else ""


UNITS = ("W", "kW", "kWh", "kVA", "A", "s", "min", "%")
COLUMNS: tuple[Column, ...] = (
    Column("Circuit", "name", "text"),
    Column("In an outage", "role", "choice", tuple(str(role) for role in ROLES)),
    Column("Phase", "phase", "text"),
    Column("Runs, W", "running_w"),
    Column("Power factor", "power_factor"),
    Column("Start, times", "start_multiple"),
    Column("Start, s", "start_s"),
    Column("A year, kWh", "kwh_year"),
    Column("Night, kWh", "", "shown"),
    Column("Known", "known", "shown"),
    Column("Measured, W", "measured_w", "fact"),
    Column("Measured start, kVA", "measured_start_kva", "fact"),
    Column("Measured on", "measured_w.date", "text"),
    Column("Planned, W", "planned_w", "shown"),
    Column("Worth, 0 to 10", "priority"),
    Column("Shed below, %", "shed_soc", "share"),
    Column("Dropped by", "switched_by", "choice", ("", "contactor", "load control", "hand")),
    Column("Restart after, s", "restart_s"),
    Column("Board", "board", "text"),
    Column("Second supply", "also_on", "text"),
    Column("Surplus on, kW", "surplus.start_kw"),
    Column("off, kW", "surplus.stop_kw"),
    Column("from charge, %", "surplus.min_soc", "share"),
    Column("Topped up", "surplus.top_up", "yes", ("no", "yes")),
    Column("Counted as", "use", "choice", get_args(Use)),
    Column("Device, A", "device_a", "fact"),
    Column("Came later", "added", "yes", ("no", "yes")),
    Column("One run, min", "event_minutes"),
    Column("On weekdays", "weekday", "hours"),
    Column("At weekends", "weekend", "hours"),
    Column("In the year", "months", "months"),
    Column("Follows the weather", "climate", "climate"),
    Column("Kind", "kind", "choice", ("general", "motor", "heating", "car charger")),
    Column("Soft start, times", "soft_start_multiple"),
    Column(
        "Customer's choice", "on_battery", "choice", ("not decided", "on the battery", "never on the battery")
    ),
    Column("Socket in its switch", "switch_socket", "yes", ("no", "yes")),
)
WRITTEN: dict[str, tuple[Callable[[Any], str], Callable[[str], Any]]] = {
    "hours": (hours_text, typed_hours),
    "months": (months_text, typed_months),
    "climate": (climate_text, typed_climate),
}
EMPTY_IS_NONE = ("priority", "shed_soc", "event_minutes", "soft_start_multiple")


def cell_text(circuit: Circuit, column: Column) -> str:
    """What stands in a cell."""
    value: Any = circuit
    for step in column.field.split("."):
        value = getattr(value, step)
    if isinstance(value, Fact):
        if column.field == "known":
            return value.words()
        value = value.value
    if column.kind in WRITTEN:
        return WRITTEN[column.kind][0](value)
    if value is None:
        return ""
    if column.kind == "yes":
        return "yes" if value else "no"
    if column.kind == "share":
        return f"{plain(value * 100)}"
    return f"{plain(value)}" if isinstance(value, float | int) else str(value)


def cell_changes(circuit: Circuit, column: Column, text: str) -> tuple[Change, ...]:
    """What typing into a cell changes. Raises ValueError with what would be right."""
    path = f"circuits/{circuit.id}/{column.field.replace('.', '/')}"
    if column.choices and text not in column.choices and column.kind != "choice":
        raise ValueError(f"{text!r} is none of {', '.join(column.choices)}")
    if column.kind == "yes":
        return (Change(path, text == "yes"),)
    if column.kind in WRITTEN:
        return (Change(path, WRITTEN[column.kind][1](text)),)
    if column.kind in ("text", "choice"):
        return (Change(path, text),)
    if text == "" and column.kind != "fact":
        if column.field in EMPTY_IS_NONE:
            return (Change(path, None),)
        raise ValueError("nothing was typed; type a number")
    if column.kind == "fact" and text == "":
        return (Change(path, {"value": None, "known": "assumed", "note": "", "date": ""}),)
    try:
        number = read_number(text, column.unit)
    except JobError as trouble:
        raise ValueError(str(trouble)) from None
    if column.kind == "fact":
        known = "measured" if column.field.startswith("measured") else "read on site"
        return (
            Change(path, {"value": number, "known": known, "note": "", "date": f"{date.today():%Y-%m-%d}"}),
        )
    if column.field == "priority":
        return (Change(path, int(number)),)
    return (Change(path, number / 100 if column.kind == "share" else number),)


def _stored(change: Change, column: Column) -> str:
    """What was understood, as it is kept."""
    value = (
        change.value.get("value")
        if isinstance(change.value, dict) and "value" in change.value
        else change.value
    )
    if column.kind == "climate":
        return climate_text(Climate.model_validate(value) if value is not None else None)
    if isinstance(value, bool) or value is None or column.kind in WRITTEN:
        return (
            ""
            if value is None
            else WRITTEN[column.kind][0](value)
            if column.kind in WRITTEN
            else "yes"
            if value
            else "no"
        )
    return (
        f"{plain(value * (100 if column.kind == 'share' else 1))}"
        if isinstance(value, float | int)
        else str(value)
    )


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
            return COLUMNS[section].heading
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        circuit = self.circuits()[index.row()]
        column = COLUMNS[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            if column.field == "":
                results = self.store.results
                return f"{plain(results.night_kwh.get(circuit.id, 0), 2)}" if results else "…"
            return cell_text(circuit, column)
        if role == SORTED:
            return _sorts_by(circuit, column, self.store)
        number = column.kind in ("number", "share", "fact") or column.field == ""
        if role == Qt.ItemDataRole.TextAlignmentRole and number:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.FontRole and number:
            return font("text")
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        editable = COLUMNS[index.column()].kind != "shown"
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return base | Qt.ItemFlag.ItemIsEditable if editable else base

    def setData(self, index: Index, value: Any, role: int = 0) -> bool:
        if role != Qt.ItemDataRole.EditRole:
            return False
        circuit = self.circuits()[index.row()]
        column = COLUMNS[index.column()]
        text = str(value).strip()
        if text == cell_text(circuit, column):
            return False
        try:
            changes = cell_changes(circuit, column, text)
        except ValueError as trouble:
            self.store.trouble.emit("edit", f"Not changed. {circuit.name}, {column.heading}: {trouble}.")
            return False
        name = (
            f"Move {circuit.name} to {text}"
            if column.field == "role"
            else f"Set {column.heading.lower()} of {circuit.name} to "
            f"{_stored(changes[0], column) or 'nothing'}"
        )
        return self.store.edit(name, *changes)

    def refresh(self) -> None:
        self.layoutChanged.emit()


class Chooser(QStyledItemDelegate):
    """What a column takes, to choose from."""

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        box = QComboBox(parent)
        box.addItems(list(COLUMNS[index.column()].choices))
        box.setCurrentText(str(index.data()))
        box.activated.connect(lambda: self.commitData.emit(box))
        return box

    def setModelData(self, editor: QWidget, model: Any, index: Index) -> None:
        assert isinstance(editor, QComboBox)
        model.setData(index, editor.currentText(), Qt.ItemDataRole.EditRole)


SORTED = int(Qt.ItemDataRole.UserRole)


def _sorts_by(circuit: Circuit, column: Column, store: Store) -> Any:
    """What a column is put in order by: numbers as numbers, words as words, what isn't known last."""
    if column.field == "":
        return store.results.night_kwh.get(circuit.id, 0.0) if store.results else 0.0
    value: Any = circuit
    for step in column.field.split("."):
        value = getattr(value, step, None)
    value = getattr(value, "value", value)
    return float(value) if isinstance(value, int | float) else cell_text(circuit, column).lower() or "~"


def _reads(row: int, column: int) -> Reads | None:
    """How a cell is understood while it is typed; None for words and what has a writing of its own."""
    return as_number(COLUMNS[column].unit) if COLUMNS[column].kind in ("number", "share", "fact") else None


def circuit_table(store: Store) -> QTableView:
    """The view with its model."""
    view = QTableView()
    view.setAccessibleName("Circuits")
    model = CircuitModel(store)
    model.setParent(view)
    ordered = QSortFilterProxyModel(view)
    ordered.setSourceModel(model)
    ordered.setSortRole(SORTED)
    view.setModel(ordered)
    view.setSortingEnabled(True)
    view.horizontalHeader().setSortIndicatorClearable(True)  # a third click is the job's own order again
    view.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
    gives_and_takes(view, store.together)
    for number, column in enumerate(COLUMNS):
        if column.choices:
            view.setItemDelegateForColumn(number, Chooser(view))
    view.setItemDelegate(UnderstoodDelegate(view, _reads))
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
