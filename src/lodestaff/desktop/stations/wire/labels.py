"""Which labels stand on a drawing too small for all: those of most weight, none over another."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from itertools import groupby, pairwise

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QFontMetricsF

from lodestaff.topology import Topology
from lodestaff.wiring import Drawing, Shape

WEIGHT = ("unit", "source", "generator", "board", "battery", "array", "gateway")  # what is named first
APART = 2.0  # pixels between labels


def fitting(
    drawing: Drawing,
    topology: Topology,
    metrics: QFontMetricsF,
    to_px: Callable[[QPointF], QPointF],
    surface: QRectF,
) -> list[tuple[str, str, QRectF]]:
    """Lines of labels that fit: owner, words and room, px. Where one doesn't, its name may stand alone."""
    solid = [_box(drawing.boxes[name], to_px) for name in drawing.boxes]
    taken, placed = list(solid), []
    for owner, lines in sorted(_groups(drawing.shapes), key=lambda group: _weight(topology, group[0])):
        part = topology.parts.get(owner)
        name = [replace(lines[0], text=part.name.split(",")[0])] if part is not None else lines[:1]
        for some in (lines, name):
            own = drawing.boxes.get(owner)
            rows = _rows(some, metrics, to_px, None if own is None else _box(own, to_px))
            rows = [(words, _within(row, surface)) for words, row in rows]
            room = [row for _, row in rows]
            if not any(row.intersects(other) for row in room for other in taken):
                taken += [row.adjusted(-APART, 0, APART, 0) for row in room]
                placed += [(owner, words, row) for words, row in rows]
                break
    return placed


def _within(row: QRectF, surface: QRectF) -> QRectF:
    """A line moved sideways so far that it stands on the surface."""
    beyond = min(0.0, surface.right() - row.right()) + max(0.0, surface.left() - row.left())
    return row.translated(beyond, 0.0)


def _weight(topology: Topology, owner: str) -> int:
    part = topology.parts.get(owner)
    return WEIGHT.index(part.kind) if part is not None and part.kind in WEIGHT else len(WEIGHT)


def _groups(shapes: Iterable[Shape]) -> list[tuple[str, list[Shape]]]:
    """Lines of a label that follow one another, by whose they are and on which side of it."""
    texts = [shape for shape in shapes if shape.kind == "text" and shape.style == "small"]
    groups = []
    for owner, run in groupby(texts, key=lambda shape: shape.owner):
        lines = list(run)
        gap = min((b.points[0][1] - a.points[0][1] for a, b in pairwise(lines)), default=0.0)
        start = 0
        for at in range(1, len(lines) + 1):
            if at == len(lines) or lines[at].points[0][1] - lines[at - 1].points[0][1] > 1.5 * gap:
                groups.append((owner, lines[start:at]))
                start = at
    return groups


def _rows(
    lines: list[Shape], metrics: QFontMetricsF, to_px: Callable[[QPointF], QPointF], own: QRectF | None
) -> list[tuple[str, QRectF]]:
    """Each line of a label and its room, one under the other: beside its symbol as on the whole drawing."""
    rows = []
    first = to_px(QPointF(*lines[0].points[0]))
    if own is not None and first.y() > own.bottom():
        first.setY(own.bottom() + 1 + metrics.ascent())
    elif own is not None and first.y() < own.top():
        first.setY(own.top() - 1 - metrics.descent() - (len(lines) - 1) * metrics.height())
    for number, line in enumerate(lines):
        width = metrics.horizontalAdvance(line.text)
        left = first.x() - {"middle": width / 2, "right": width}.get(line.align, 0.0)
        top = first.y() - metrics.ascent() + number * metrics.height()
        rows.append((line.text, QRectF(left, top, width, metrics.height())))
    return rows


def _box(box: tuple[float, float, float, float], to_px: Callable[[QPointF], QPointF]) -> QRectF:
    x, y, w, h = box
    return QRectF(to_px(QPointF(x, y)), to_px(QPointF(x + w, y + h)))
