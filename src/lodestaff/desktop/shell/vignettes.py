"""Three small pictures of what the program does, for the first screen."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QLabel, QSizePolicy, QVBoxLayout, QWidget

from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour, hatch

Paint = Callable[[QPainter, QRectF], None]


class Picture(QWidget):
    """A painted picture of a fixed height; it says nothing that the words below it don't."""

    def __init__(self, paint: Paint) -> None:
        super().__init__()
        self.paint = paint
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(200, 92)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour(current().panel))
        self.paint(painter, QRectF(self.rect()).adjusted(14, 12, -14, -14))
        painter.end()


def rail(painter: QPainter, box: QRectF) -> None:
    """Blocks on a rail against the stop of the source."""
    look = current()
    x = box.left()
    for wide, high in ((0.16, 0.5), (0.08, 0.9), (0.2, 0.35), (0.12, 0.62)):
        block = QRectF(
            x, box.bottom() - high * box.height() * 0.8, wide * box.width(), high * box.height() * 0.8
        )
        painter.fillRect(block, hatch(look, "battery"))
        painter.fillRect(QRectF(block.left(), block.top(), block.width(), 3), colour(look.battery))
        x = block.right() + 1
    start = QRectF(x, box.bottom() - 20, box.width() * 0.18, 20)
    painter.setPen(QPen(colour(look.warns), 1.5, Qt.PenStyle.DashLine))
    painter.drawRect(start)
    painter.setPen(QPen(colour(look.ink), 2))
    painter.drawLine(box.bottomLeft(), box.bottomRight())
    stop = box.left() + box.width() * 0.86
    painter.drawLine(QPointF(stop, box.top()), QPointF(stop, box.bottom()))


def live(painter: QPainter, box: QRectF) -> None:
    """A unit between grid, sun and battery: what is live, and from what."""
    look = current()
    middle, unit = box.center().y(), QRectF(box.center().x() - 18, box.center().y() - 22, 36, 44)
    lines = (
        (box.left(), middle, unit.left(), middle, look.grid, Qt.PenStyle.SolidLine),
        (box.left(), box.top() + 6, unit.left(), middle - 12, look.sun, Qt.PenStyle.DotLine),
        (box.left(), box.bottom() - 6, unit.left(), middle + 12, look.battery, Qt.PenStyle.DashLine),
        (unit.right(), middle - 10, box.right(), middle - 10, look.battery, Qt.PenStyle.DashLine),
        (unit.right(), middle + 14, box.right(), middle + 14, look.line, Qt.PenStyle.SolidLine),
    )
    for x, y, to_x, to_y, ink, style in lines:
        painter.setPen(QPen(colour(ink), 3, style))
        bend = (x + to_x) / 2
        painter.drawPolyline([QPointF(x, y), QPointF(bend, y), QPointF(bend, to_y), QPointF(to_x, to_y)])
    painter.setPen(QPen(colour(look.ink), 1.5))
    painter.setBrush(colour(look.panel))
    painter.drawRect(unit)
    painter.drawLine(unit.bottomLeft(), unit.topRight())
    for offset in (-10, 14):
        painter.drawRect(QRectF(box.right() - 10, middle + offset - 10, 12, 20))


def day(painter: QPainter, box: QRectF) -> None:
    """A day from noon to noon: sun above, circuits below, the charge over it."""
    look = current()
    middle = box.top() + box.height() * 0.58
    sun = [QPointF(box.left() + box.width() * share, middle - box.height() * high)
           for share, high in ((0, 0.0), (0, 0.42), (0.1, 0.36), (0.22, 0.05), (0.24, 0.0))]  # fmt: skip
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(hatch(look, "sun"))
    painter.drawPolygon(QPolygonF(sun))
    painter.drawPolygon(
        QPolygonF([QPointF(box.left() + box.right() - point.x(), point.y()) for point in sun])
    )
    painter.setBrush(hatch(look, "load"))
    for share in (0.3, 0.42, 0.54, 0.66):
        painter.drawRect(
            QRectF(box.left() + box.width() * share, middle, box.width() * 0.1, box.height() * 0.26)
        )
    painter.setPen(QPen(colour(look.ink), 1.5))
    painter.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
    painter.setPen(QPen(colour(look.battery), 2.5))
    charge = ((0, 0.5), (0.2, 0.05), (0.55, 0.55), (0.72, 0.72), (1, 0.3))
    painter.drawPolyline(
        [QPointF(box.left() + box.width() * x, box.top() + box.height() * y) for x, y in charge]
    )
    painter.setPen(QPen(colour(look.hand), 1.5, Qt.PenStyle.DashLine))
    reserve = box.top() + box.height() * 0.8
    painter.drawLine(QPointF(box.left(), reserve), QPointF(box.right(), reserve))


PICTURES: tuple[tuple[Paint, str], ...] = (
    (rail, "What stays on in an outage, and for how long"),
    (live, "What is connected, and what is live in every state"),
    (day, "What a day and a year make of it, with its limits"),
)


def framed(paint: Paint, words: str) -> QWidget:
    """A picture above its words."""
    whole = QWidget()
    column = QVBoxLayout(whole)
    column.setContentsMargins(0, 0, 0, 0)
    label = QLabel(words)
    label.setWordWrap(True)
    column.addWidget(Picture(paint))
    column.addWidget(label)
    return whole
