"""What a page is made of, without a look."""

from dataclasses import dataclass
from typing import Literal

from lodestaff.job.handed import PackPart


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
    """The diagram with the grid present, drawn by whoever prints the page; `simple` is its overview alone."""

    simple: bool = False


@dataclass(frozen=True)
class Walls:
    """The walls with what stands on them, drawn by whoever prints the page."""


@dataclass(frozen=True)
class ModuleMap:
    """The modules on their faces, drawn by whoever prints the page."""


Look = Literal["sun", "battery", "grid", "load", "export"]


@dataclass(frozen=True)
class Series:
    """One row of values of a chart; `below` hangs from the line."""

    name: str
    values: tuple[float, ...]
    look: Look
    below: bool = False


@dataclass(frozen=True)
class Chart:
    """A chart as values, drawn once by whoever prints: bars over labels, on one another or `beside`."""

    name: str
    labels: tuple[str, ...]
    series: tuple[Series, ...]
    unit: str
    beside: bool = False


@dataclass(frozen=True)
class Picture:
    """A photo of the job, by its SHA-256."""

    sha256: str
    words: str


@dataclass(frozen=True)
class Sign:
    """A place for a signature."""

    role: str
    name: str = ""


Block = Text | Caution | Table | Diagram | Walls | ModuleMap | Chart | Picture | Sign


@dataclass(frozen=True)
class Page:
    """A page of the pack, and what is missing on it."""

    id: str
    title: str
    blocks: tuple[Block, ...]
    missing: tuple[str, ...] = ()
    part: PackPart = "technical"


PART_NAMES: dict[PackPart, str] = {
    "owner": "For the owner",
    "technical": "Technical record",
    "operator": "For the operator",
    "firm": "For the firm",
}
