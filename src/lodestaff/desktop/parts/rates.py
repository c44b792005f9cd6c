"""Currency, tax and labour of the price book, typed."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError
from PySide6.QtCore import Signal

from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.understood import as_number
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


@dataclass(frozen=True)
class Rate:
    """A row: its words, its place in the book, its value now, its unit."""

    words: str
    field: str
    value: Any
    unit: str
    is_hours: bool = False

    @property
    def text(self) -> str:
        if self.value is None:
            return ""
        return plain(self.value) if isinstance(self.value, float | int) else str(self.value)

    @property
    def read_in(self) -> str:
        """The unit that may be typed with it."""
        return self.unit if self.unit in ("h", "%") else ""


class RatesTable(Table[Rate]):
    """An emptied cell is open again; what can't be a rate is said and stays as it was."""

    changed = Signal(object)
    complained = Signal(str)

    def __init__(self, book: Callable[[], PriceBook]) -> None:
        self.book = book
        columns: tuple[Column[Rate], ...] = (
            words("What", lambda rate: rate.words),
            words(
                "Is",
                lambda rate: rate.text,
                typed=self._typed,
                reads=lambda rate: None if rate.field == "currency" else as_number(rate.read_in),
            ),
            words("Unit", lambda rate: rate.unit),
        )
        super().__init__("Currency, tax and labour", columns)

    def refresh(self) -> None:
        """Show the book's rates."""
        book = self.book()
        hours = [Rate(text, kind, book.labour_hours.get(kind), "h", True) for text, kind in HOURS]
        rates = [Rate(text, field, getattr(book, field), unit) for text, field, unit in PLAIN]
        self.show_rows([*rates, *hours])

    def _typed(self, rate: Rate, text: str) -> None:
        data = self.book().model_dump()
        value: Any = text.upper() if rate.field == "currency" else None
        try:
            if text and rate.field != "currency":
                value = read_number(text, rate.read_in)
        except JobError as trouble:
            self.complained.emit(f"Not kept. {rate.words}: {trouble}.")
            return
        if rate.is_hours:
            others = {name: hours for name, hours in data["labour_hours"].items() if name != rate.field}
            data["labour_hours"] = others if value is None else {**others, rate.field: value}
        else:
            data[rate.field] = value if value or rate.field != "tax_pct" else 0
        try:
            book = PriceBook.model_validate(data)
        except ValidationError as trouble:
            self.complained.emit(f"Not kept. {rate.words} {text!r}: {trouble.errors()[0]['msg']}.")
            return
        self.changed.emit(book)
        self.refresh()
