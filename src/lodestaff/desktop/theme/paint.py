"""Brushes and marks: each kind of energy has its own hatch, each verdict its own shape."""

from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPixmap, QPolygonF

from lodestaff.desktop.theme.tokens import Look

HATCH = {
    "sun": "dots",
    "battery": "plain",
    "grid": "ruled",
    "load": "plain",
    "export": "slant",
    "lost": "outline",
}
TILE = 6


def colour(name: str, alpha: int = 255) -> QColor:
    made = QColor(name)
    made.setAlpha(alpha)
    return made


@lru_cache(maxsize=64)
def hatch(look: Look, kind: str, style: str = "") -> QBrush:
    """The brush of a kind of energy: tinted ground with dots, rules or slants, so that none rests on
    colour."""
    ink = getattr(look, {"export": "hand"}.get(kind, kind))
    style = style or HATCH[kind]
    if style == "outline":
        return QBrush(Qt.BrushStyle.NoBrush)
    tint = 70 if kind in ("battery", "sun") else 48
    tile = QPixmap(TILE, TILE)
    tile.fill(colour(ink, tint))
    painter = QPainter(tile)
    painter.setPen(QPen(colour(ink), 1))
    if style == "dots":
        painter.fillRect(1, 1, 2, 2, colour(ink))
        painter.fillRect(4, 4, 2, 2, colour(ink))
    elif style == "ruled":
        painter.drawLine(0, 2, TILE, 2)
    elif style == "slant":
        painter.drawLine(0, TILE, TILE, 0)
        painter.drawPoint(0, 0)
    painter.end()
    return QBrush(tile)


def mark(painter: QPainter, look: Look, status: str, box: QRectF) -> None:
    """The sign of a verdict: square blocks, triangle warns, bar notes, ring open, tick passed."""
    ink = colour(getattr(look, status))
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    if status == "blocks":
        painter.drawRect(box)
    elif status == "warns":
        top = QPointF(box.center().x(), box.top())
        painter.drawPolygon(QPolygonF([top, box.bottomRight(), box.bottomLeft()]))
    elif status == "notes":
        painter.drawRect(
            QRectF(box.left(), box.center().y() - box.height() * 0.16, box.width(), box.height() * 0.32)
        )
    else:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ink, max(1.6, box.width() * 0.16)))
        if status == "open":
            painter.drawEllipse(box.adjusted(1, 1, -1, -1))
        else:
            painter.drawPolyline(
                [
                    QPointF(box.left(), box.center().y()),
                    QPointF(box.center().x() - 1, box.bottom() - 1),
                    box.topRight(),
                ]
            )
    painter.restore()


def corners(painter: QPainter, look: Look, box: QRectF, arm: float = 9.0) -> None:
    """Marks in the corners of a drawing that has the keyboard, whatever is chosen in it."""
    painter.save()
    painter.setPen(QPen(colour(look.hand), 3))
    for x, step in ((box.left() + 1.5, arm), (box.right() - 1.5, -arm)):
        for y, down in ((box.top() + 1.5, arm), (box.bottom() - 1.5, -arm)):
            painter.drawPolyline([QPointF(x + step, y), QPointF(x, y), QPointF(x, y + down)])
    painter.restore()


def focus_frame(painter: QPainter, look: Look, box: QRectF) -> None:
    """The frame that shows where the keyboard is."""
    painter.save()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(look.hand), 2))
    painter.drawRect(box)
    painter.restore()
