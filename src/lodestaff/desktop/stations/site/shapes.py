"""The parts of the wall, each in its own shape: service cable, service head, meter, board with its ways,
earth bar, what was found."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour, hatch
from lodestaff.job import Job

WAYS = 10


def paint_shape(painter: QPainter, name: str, box: QRectF, job: Job) -> None:
    """Paint a part of the wall within its box."""
    look = current()
    painter.save()
    painter.setPen(QPen(colour(look.ink), 1.4 * look.stroke))
    painter.setBrush(colour(look.panel))
    {"supply": _cable, "head": _head, "meter": _meter, "board": _board, "earth": _earth}.get(name, _device)(
        painter, box, job
    )
    painter.restore()


def _cable(painter: QPainter, box: QRectF, job: Job) -> None:
    """The service cable as it comes out of the wall; without a grid its place, empty."""
    look = current()
    sheath = QRectF(box.center().x() - 7, box.top(), 14, box.height())
    if not job.mains.grid:
        painter.setPen(QPen(colour(look.soft), 1.4, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(sheath)
        return
    painter.setBrush(hatch(look, "grid"))
    painter.drawRect(sheath)
    cores = len(job.site.phases) + 1
    for core in range(cores):
        x = sheath.left() + (core + 0.5) * sheath.width() / cores
        painter.drawLine(QPointF(x, sheath.bottom()), QPointF(x, sheath.bottom() + 8))
    ground = box.top() + 2
    painter.drawLine(QPointF(box.left() - 14, ground), QPointF(box.right() + 14, ground))


def _head(painter: QPainter, box: QRectF, job: Job) -> None:
    """A carrier for each phase, sealed or not."""
    look = current()
    painter.drawRect(box)
    count = max(1, len(job.site.phases))
    wide = (box.width() - 12) / count
    for place in range(count):
        painter.drawRect(
            QRectF(box.left() + 6 + place * wide + 2, box.top() + 12, wide - 4, box.height() * 0.5)
        )
    seal = job.site.supply.seal.value
    painter.setBrush(colour(look.ink) if seal == "intact" else Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(look.blocks if seal == "broken" else look.ink), 1.4))
    painter.drawEllipse(QPointF(box.center().x(), box.bottom() - 10), 4, 4)


def _meter(painter: QPainter, box: QRectF, job: Job) -> None:
    """A register in its window, a terminal cover, and the isolator beside it where there is one."""
    look = current()
    painter.drawRect(box)
    painter.fillRect(QRectF(box.left() + 8, box.top() + 12, box.width() - 16, 16), colour(look.rest))
    for place in range(5):
        x = box.left() + 12 + place * (box.width() - 24) / 4
        painter.drawLine(QPointF(x, box.top() + 14), QPointF(x, box.top() + 26))
    painter.drawLine(QPointF(box.left(), box.bottom() - 20), QPointF(box.right(), box.bottom() - 20))
    there = job.site.supply.isolator.value
    if there == "no":
        return
    painter.setPen(
        QPen(colour(look.ink), 1.4, Qt.PenStyle.SolidLine if there == "yes" else Qt.PenStyle.DashLine)
    )
    painter.setBrush(Qt.BrushStyle.NoBrush)
    switch = QRectF(box.right() + 8, box.center().y() - 2, 24, 28)
    painter.drawRect(switch)
    painter.drawLine(
        QPointF(switch.center().x(), switch.top() + 6), QPointF(switch.center().x() + 7, switch.bottom() - 7)
    )


def _board(painter: QPainter, box: QRectF, job: Job) -> None:
    """A board with its ways; spare ones are hollow, dashed where nobody counted them."""
    look = current()
    painter.drawRect(box)
    painter.drawRect(box.adjusted(6, 6, -6, -6))
    spare = job.site.supply.spare_ways.value
    ways = max(WAYS, round(spare or 0) + 4)
    wide = (box.width() - 24) / ways
    for place in range(ways):
        way = QRectF(box.left() + 12 + place * wide, box.center().y() - 14, wide - 2, 28)
        hollow = place >= ways - round(spare) if spare is not None else place >= ways - 3
        dashed = hollow and spare is None
        painter.setPen(QPen(colour(look.ink), 1.2, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
        painter.setBrush(Qt.BrushStyle.NoBrush if hollow else hatch(look, "load"))
        painter.drawRect(way)
        if not hollow:
            painter.fillRect(QRectF(way.left() + 2, way.top() + 5, way.width() - 4, 5), colour(look.ink))
    if job.site.supply.board_condition.value in ("worn", "unfit"):
        painter.setPen(QPen(colour(look.warns), 2))
        painter.drawPolyline(
            [
                box.topRight() + QPointF(-26, 3),
                box.topRight() + QPointF(-14, 14),
                box.topRight() + QPointF(-20, 22),
            ]
        )


def _earth(painter: QPainter, box: QRectF, job: Job) -> None:
    """The bar with its screws, and the sign of earth below it."""
    look = current()
    bar = QRectF(box.left(), box.top(), box.width(), 10)
    painter.drawRect(bar)
    for place in range(6):
        painter.drawEllipse(QPointF(bar.left() + (place + 0.5) * bar.width() / 6, bar.center().y()), 2, 2)
    x, y = bar.center().x(), bar.bottom()
    firm = job.site.supply.earthing_mm2.firm
    painter.setPen(QPen(colour(look.ink), 1.6, Qt.PenStyle.SolidLine if firm else Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(x, y), QPointF(x, y + 8))
    for place, half in enumerate((12, 8, 4)):
        painter.drawLine(QPointF(x - half, y + 8 + place * 4), QPointF(x + half, y + 8 + place * 4))


def _device(painter: QPainter, box: QRectF, job: Job) -> None:
    """Something found: an enclosure with its lid's screws."""
    painter.drawRect(box)
    painter.drawLine(QPointF(box.left(), box.bottom() - 16), QPointF(box.right(), box.bottom() - 16))
    for corner in (box.topLeft() + QPointF(7, 7), box.topRight() + QPointF(-7, 7)):
        painter.drawEllipse(corner, 2, 2)
