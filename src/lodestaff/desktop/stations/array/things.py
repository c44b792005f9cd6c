"""What stands on the faces, in the hand: dragged with the mouse, moved by keys, said aloud."""

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.stations.array.geometry import FaceBox, Key, ThingBox
from lodestaff.desktop.stations.array.marks import RoofView
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.job import Change
from lodestaff.quantities.convention import plain

STEP_M, FINE_M = 0.1, 0.05  # by a key; what a dragged thing is laid to


class Things:
    """The one that is chosen, and where a hand carries it."""

    def __init__(self, view: RoofView) -> None:
        self.view = view
        self.chosen: Key | None = None  # face id, thing id
        self.carried: QPointF | None = None  # from its lower left corner to the hand, while it is dragged

    def at(self, point: QPointF) -> Key | None:
        """The thing at a point."""
        roof = self.view.roof
        for box in roof.faces if roof is not None else ():
            for spot in box.obstacles:
                if spot.rect.contains(point):
                    return box.face.id, spot.id
        return None

    def next(self) -> None:
        """The first thing, then the one after the chosen, then none."""
        keys = [(box.face.id, spot.id) for box, spot in self._all()]
        if self.chosen not in keys:
            self.chosen = keys[0] if keys else None
        else:
            place = keys.index(self.chosen) + 1
            self.chosen = keys[place] if place < len(keys) else None

    def take(self, key: Key, point: QPointF) -> None:
        """A hand takes hold of a thing."""
        self.chosen = key
        spot = self._spot()
        self.carried = point - spot[1].rect.bottomLeft() if spot is not None else QPointF()

    def drop(self, point: QPointF) -> None:
        """The hand lets go: the thing lies there, within its face."""
        under, grip = self._spot(), self.carried
        self.carried = None
        if under is None or grip is None:
            return
        box, spot = under
        at = point - grip
        x = round((at.x() - box.rect.left()) / box.scale / FINE_M) * FINE_M
        y = round((box.rect.bottom() - at.y()) / box.scale / FINE_M) * FINE_M
        self._lay(box, spot.id, x, y)

    def step(self, key: Qt.Key) -> None:
        """An arrow key moves the chosen thing."""
        under = self._spot()
        if under is None:
            return
        box, spot = under
        thing = next(each for each in box.face.obstacles if each.id == spot.id)
        dx, dy = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }[key]
        self._lay(box, spot.id, thing.x_m + dx * STEP_M, thing.y_m + dy * STEP_M)

    def _lay(self, box: FaceBox, thing_id: str, x: float, y: float) -> None:
        face = box.face
        thing = next(each for each in face.obstacles if each.id == thing_id)
        x = round(min(max(0.0, x), max(0.0, face.width_m - thing.w_m)), 3)
        y = round(min(max(0.0, y), max(0.0, face.height_m - thing.h_m)), 3)
        if (x, y) != (thing.x_m, thing.y_m):
            path = f"faces/{face.id}/obstacles/{thing_id}"
            self.view.store.edit(
                f"Move {thing.name} to {plain(x)}, {plain(y)} m",
                Change(f"{path}/x_m", x),
                Change(f"{path}/y_m", y),
            )

    def _all(self) -> list[tuple[FaceBox, ThingBox]]:
        roof = self.view.roof
        return [(box, spot) for box in roof.faces for spot in box.obstacles] if roof is not None else []

    def _spot(self) -> tuple[FaceBox, ThingBox] | None:
        return next(((box, spot) for box, spot in self._all() if (box.face.id, spot.id) == self.chosen), None)

    def choose(self, key: Key) -> None:
        """Go to a thing."""
        self.chosen = key
        self.view.update()

    def paint(self, painter: QPainter, at: QPointF) -> None:
        """A frame around the chosen one, and where it would lie."""
        spot = self._spot()
        if spot is None:
            return
        rect, look = spot[1].rect, current()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(look.hand), 3))
        painter.drawRect(rect.adjusted(-2, -2, 2, 2))
        if self.carried is not None:
            corner = at - self.carried
            painter.setPen(QPen(colour(look.hand), 1.6, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(corner.x(), corner.y() - rect.height(), rect.width(), rect.height()))
        elif self.view.hasFocus():
            focus_frame(painter, look, rect.adjusted(-5, -5, 5, 5))

    def spoken(self) -> list[Spoken]:
        """Each thing with its height."""
        return [
            Spoken(
                ("thing", box.face.id, spot.id),
                f"{spot.name}, {box.face.name}",
                spot.rect,
                "height unknown" if spot.height_m is None else f"rises {plain(spot.height_m)} m",
                chosen=(box.face.id, spot.id) == self.chosen,
                press=partial(self.choose, (box.face.id, spot.id)),
            )
            for box, spot in self._all()
        ]
