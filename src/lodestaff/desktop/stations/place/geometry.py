"""Where walls, what is on them and what waits for a place lie on the surface: one scale for all. Pure
geometry."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from lodestaff.job import Job
from lodestaff.job.walls import Feature, Wall
from lodestaff.places import Body, Rect

GAP, HEAD, SHELF, EDGE = 26.0, 34.0, 54.0, 14.0
SNAP_PX = 7.0
GRID_M = 0.05
MOST_PX_PER_M = 220.0


@dataclass(frozen=True)
class WallBox:
    """A wall on the surface."""

    wall: Wall
    rect: QRectF
    px_per_m: float

    def box(self, rect: Rect) -> QRectF:
        """A rectangle of the wall, in pixels."""
        k = self.px_per_m
        return QRectF(
            self.rect.left() + rect.x * k, self.rect.bottom() - rect.top * k, rect.width * k, rect.height * k
        )

    def point(self, x_m: float, y_m: float) -> QPointF:
        return QPointF(self.rect.left() + x_m * self.px_per_m, self.rect.bottom() - y_m * self.px_per_m)

    def metres(self, at: QPointF) -> tuple[float, float]:
        """A point of the surface on the wall, m."""
        return (at.x() - self.rect.left()) / self.px_per_m, (self.rect.bottom() - at.y()) / self.px_per_m

    def of_feature(self, feature: Feature) -> QRectF:
        return self.box(Rect(feature.x_m, feature.y_m, feature.width_m, feature.height_m))


@dataclass(frozen=True)
class Plan:
    """Everything on the surface: walls, and the shelf of parts that wait for a place."""

    walls: tuple[WallBox, ...]
    waiting: tuple[tuple[Body, QRectF], ...]
    shelf: QRectF

    def wall_at(self, at: QPointF) -> WallBox | None:
        return next((box for box in self.walls if box.rect.contains(at)), None)

    def of(self, wall: str) -> WallBox | None:
        return next((box for box in self.walls if box.wall.id == wall), None)

    def box_of(self, body: Body) -> QRectF | None:
        """Where a part is drawn: on its wall, or on the shelf."""
        wall = self.of(body.standing.wall) if body.standing is not None else None
        if wall is not None and body.rect is not None:
            return wall.box(body.rect)
        return next((box for other, box in self.waiting if other.id == body.id), None)


def lay_plan(job: Job, bodies: tuple[Body, ...], width: float, height: float, k: float = 1.0) -> Plan:
    """Walls in as many rows as makes them largest; what waits stands on a shelf below."""
    loose = [body for body in bodies if body.standing is None]
    per_row = max(1, int((width - 2 * EDGE) // (118 * k)))
    lines = -(-len(loose) // per_row)
    shelf_height = (22 + 30 * lines) * k if loose else 0.0
    shelf = QRectF(EDGE, height - shelf_height, width - 2 * EDGE, shelf_height)
    room = QRectF(EDGE, 4, width - 2 * EDGE, height - shelf_height - 8)
    walls = lay_walls(job.walls, room, k)
    each = shelf.width() / per_row
    waiting = tuple(
        (
            body,
            QRectF(
                shelf.left() + place % per_row * each,
                shelf.top() + (22 + place // per_row * 30) * k,
                each - 6,
                26 * k,
            ),
        )
        for place, body in enumerate(loose)
    )
    return Plan(walls, waiting, shelf)


def lay_walls(walls: tuple[Wall, ...], room: QRectF, k: float) -> tuple[WallBox, ...]:
    """The division into rows with the largest scale."""
    if not walls:
        return ()
    best: tuple[float, list[list[Wall]]] = (0.0, [list(walls)])
    for count in range(1, len(walls) + 1):
        size = -(-len(walls) // count)
        rows = [list(walls[at : at + size]) for at in range(0, len(walls), size)]
        across = min(
            (room.width() - GAP * (len(row) - 1)) / sum(wall.width_m for wall in row) for row in rows
        )
        tall = sum(max(wall.height_m for wall in row) for row in rows)
        up = (room.height() - (HEAD + 18) * k * len(rows)) / tall
        if (scale := min(across, up, MOST_PX_PER_M)) > best[0]:
            best = (scale, rows)
    scale, rows = best
    boxes, y = [], room.top()
    for row in rows:
        high = max(wall.height_m for wall in row) * scale
        wide = sum(wall.width_m for wall in row) * scale + GAP * (len(row) - 1)
        x = room.left() + max(0.0, (room.width() - wide) / 2)
        for wall in row:
            foot = y + HEAD * k + high
            rect = QRectF(x, foot - wall.height_m * scale, wall.width_m * scale, wall.height_m * scale)
            boxes.append(WallBox(wall, rect, scale))
            x += rect.width() + GAP
        y += HEAD * k + high + 18 * k
    return tuple(boxes)


def snapped(box: WallBox, rect: Rect, others: list[Rect]) -> Rect:
    """A rectangle moved to what is near: edges and middles of others, floor, grid; within the wall."""
    near = SNAP_PX / box.px_per_m
    xs = [
        x
        for other in others
        for x in (
            other.x,
            other.right,
            other.right - rect.width,
            other.x - rect.width,
            other.middle[0] - rect.width / 2,
        )
    ]
    ys = [0.0, *(y for other in others for y in (other.y, other.top, other.top - rect.height))]
    x = min(xs, key=lambda edge: abs(edge - rect.x), default=rect.x)
    y = min(ys, key=lambda edge: abs(edge - rect.y))
    x = x if abs(x - rect.x) <= near else round(rect.x / GRID_M) * GRID_M
    y = y if abs(y - rect.y) <= near else round(rect.y / GRID_M) * GRID_M
    wall = box.wall
    x = min(max(0.0, x), max(0.0, wall.width_m - rect.width))
    y = min(max(0.0, y), max(0.0, wall.height_m - rect.height))
    return Rect(round(x, 3), round(y, 3), rect.width, rect.height)
