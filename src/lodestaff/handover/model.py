"""What a page is made of, without a look."""

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Text:
    """A paragraph."""

    words: str
    style: Literal["body", "small", "head"] = "body"


@dataclass(frozen=True)
class Caution:
    """A caution, in place."""

    words: str


@dataclass(frozen=True)
class Table:
    """Rows of words under headings; `shares` are the columns' parts of the width, `mark` a column of
    verdicts, `plain` the same rows for a workbook: numbers as numbers, units in the headings `units`."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    shares: tuple[float, ...]
    mark: int | None = None
    name: str = ""
    plain: tuple[tuple[str | float | None, ...], ...] = ()
    units: tuple[str, ...] = ()


@dataclass(frozen=True)
class Diagram:
    """The diagram with the grid present, drawn by whoever shows the page."""


@dataclass(frozen=True)
class Sign:
    """A place for a signature."""

    role: str
    name: str = ""


Block = Text | Caution | Table | Diagram | Sign


@dataclass(frozen=True)
class Page:
    """A page of the pack, and what is missing on it."""

    id: str
    title: str
    blocks: tuple[Block, ...]
    missing: tuple[str, ...] = ()
