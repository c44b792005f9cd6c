"""The sky as the chosen module sees it: the sun's paths, the horizon, and what stands before them."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPen, QPolygonF

from lodestaff.desktop.charts import Mark, Value
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour
from lodestaff.quantities.units import clock
from lodestaff.reckoning.sun_view import Path, SunView
from lodestaff.roof.views import Outline

AWAY_DEG, HIGH_DEG = 125.0, 75.0  # what the picture holds to each side, and upwards
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
POINTS = {-90: ("E", "W"), 0: ("S", "N"), 90: ("W", "E")}  # by where the noon sun stands
HOURS = (9, 12, 15)
SUN_PX = 6.0


def plot_of(rect: QRectF) -> QRectF:
    """The sky itself within its picture, beside its scales."""
    k = max(1.0, text_scale())
    return rect.adjusted(24 * k, 0, -2, -16 * k)


def point_of(plot: QRectF, away_deg: float, high_deg: float) -> QPointF:
    """Where a direction lies in the sky's plot."""
    x = plot.center().x() + away_deg / AWAY_DEG * plot.width() / 2
    return QPointF(x, plot.bottom() - high_deg / HIGH_DEG * plot.height())


def marks_of(view: SunView, rect: QRectF) -> list[Mark]:
    """The sun of every full hour on each path."""
    plot, half = plot_of(rect), 1.5 * SUN_PX
    marks = []
    for path in view.paths:
        for hour, away, high in path.hours:
            spot = point_of(plot, away, high)
            if plot.contains(spot):
                azimuth = (view.middle_deg + away) % 360
                marks.append(
                    Mark(
                        (MONTHS[path.month - 1], clock(float(hour))),
                        (Value("sun's azimuth", azimuth, "°"), Value("elevation", high, "°")),
                        QRectF(spot.x() - half, spot.y() - half, 2 * half, 2 * half),
                    )
                )
    return marks


class SkyPicture:
    """Paints one view into a rectangle."""

    def __init__(self, painter: QPainter, view: SunView, rect: QRectF, month: int, title: str) -> None:
        self.painter, self.view, self.month, self.title = painter, view, month, title
        self.k = max(1.0, text_scale())
        self.rect = plot_of(rect)

    def at(self, away_deg: float, high_deg: float) -> QPointF:
        """Where a direction lies in the picture."""
        return point_of(self.rect, away_deg, high_deg)

    def paint(self) -> None:
        """Everything of it."""
        painter, look = self.painter, current()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(look.panel))
        painter.drawRect(self.rect)
        painter.save()
        painter.setClipRect(self.rect)
        self._area(self.view.behind, QBrush(colour(look.line), Qt.BrushStyle.Dense6Pattern), look.line)
        for path in self.view.paths:
            self._path(path)
        for name, outline in self.view.things:
            self._thing(name, outline)
        if self.view.horizon:
            around = [(a + turn, h) for turn in (-360, 0, 360) for a, h in self.view.horizon]
            self._area(tuple(around), QBrush(colour(look.soft), Qt.BrushStyle.Dense4Pattern), look.ink)
        self._now()
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(look.ink), 1.2 * look.stroke))
        painter.drawRect(self.rect)
        self._scales()

    def _area(self, edge: Outline, brush: QBrush, ink: str) -> None:
        """What lies below an edge."""
        corners = [*edge, (edge[-1][0], -5.0), (edge[0][0], -5.0)]
        shape = QPolygonF([self.at(away, high) for away, high in corners])
        self.painter.setPen(QPen(colour(ink), 1))
        self.painter.setBrush(brush)
        self.painter.drawPolygon(shape)

    def _path(self, path: Path) -> None:
        look, painter = current(), self.painter
        if not path.points:
            return
        now = path.month == self.month
        painter.setPen(QPen(colour(look.sun if now else look.soft), (2.2 if now else 1.0) * look.stroke))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        line = QPainterPath(self.at(*path.points[0]))
        for point in path.points[1:]:
            line.lineTo(self.at(*point))
        painter.drawPath(line)
        painter.setFont(font("small"))
        names = {12: "Dec", 3: "Mar, Sep", 6: "Jun"}
        away, high = max(path.points, key=lambda point: point[1])
        painter.setPen(colour(look.sun if now else look.soft))
        words = names.get(path.month, MONTHS[path.month - 1])
        painter.drawText(self.at(away, high) + QPointF(4, -3), words)
        if now:
            painter.setBrush(colour(look.sun))
            for hour, x, y in path.hours:
                if hour in HOURS:
                    spot = self.at(x, y)
                    painter.drawEllipse(spot, 2.2, 2.2)
                    painter.drawText(spot + QPointF(3, 12 * self.k), str(hour))

    def _thing(self, name: str, outline: Outline) -> None:
        look, painter = current(), self.painter
        for turn in (-360, 0, 360):
            shape = QPolygonF([self.at(away + turn, high) for away, high in outline])
            box = shape.boundingRect()
            if not box.intersects(self.rect):
                continue
            painter.setPen(QPen(colour(look.ink), 1.2 * look.stroke))
            painter.setBrush(colour(look.rest, 150))
            painter.drawPolygon(shape)
            painter.setBrush(QBrush(colour(look.soft), Qt.BrushStyle.BDiagPattern))
            painter.drawPolygon(shape)
            painter.setFont(font("small"))
            metrics = painter.fontMetrics()
            wide, seen = metrics.horizontalAdvance(name) + 6, box.intersected(self.rect)
            left = min(max(seen.center().x() - wide / 2, self.rect.left()), self.rect.right() - wide)
            label = QRectF(left, max(seen.top() - metrics.height(), self.rect.top()), wide, metrics.height())
            painter.fillRect(label, colour(look.panel, 225))
            painter.setPen(colour(look.ink))
            painter.drawText(label, Qt.AlignmentFlag.AlignCenter, name)

    def _now(self) -> None:
        if self.view.now is None:
            return
        look = current()
        self.painter.setPen(QPen(colour(look.ink), 1.4 * look.stroke))
        self.painter.setBrush(colour(look.hand))
        self.painter.drawEllipse(self.at(*self.view.now), SUN_PX, SUN_PX)

    def paint_stroke(self, stroke: dict[float, float]) -> None:
        """What a hand is drawing of the horizon."""
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(colour(current().hand))
        for azimuth, high in stroke.items():
            away = (azimuth - self.view.middle_deg + 180) % 360 - 180
            self.painter.drawEllipse(self.at(away, high), 3.0, 3.0)

    def _scales(self) -> None:
        look, painter, k = current(), self.painter, self.k
        painter.setFont(font("label"))
        painter.setPen(colour(look.ink))
        metrics = painter.fontMetrics()
        title = metrics.elidedText(self.title, Qt.TextElideMode.ElideRight, int(self.rect.width()))
        painter.drawText(QPointF(self.rect.left(), self.rect.top() - 14), title)
        painter.setPen(colour(look.soft))
        for high in (0, 30, 60):
            y = self.at(0, high).y()
            painter.drawText(
                QRectF(self.rect.left() - 28 * k, y - 8 * k, 24 * k, 16 * k),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{high}°",
            )
        for away, (north, south) in POINTS.items():
            x = self.at(away, 0).x()
            word = north if self.view.middle_deg == 180 else south
            painter.drawText(
                QRectF(x - 12 * k, self.rect.bottom() + 1, 24 * k, 15 * k), Qt.AlignmentFlag.AlignCenter, word
            )
