"""The data sheet of one entry as it is typed: fields in the sheet's order, units, how each value is known,
doubts."""

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtGui import QColor

from lodestaff.catalogue import entry as data_sheet
from lodestaff.catalogue.entry import shown
from lodestaff.catalogue.field_meta import FieldRow
from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour
from lodestaff.desktop.understood import Reads
from lodestaff.job import Known
from lodestaff.quantities.convention import CONVENTION
from lodestaff.quantities.errors import JobError
from lodestaff.shelf import Entry

KNOWN = (Known.SHEET, Known.READ, Known.INSTRUMENT, Known.TOLD, Known.ASSUMED)


@dataclass(frozen=True)
class Beside:
    """What is kept of an entry beside its values."""

    words: str
    key: str
    unit: str = ""
    also: tuple[str, ...] = ()
    bounds: str = ""
    required: bool = False


BESIDE = (Beside("Note", "note"), Beside("File of the data sheet", "file"))


class SheetForm(Table[FieldRow | Beside]):
    """Every change makes a new entry; what can't be a value is said and stays as it was."""

    changed = Signal(object)
    complained = Signal(str)

    def __init__(self) -> None:
        self.entry: Entry | None = None
        self.doubtful: frozenset[str] = frozenset()
        columns: tuple[Column[FieldRow | Beside], ...] = (
            words("Field", lambda row: row.words),
            words(
                "Value",
                self._value,
                typed=self._typed_value,
                reads=self._reads,
                ground=self._ground,
                wide=True,
            ),
            words("Unit", lambda row: ", ".join(unit for unit in (row.unit, *row.also) if unit)),
            words(
                "Known",
                self._known_text,
                typed=self._typed_known,
                may=lambda row: bool(self._known_text(row)),
                choices=lambda row: tuple(map(str, KNOWN)),
                spoken=lambda row: f"How {row.words} is known",
            ),
            words("Bounds", lambda row: row.bounds, tip=lambda row: row.bounds, wide=True),
        )
        super().__init__("Data sheet", columns, sorts=False)

    def show_entry(self, entry: Entry | None) -> None:
        """Show an entry's fields; missing ones that are needed and doubtful ones are marked."""
        self.entry = entry
        remarks = entry.remarks if entry is not None else ()
        self.doubtful = frozenset(field for remark in remarks for field in remark.fields)
        self.show_rows((*entry.of.rows, *BESIDE) if entry is not None else ())

    def _kept(self, row: FieldRow | Beside) -> Any:
        return self.entry.values.get(row.key) if self.entry is not None else None

    def _value(self, row: FieldRow | Beside) -> str:
        if isinstance(row, Beside):
            return str(getattr(self.entry, row.key, ""))
        return shown(row, self._kept(row), CONVENTION.decimal)

    def _known_text(self, row: FieldRow | Beside) -> str:
        if self.entry is None or self._kept(row) is None:
            return ""
        return str(self.entry.known_of(row.key))

    def _ground(self, row: FieldRow | Beside) -> QColor | None:
        wanted = row.required and self._kept(row) is None
        return colour(current().hand_ground) if wanted or row.key in self.doubtful else None

    def _reads(self, row: FieldRow | Beside) -> Reads | None:
        if isinstance(row, Beside) or self.entry is None or row.kind not in ("number", "whole number"):
            return None
        values, decimal = dict(self.entry.values), CONVENTION.decimal
        return lambda text: f"{shown(row, data_sheet.typed(row, text, values), decimal)} {row.unit}".strip()

    def _typed_value(self, row: FieldRow | Beside, text: str) -> None:
        entry = self.entry
        assert entry is not None
        if isinstance(row, Beside):
            self.changed.emit(entry.model_copy(update={row.key: text[:400]}))
            return
        values: dict[str, Any] = dict(entry.values)
        try:
            values[row.key] = data_sheet.typed(row, text, values)
        except JobError as trouble:
            self.complained.emit(f"Not kept. {trouble}")
            return
        values = {key: value for key, value in values.items() if value is not None}
        known = {key: how for key, how in entry.known.items() if key != row.key or key in values}
        self.changed.emit(entry.model_copy(update={"values": values, "known": known}))

    def _typed_known(self, row: FieldRow | Beside, text: str) -> None:
        entry = self.entry
        assert entry is not None
        try:
            known = {**entry.known, row.key: self._known(text)}
        except JobError as trouble:
            self.complained.emit(f"Not kept. {trouble}")
            return
        self.changed.emit(entry.model_copy(update={"known": known}))

    @staticmethod
    def _known(text: str) -> Known:
        for one in KNOWN:
            if text == one:
                return one
        raise JobError(f"{text!r} is no way of knowing", "Known", f"choose from {', '.join(KNOWN)}")
