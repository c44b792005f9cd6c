"""The data sheet of one entry as it is typed: fields in the sheet's order, units, how each value is known, doubts."""

from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from lodestaff.catalogue.entry import shown, typed
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour
from lodestaff.job import Known
from lodestaff.quantities.errors import JobError
from lodestaff.shelf import Entry

KNOWN = (Known.SHEET, Known.READ, Known.INSTRUMENT, Known.TOLD, Known.ASSUMED)
COLUMNS = ("Field", "Value", "Unit", "Known", "Bounds")
BESIDE = (("Note", "note"), ("File of the data sheet", "file"))  # kept beside the values


class SheetForm(QTableWidget):
    """Every change makes a new entry; what can't be a value is said and stays as it was."""

    changed = Signal(object)
    complained = Signal(str)

    def __init__(self) -> None:
        super().__init__(0, len(COLUMNS))
        self.setAccessibleName("Data sheet")
        self.setHorizontalHeaderLabels(list(COLUMNS))
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(30)
        self.setTabKeyNavigation(False)
        self.entry: Entry | None = None
        self.itemChanged.connect(self._typed)

    def show_entry(self, entry: Entry | None) -> None:
        """Show an entry's fields; missing ones that are needed and doubtful ones are marked."""
        self.entry = entry
        self.blockSignals(True)
        rows = entry.of.rows if entry is not None else ()
        self.setRowCount(len(rows) + (len(BESIDE) if entry is not None else 0))
        doubtful = {field for one in entry.remarks for field in one.fields} if entry is not None else set()
        for index, row in enumerate(rows):
            assert entry is not None
            value = entry.values.get(row.key)
            units = ", ".join(unit for unit in (row.unit, *row.also) if unit)
            known = str(entry.known_of(row.key)) if value is not None else ""
            for column, text in enumerate((row.words, shown(row, value), units, known, row.bounds)):
                editable = column == 1 or (column == 3 and value is not None)
                wanted = column == 1 and row.required and value is None
                self._put(index, column, text, editable, wanted or row.key in doubtful)
        for index, (words, field) in enumerate(BESIDE if entry is not None else (), start=len(rows)):
            for column, text in enumerate((words, str(getattr(entry, field)), "", "", "")):
                self._put(index, column, text, column == 1, False)
        self.blockSignals(False)

    def _put(self, row: int, column: int, text: str, editable: bool, marked: bool) -> None:
        item = self.item(row, column)
        if item is None:
            item = QTableWidgetItem()
            self.setItem(row, column, item)
        item.setText(text)
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        item.setFlags(base | Qt.ItemFlag.ItemIsEditable if editable else base)
        item.setBackground(colour(current().hand_ground if marked else current().panel))

    def _typed(self, item: QTableWidgetItem) -> None:
        entry = self.entry
        if entry is None:
            return
        rows, text = entry.of.rows, item.text().strip()
        if item.row() >= len(rows):
            self.changed.emit(entry.model_copy(update={BESIDE[item.row() - len(rows)][1]: text[:400]}))
            return
        row = rows[item.row()]
        values: dict[str, Any] = dict(entry.values)
        known = dict(entry.known)
        try:
            if item.column() == 3:
                known[row.key] = self._known(text)
            else:
                value = typed(row, text, values)
                if value is None:
                    values.pop(row.key, None)
                    known.pop(row.key, None)
                else:
                    values[row.key] = value
        except JobError as trouble:
            self.complained.emit(f"Not kept. {trouble}")
            self.show_entry(entry)
            return
        self.changed.emit(entry.model_copy(update={"values": values, "known": known}))

    @staticmethod
    def _known(text: str) -> Known:
        for one in KNOWN:
            if text == one:
                return one
        raise JobError(f"{text!r} is no way of knowing", "Known", f"choose from {', '.join(KNOWN)}")
