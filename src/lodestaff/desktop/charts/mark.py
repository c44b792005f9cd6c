"""What is read from a chart: marks with their place along the axes and their values."""

import csv
import io
from dataclasses import dataclass
from typing import Protocol

from PySide6.QtCore import QRectF

from lodestaff.quantities import text_of

FEW = 3


@dataclass(frozen=True)
class Value:
    """One value of a mark: what it is, the number or a word, its unit."""

    name: str
    of: float | str | None
    unit: str = ""

    def text(self) -> str:
        """As people read it."""
        if self.of is None or self.of != self.of:
            return "unknown"
        return self.of if isinstance(self.of, str) else text_of(self.of, self.unit)


@dataclass(frozen=True)
class Mark:
    """One place of a chart: where it stands along each axis, in words; its values; its rectangle."""

    where: tuple[str, ...]
    values: tuple[Value, ...]
    rect: QRectF

    def lines(self) -> list[str]:
        """The place, then each value, a line each; of many those that are nothing are left out."""
        shown = [value for value in self.values if len(self.values) <= FEW or value.of != 0.0]
        return [", ".join(self.where), *(f"{value.name} {value.text()}".strip() for value in shown)]


class Charted(Protocol):
    """A drawing that is a chart."""

    def axes(self) -> tuple[str, ...]:
        """What each part of a mark's place is."""

    def marks(self) -> list[Mark]:
        """All that can be read, in the order of reading."""


def table_of(chart: Charted, separator: str = ",") -> str:
    """All marks as a table: a column for each axis and each value, units in the head; with the point."""
    marks = chart.marks()
    heads: dict[str, None] = {}
    rows = []
    for mark in marks:
        row: dict[str, str] = dict(zip(chart.axes(), mark.where))
        for value in mark.values:
            head = f"{value.name} [{value.unit}]" if value.unit else value.name
            heads.setdefault(head)
            known = value.of is not None and value.of == value.of
            row[head] = "" if not known else value.of if isinstance(value.of, str) else f"{value.of:.6g}"
        rows.append(row)
    out = io.StringIO()
    writer = csv.DictWriter(
        out, [*chart.axes(), *heads], delimiter=separator, lineterminator="\n", restval=""
    )
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()
