"""Currency, tax and labour of the price book, typed."""

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError
from PySide6.QtCore import Signal

from lodestaff.desktop.stations.typed_table import TypedTable
from lodestaff.desktop.understood import Reads, as_number
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.shelf.prices import PriceBook

PLAIN = (
    ("Currency", "currency", ""),
    ("Tax", "tax_pct", "%"),
    ("Labour", "labour_per_hour", "an hour, without tax"),
)
HOURS = (("Labour, one hybrid", "hybrid"), ("Labour, one battery "
                                            "module", "battery"), ("Labour, one solar module", "module"),
         ("Labour, one metre of cable", "cable"))  # fmt: skip


class RatesTable(TypedTable):
    """An emptied cell is open again; what can't be a rate is said and stays as it was."""

    changed = Signal(object)
    complained = Signal(str)

    def __init__(self, book: Callable[[], PriceBook]) -> None:
        super().__init__("Currency, tax and labour", ["What", "Is", "Unit"])
        self.book = book

    def refresh(self) -> None:
        book = self.book()
        self.blockSignals(True)
        self.setRowCount(len(PLAIN) + len(HOURS))
        rows: list[tuple[str, Any, str]] = [
            (words, getattr(book, field), unit) for words, field, unit in PLAIN
        ]
        rows += [(words, book.labour_hours.get(kind), "h") for words, kind in HOURS]
        for row, (words, value, unit) in enumerate(rows):
            text = "" if value is None else f"{plain(value)}" if isinstance(value, float | int) else value
            for column, cell in enumerate((words, text, unit)):
                self.put(row, column, cell, column == 1)
        self.blockSignals(False)

    def reads(self, row: int, column: int) -> Reads | None:
        field = PLAIN[row][1] if row < len(PLAIN) else ""
        return None if field == "currency" else as_number("%" if field == "tax_pct" else "" if field else "h")

    def typed(self, row: int, column: int, text: str) -> None:
        data = self.book().model_dump()
        words, field = PLAIN[row][:2] if row < len(PLAIN) else HOURS[row - len(PLAIN)]
        value: Any = None
        try:
            if text and field != "currency":
                value = read_number(text, "h" if row >= len(PLAIN) else "%" if field == "tax_pct" else "")
        except JobError as trouble:
            self.complained.emit(f"Not kept. {words}: {trouble}.")
            return
        if row < len(PLAIN):
            data[field] = text.upper() if field == "currency" else value if value or field != "tax_pct" else 0
        else:
            data["labour_hours"] = {
                name: hours for name, hours in data["labour_hours"].items() if name != field
            }
            if value is not None:
                data["labour_hours"][field] = value
        try:
            book = PriceBook.model_validate(data)
        except ValidationError as trouble:
            self.complained.emit(f"Not kept. {words} {text!r}: {trouble.errors()[0]['msg']}.")
            return
        self.changed.emit(book)
