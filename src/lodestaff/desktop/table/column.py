"""What a column of a table is: what it shows of a row, what may be typed or chosen there, how it is put in
order."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from PySide6.QtGui import QColor

from lodestaff.desktop.understood import Reads
from lodestaff.quantities.convention import plain

Row = TypeVar("Row")


@dataclass(frozen=True)
class Column(Generic[Row]):
    """A column. What isn't given isn't there: without `typed` a cell is only shown.

    `order` is what rows are put in order by, None (last) where it isn't known; else the text is. `figures`
    stand at the right edge. `standing` choices are seen without opening the cell. `press` makes every cell a
    button that bears its text. `typed` may answer False for what it refused. A row carries all that its cells
    show: a cell may be painted once more after the job has gone on.
    """

    heading: str
    text: Callable[[Row], str]
    typed: Callable[[Row, str], object] | None = None
    may: Callable[[Row], bool] = lambda _: True
    reads: Callable[[Row], Reads | None] = lambda _: None
    choices: Callable[[Row], Sequence[str]] = lambda _: ()
    standing: bool = False
    press: Callable[[Row], object] | None = None
    order: Callable[[Row], Any] | None = None
    figures: bool = False
    spoken: Callable[[Row], str] = lambda _: ""
    tip: Callable[[Row], str] = lambda _: ""
    ground: Callable[[Row], QColor | None] = lambda _: None
    wide: bool = False

    def takes(self, row: Row) -> bool:
        """Whether something can be typed or chosen in the row."""
        return self.typed is not None and self.may(row)

    def ordered_by(self, row: Row) -> tuple[bool, Any]:
        """Numbers as numbers, words as words, what isn't known last."""
        if self.order is not None:
            value = self.order(row)
            return value is None, 0.0 if value is None else value
        text = self.text(row).casefold()
        return not text, text


def words(heading: str, text: Callable[[Row], str], **more: Any) -> Column[Row]:
    """A column of words."""
    return Column(heading, text, **more)


def number(
    heading: str,
    value: Callable[[Row], float | None],
    unit: str = "",
    decimals: int | None = None,
    **more: Any,
) -> Column[Row]:
    """A column of numbers, printed by the one convention; empty where there is none."""

    def text(row: Row) -> str:
        number = value(row)
        shown = "" if number is None else plain(number) if decimals is None else plain(number, decimals)
        return f"{shown} {unit}".strip() if shown else ""

    return Column(heading, text, order=value, figures=True, **more)
