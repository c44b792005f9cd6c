"""The data sheet of one entry as it is typed: fields in the sheet's order, units, how each value is known,
doubts."""

from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHeaderView

from lodestaff.catalogue import entry as data_sheet
from lodestaff.catalogue.entry import shown
from lodestaff.desktop.stations.typed_table import TypedTable
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour
from lodestaff.desktop.understood import Reads
from lodestaff.job import Known
from lodestaff.quantities.convention import CONVENTION
from lodestaff.quantities.errors import JobError
from lodestaff.shelf import Entry

KNOWN = (Known.SHEET, Known.READ, Known.INSTRUMENT, Known.TOLD, Known.ASSUMED)
COLUMNS = ("Field", "Value", "Unit", "Known", "Bounds")
BESIDE = (("Note", "note"), ("File of the data sheet", "file"))  # kept beside the values


class SheetForm(TypedTable):
    """Every change makes a new entry; what can't be a value is said and stays as it was."""

    changed = Signal(object)
    complained = Signal(str)

    def __init__(self) -> None:
        super().__init__("Data sheet", list(COLUMNS))
        self.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.entry: Entry | None = None

    def refresh(self) -> None:
        """Show the entry in hand anew."""
        self.show_entry(self.entry)

    def show_entry(self, entry: Entry | None) -> None:
        """Show an entry's fields; missing ones that are needed and doubtful ones are marked."""
        self.entry = entry
        self.blockSignals(True)
        rows = entry.of.rows if entry is not None else ()
        self.setRowCount(len(rows) + (len(BESIDE) if entry is not None else 0))
        marked, plain = colour(current().hand_ground), colour(current().panel)
        doubtful = {field for one in entry.remarks for field in one.fields} if entry is not None else set()
        for index, row in enumerate(rows):
            assert entry is not None
            value = entry.values.get(row.key)
            units = ", ".join(unit for unit in (row.unit, *row.also) if unit)
            known = str(entry.known_of(row.key)) if value is not None else ""
            for column, text in enumerate(
                (row.words, shown(row, value, CONVENTION.decimal), units, known, row.bounds)
            ):
                editable = column == 1 or (column == 3 and value is not None)
                wanted = column == 1 and row.required and value is None
                self.put(index, column, text, editable, marked if wanted or row.key in doubtful else plain)
        for index, (words, field) in enumerate(BESIDE if entry is not None else (), start=len(rows)):
            for column, text in enumerate((words, str(getattr(entry, field)), "", "", "")):
                self.put(index, column, text, column == 1, plain)
        self.blockSignals(False)

    def reads(self, row: int, column: int) -> Reads | None:
        fields = self.entry.of.rows if self.entry is not None else ()
        if column != 1 or row >= len(fields) or fields[row].kind not in ("number", "whole number"):
            return None
        field, values = fields[row], dict(self.entry.values) if self.entry is not None else {}
        return lambda text: (
            f"{shown(field, data_sheet.typed(field, text, values), CONVENTION.decimal)} {field.unit}".strip()
        )

    def typed(self, row: int, column: int, text: str) -> None:
        entry = self.entry
        if entry is None:
            return
        rows = entry.of.rows
        if row >= len(rows):
            self.changed.emit(entry.model_copy(update={BESIDE[row - len(rows)][1]: text[:400]}))
            return
        field = rows[row]
        values: dict[str, Any] = dict(entry.values)
        known = dict(entry.known)
        try:
            if column == 3:
                known[field.key] = self._known(text)
            else:
                value = data_sheet.typed(field, text, values)
                if value is None:
                    values.pop(field.key, None)
                    known.pop(field.key, None)
                else:
                    values[field.key] = value
        except JobError as trouble:
            self.complained.emit(f"Not kept. {trouble}")
            return
        self.changed.emit(entry.model_copy(update={"values": values, "known": known}))

    @staticmethod
    def _known(text: str) -> Known:
        for one in KNOWN:
            if text == one:
                return one
        raise JobError(f"{text!r} is no way of knowing", "Known", f"choose from {', '.join(KNOWN)}")
