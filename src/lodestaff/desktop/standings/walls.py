"""Each way to stand it all as small walls: its parts, and the ways of its cables."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen
from PySide6.QtWidgets import QSizePolicy

from lodestaff.desktop.charts import Chart, Mark, Value
from lodestaff.desktop.stations.place.geometry import WallBox, lay_walls
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, hatch
from lodestaff.job import Job
from lodestaff.places import Body
from lodestaff.quantities import text_of
from lodestaff.reckoning.standings import Stands

HATCH = {"battery": "battery", "unit": "sun", "board": "load", "gateway": "grid"}
GAP, HEAD = 12.0, 20.0


class SmallWalls(Chart):
    """A column for each way, to one scale within it."""

    def __init__(self) -> None:
        self.job: Job | None = None
        self.ways: tuple[tuple[Stands, tuple[Body, ...]], ...] = ()
        super().__init__("The walls of each way")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(800, round(260 * max(1.0, text_scale())))

    def minimumSizeHint(self) -> QSize:
        return QSize(480, round(120 * max(1.0, text_scale())))

    def show_ways(self, job: Job | None, ways: tuple[tuple[Stands, tuple[Body, ...]], ...]) -> None:
        """Show the ways of a job, or none."""
        self.job, self.ways = job, ways
        self.update()

    def _columns(self) -> list[tuple[Stands, tuple[Body, ...], QRectF]]:
        if not self.ways:
            return []
        wide = (self.width() - GAP * (len(self.ways) - 1)) / len(self.ways)
        return [
            (way, bodies, QRectF(place * (wide + GAP), 0, wide - 2, self.height()))
            for place, (way, bodies) in enumerate(self.ways)
        ]

    def paint(self, painter: QPainter) -> None:
        look, job = current(), self.job
        if job is None:
            return
        head = HEAD * max(1.0, text_scale())
        for way, bodies, column in self._columns():
            painter.setFont(font("strong"))
            painter.setPen(colour(look.ink))
            cut = QFontMetricsF(painter.font()).elidedText(
                way.name, Qt.TextElideMode.ElideRight, column.width()
            )
            painter.drawText(column.topLeft() + QPointF(0, head - 6), cut)
            walls = {box.wall.id: box for box in lay_walls(job.walls, column.adjusted(0, head, 0, 0), 0.45)}
            for box in walls.values():
                painter.setPen(QPen(colour(look.line), 1))
                painter.setBrush(colour(look.panel))
                painter.drawPolygon([box.point(x, y) for x, y in box.wall.corners])
                painter.setFont(font("small"))
                painter.setPen(colour(look.soft))
                painter.drawText(box.rect.topLeft() + QPointF(0, -3), box.wall.name)
                painter.setPen(QPen(colour(look.line), 1))
                painter.setBrush(colour(look.staff))
                for feature in box.wall.features:
                    painter.drawRect(box.of_feature(feature))
            self._cables(painter, way, walls)
            for body in bodies:
                box_ = walls.get(body.standing.wall) if body.standing is not None else None
                if box_ is not None and body.rect is not None:
                    painter.setPen(QPen(colour(look.ink), look.stroke))
                    painter.setBrush(colour(look.panel))
                    painter.drawRect(box_.box(body.rect))
                    painter.fillRect(box_.box(body.rect), hatch(look, HATCH.get(body.kind, "load")))

    def _cables(self, painter: QPainter, stand: Stands, walls: dict[str, WallBox]) -> None:
        look = current()
        painter.setPen(QPen(colour(look.hand), 1.2 * look.stroke))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for way in stand.ways:
            for (wall, x, y), (other, to_x, to_y) in zip(way.route.points, way.route.points[1:]):
                box = walls.get(wall)
                if box is not None and wall == other:
                    a, b = box.point(x, y), box.point(to_x, to_y)
                    painter.drawPolyline([a, QPointF(b.x(), a.y()), b])

    def axes(self) -> tuple[str, ...]:
        return ("way",)

    def marks(self) -> list[Mark]:
        return [
            Mark((way.name,), (Value("cable", text_of(way.cable_m, "m")),), column)
            for way, _, column in self._columns()
        ]
