"""What the Array drawing marks things with: hatches of the strings, and their names on a ground."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter

from lodestaff.desktop.stations.array.geometry import Bar, Key, Roof
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font
from lodestaff.desktop.theme.paint import colour, hatch
from lodestaff.job import Job


class Carried(Protocol):
    """The things on the faces, as the drawing shows them in the hand."""

    carried: QPointF | None

    def paint(self, painter: QPainter, at: QPointF) -> None: ...


class Handles(Protocol):
    """The corners of the faces, as the drawing shows them."""

    def paint(self, painter: QPainter, at: QPointF) -> None: ...


class RoofView(Protocol):
    """What is painted of the roof: where its faces and strings lie, and what the hand holds."""

    store: Store
    roof: Roof | None
    selected: tuple[Key, ...]
    string: str
    dragging: bool
    bar: Bar | None
    at: QPointF
    target: str | None
    stroke: dict[float, float]

    @property
    def things(self) -> Carried: ...
    @property
    def corners(self) -> Handles: ...

    def hasFocus(self) -> bool: ...
    def update(self) -> None: ...
    def width(self) -> int: ...
    def height(self) -> int: ...


KINDS = ("sun", "battery", "grid", "export", "load")  # hatches, in the order of the strings


def brush_of(job: Job, string: str) -> tuple[QBrush, str]:
    """The hatch and ink of a string; none for modules on no string."""
    look = current()
    ids = [string.id for string in job.strings]
    if string not in ids:
        return QBrush(Qt.BrushStyle.NoBrush), look.soft
    kind = KINDS[ids.index(string) % len(KINDS)]
    return hatch(look, kind), getattr(look, "hand" if kind == "export" else kind)


def tag(painter: QPainter, rect: QRectF, words: str) -> None:
    look = current()
    painter.setFont(font("strong"))
    width = painter.fontMetrics().horizontalAdvance(words) + 8
    high = painter.fontMetrics().height() + 2
    box = QRectF(rect.center().x() - width / 2, rect.center().y() - high / 2, width, high)
    painter.fillRect(box, colour(look.panel, 235))
    painter.setPen(colour(look.ink))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
