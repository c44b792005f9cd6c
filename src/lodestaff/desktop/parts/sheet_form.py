"""The data sheet of one entry as it is typed: fields in the sheet's order, units, how each value is known,
doubts."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QModelIndex, Signal
from PySide6.QtGui import QColor, QResizeEvent
from PySide6.QtWidgets import QHeaderView

from lodestaff.catalogue import entry as data_sheet
from lodestaff.catalogue.entry import shown
from lodestaff.catalogue.field_meta import FieldRow
from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.theme import current, text_scale
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


@dataclass(frozen=True)
class Line:
    """A line of the form: the head of a group, or one field or two side by side."""

    head: str = ""
    fields: tuple[FieldRow | Beside, ...] = ()
    long: bool = False


BESIDE = (Beside("Note", "note"), Beside("File of the data sheet", "file"))
MISSING, REST = "Missing, and needed", "Beside the values"
GROUPS = (  # by what a field is measured in
    ("Power and energy", ("W", "kW", "VA", "kVA", "Wh", "kWh")),
    ("Volts and amperes", ("V", "A", "Ω", "ohm", "Hz", "ms", "kΩ")),
    ("Size and weight", ("m", "mm", "kg", "m²", "mm²")),
    ("Heat and cold", ("°C", "K", "%/K", "1/K", "%/°C", "1/°C")),
)
OTHER, WORDS, LISTS = "Shares, counts, times", "What it is and can", "Lists and curves"
ONE_COLUMN_PX = 620  # narrower than this one field stands on a line
EACH = 3  # columns of a field


def group_of(row: FieldRow | Beside, missing: bool) -> str:
    """Where a field stands in the form."""
    if isinstance(row, Beside):
        return REST
    if missing:
        return MISSING
    if row.kind == "list":
        return LISTS
    if row.kind not in ("number", "whole number"):
        return WORDS
    return next((name for name, units in GROUPS if row.unit in units), OTHER)


ORDER = (MISSING, WORDS, *(name for name, _ in GROUPS), OTHER, LISTS, REST)
LONG = (LISTS, REST)  # whose fields have a line of their own


class SheetForm(Table[Line]):
    """Every change makes a new entry; what can't be a value is said and stays as it was. Fields stand two a
    line, in groups that fold; what is missing stands first."""

    changed = Signal(object)
    complained = Signal(str)

    def __init__(self) -> None:
        self.entry: Entry | None = None
        self.doubtful: frozenset[str] = frozenset()
        self.folded: set[str] = set()
        self._per_line = 2
        super().__init__("Data sheet", self._columns(), sorts=False)
        self.clicked.connect(self._fold_at)
        self.activated.connect(self._fold_at)

    def _columns(self) -> tuple[Column[Line], ...]:
        return tuple(column for place in range(self._per_line) for column in self._of(place))

    def _of(self, place: int) -> tuple[Column[Line], ...]:
        """The columns of one of the fields of a line."""

        def on(do: Callable[[FieldRow | Beside], Any], none: Any) -> Callable[[Line], Any]:
            return lambda line: do(line.fields[place]) if place < len(line.fields) else none

        def known(do: Callable[[FieldRow | Beside], Any], none: Any) -> Callable[[Line], Any]:
            """As `on`; of a long line it stands at the end."""

            def asked(line: Line) -> Any:
                at = 0 if line.long and place == self._per_line - 1 else place
                return do(line.fields[at]) if at < len(line.fields) else none

            return asked

        def taking(do: Callable[[FieldRow | Beside, str], None]) -> Callable[[Line, str], None]:
            return lambda line, text: do(line.fields[min(place, len(line.fields) - 1)], text)

        def name(line: Line) -> str:
            if line.head:
                return self._head_words(line.head) if place == 0 else ""
            return str(on(lambda row: row.words, "")(line))

        return (
            words("Field", name, tip=on(_tip, "")),
            words(
                "Value",
                on(self._value, ""),
                typed=taking(self._typed_value),
                may=lambda line: place < len(line.fields),
                reads=on(self._reads, None),
                ground=on(self._ground, None),
                tip=on(_tip, ""),
                spoken=on(lambda row: f"{row.words}, {row.unit}".strip(", "), ""),
                wide=True,
            ),
            words(
                "Known",
                known(self._known_text, ""),
                typed=taking(self._typed_known),
                may=lambda line: bool(known(self._known_text, "")(line)),
                choices=known(lambda row: tuple(map(str, KNOWN)), ()),
                spoken=known(lambda row: f"How {row.words} is known", ""),
            ),
        )

    def show_entry(self, entry: Entry | None) -> None:
        """Show an entry's fields; missing ones that are needed stand first, doubtful ones are marked."""
        self.entry = entry
        remarks = entry.remarks if entry is not None else ()
        self.doubtful = frozenset(field for remark in remarks for field in remark.fields)
        self.show_rows(self._lines())
        self.clearSpans()
        for place, line in enumerate(self.rows):
            across = EACH * self._per_line
            if line.head:
                self.setSpan(place, 0, 1, across)
            elif line.long and across > EACH:
                self.setSpan(place, 1, 1, across - 2)

    def _lines(self) -> tuple[Line, ...]:
        lines: list[Line] = []
        for group, rows in self._groups().items():
            if rows:
                lines.append(Line(head=group))
                if group not in self.folded:
                    lines += self._lines_of(rows, group in LONG)
        return tuple(lines)

    def _lines_of(self, rows: list[FieldRow | Beside], long: bool) -> list[Line]:
        """The fields of a group on lines: a long one, and the name, on its own."""
        alone = [row for row in rows if long or row.key == "name"]
        rest = [row for row in rows if row not in alone]
        each = self._per_line
        pairs = [Line(fields=tuple(rest[at : at + each])) for at in range(0, len(rest), each)]
        return [*(Line(fields=(row,), long=True) for row in alone), *pairs]

    def _groups(self) -> dict[str, list[FieldRow | Beside]]:
        groups: dict[str, list[FieldRow | Beside]] = {name: [] for name in ORDER}
        rows: tuple[FieldRow | Beside, ...] = (*self.entry.of.rows, *BESIDE) if self.entry else ()
        for row in rows:
            groups[group_of(row, row.required and self._kept(row) is None)].append(row)
        return groups

    def _head_words(self, group: str) -> str:
        rows = self._groups()[group]
        told = sum(self._kept(row) is not None or isinstance(row, Beside) for row in rows)
        sign = "▸" if group in self.folded else "▾"
        count = f"{len(rows)}" if group == MISSING else f"{told} of {len(rows)} known"
        return f"{sign} {group} · {count}"

    def _fold_at(self, index: QModelIndex) -> None:
        line = self.rows[index.row()] if index.isValid() and index.row() < len(self.rows) else None
        if line is not None and line.head:
            self.folded ^= {line.head}
            self.show_entry(self.entry)

    def place_of(self, field: str) -> tuple[int, int]:
        """Line and column of a field's value, by its words. Raises LookupError where none is seen."""
        for place, line in enumerate(self.rows):
            for at, row in enumerate(line.fields):
                if row.words == field:
                    return place, at * EACH + 1
        raise LookupError(field)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """One field a line where two have no room."""
        super().resizeEvent(event)
        each = 2 if self.width() >= ONE_COLUMN_PX * text_scale() else 1
        if each != self._per_line:
            self._per_line = each
            self.show_rows((), self._columns())
            self.show_entry(self.entry)
        self._share_width()

    def _share_width(self) -> None:
        """Names take a half of what a field has; the tip says a long one whole."""
        head, wide = self.horizontalHeader(), round(self.viewport().width() / self._per_line * 0.46)
        for place in range(self._per_line):
            head.setSectionResizeMode(place * EACH, QHeaderView.ResizeMode.Fixed)
            head.resizeSection(place * EACH, wide)

    def _kept(self, row: FieldRow | Beside) -> Any:
        return self.entry.values.get(row.key) if self.entry is not None else None

    def _value(self, row: FieldRow | Beside) -> str:
        if isinstance(row, Beside):
            return str(getattr(self.entry, row.key, ""))
        kept = self._kept(row)
        text = shown(row, kept, CONVENTION.decimal)
        return f"{text} {row.unit}".strip() if text and row.kind in ("number", "whole number") else text

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
        for grade in KNOWN:
            if text == grade:
                return grade
        raise JobError(f"{text!r} is no way of knowing", "Known", f"choose from {', '.join(KNOWN)}")


def _tip(row: FieldRow | Beside) -> str:
    """Unit, bounds and whether a field is needed."""
    units = ", ".join(unit for unit in (row.unit, *row.also) if unit)
    parts = (row.words, f"in {units}" if units else "", row.bounds, "needed" if row.required else "")
    return ", ".join(part for part in parts if part)
