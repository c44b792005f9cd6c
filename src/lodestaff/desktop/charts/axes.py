"""Scales of a chart: round steps, lines across the plot, words beside them with the unit once."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour
from lodestaff.quantities.convention import plain

ROUND = (1.0, 2.0, 2.5, 5.0)
LEAST_GAP_PX = 42.0


def ticks(most: float, length_px: float, least_gap_px: float = LEAST_GAP_PX) -> list[float]:
    """Values from 0 to `most` in round steps (1, 2, 2.5 or 5 times a power of ten) that stand at least so
    many pixels apart on a scale of `length_px`."""
    if not (most > 0 and length_px > 0):
        return [0.0]
    step = next(
        base * 10.0**power
        for power in range(-6, 12)
        for base in ROUND
        if base * 10.0**power / most * length_px >= least_gap_px
    )
    return [step * index for index in range(int(most / step + 1e-9) + 1)]


def paint_heights(
    painter: QPainter, plot: QRectF, most: float, unit: str, across: bool = True, values: bool = True
) -> None:
    """The scale of heights at the left of a plot whose foot is 0, with lines across it."""
    look, k = current(), max(1.0, text_scale())
    painter.setFont(font("label"))
    gap = LEAST_GAP_PX * k
    for value in ticks(most, plot.height(), gap):
        y = plot.bottom() - value / most * plot.height()
        painter.setPen(QPen(colour(look.line), 1))
        painter.drawLine(QPointF(plot.left() - 3, y), QPointF(plot.right() if across else plot.left(), y))
        if values:
            painter.setPen(colour(look.soft))
            painter.drawText(
                QRectF(plot.left() - 60 * k, y - 8 * k, 55 * k, 16 * k),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                plain(value),
            )
    if unit:
        painter.setPen(colour(look.soft))
        painter.drawText(
            QPointF(plot.left() - 4 - painter.fontMetrics().horizontalAdvance(unit), plot.top() - 5), unit
        )


def paint_lengths(painter: QPainter, plot: QRectF, most: float, unit: str) -> None:
    """The scale of lengths at the foot of a plot whose left edge is 0."""
    look, k = current(), max(1.0, text_scale())
    painter.setFont(font("label"))
    graduations = ticks(most, plot.width(), 70 * k)
    for value in graduations:
        x = plot.left() + value / most * plot.width()
        painter.setPen(QPen(colour(look.line), 1))
        painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom() + 3))
        words = f"{plain(value)} {unit}" if value == graduations[-1] else plain(value)
        wide = painter.fontMetrics().horizontalAdvance(words) + 2
        left = min(max(plot.left(), x - wide / 2), plot.right() - wide)
        painter.setPen(colour(look.soft))
        painter.drawText(QRectF(left, plot.bottom() + 3, wide, 15 * k), Qt.AlignmentFlag.AlignCenter, words)
