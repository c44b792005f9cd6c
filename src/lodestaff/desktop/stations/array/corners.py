"""The corners of the faces in the hand: dragged, moved by keys, added between two, taken out."""

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.stations.array.geometry import FaceBox
from lodestaff.desktop.stations.array.marks import RoofView
from lodestaff.desktop.theme import current, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.job import Change
from lodestaff.job.array import Corner
from lodestaff.quantities.convention import plain

STEP_M, FINE_M = 0.1, 0.05
HANDLE_PX = 7.0
Place = tuple[str, int]  # face id, number of the corner


class Corners:
    """Handles on every corner while `shown`; half-way handles begin a new one."""

    def __init__(self, view: RoofView) -> None:
        self.view = view
        self.shown = False
        self.chosen: Place | None = None
        self.carried = False

    def show(self, shown: bool) -> None:
        """Put the handles on, or take them off."""
        self.shown, self.carried = shown, False
        self.chosen = None
        if shown:
            self.next()
        self.view.update()

    def next(self) -> None:
        """The corner after the chosen one, over all faces."""
        places = [(box.face.id, number) for box in self._faces() for number in range(len(box.face.corners))]
        if places:
            at = places.index(self.chosen) + 1 if self.chosen in places else 0
            self.chosen = places[at % len(places)]

    def take(self, point: QPointF) -> bool:
        """A hand takes hold of a corner, or of the middle between two: then there is one more."""
        reach = HANDLE_PX * 1.6 * max(1.0, text_scale())
        for box in self._faces() if self.shown else ():
            spots = [box.point(x, y) for x, y in box.face.corners]
            for number, spot in enumerate(spots):
                if (spot - point).manhattanLength() <= reach:
                    self.chosen, self.carried = (box.face.id, number), True
                    return True
            for number, spot in enumerate(spots):
                middle = (spot + spots[(number + 1) % len(spots)]) / 2
                if (middle - point).manhattanLength() <= reach:
                    self.chosen = (box.face.id, number)
                    self.add()
                    self.carried = self.chosen is not None
                    return True
        return False

    def drop(self, point: QPointF) -> None:
        """The hand lets go: the corner lies there, within the face's width and height."""
        box, self.carried = self._box(), False
        if box is not None:
            x = (point.x() - box.rect.left()) / box.scale
            y = (box.rect.bottom() - point.y()) / box.scale
            self._lay(box, round(x / FINE_M) * FINE_M, round(y / FINE_M) * FINE_M)

    def key(self, key: Qt.Key) -> bool:
        """Arrows move the chosen corner, C goes on, + adds one after it, Delete takes it out."""
        box = self._box()
        if not self.shown or box is None or self.chosen is None:
            return False
        moves = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        if key in moves:
            x, y = box.face.corners[self.chosen[1]]
            self._lay(box, x + moves[key][0] * STEP_M, y + moves[key][1] * STEP_M)
        elif key == Qt.Key.Key_C:
            self.next()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.add()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._take_out(box)
        else:
            return False
        self.view.update()
        return True

    def add(self) -> None:
        """One more corner, half-way to the next."""
        box = self._box()
        if box is None or self.chosen is None:
            return
        number, corners = self.chosen[1], list(box.face.corners)
        a, b = corners[number], corners[(number + 1) % len(corners)]
        corners.insert(number + 1, (round((a[0] + b[0]) / 2, 3), round((a[1] + b[1]) / 2, 3)))
        if self._set(box, corners, "Add a corner"):
            self.chosen = (box.face.id, number + 1)

    def _take_out(self, box: FaceBox) -> None:
        assert self.chosen is not None
        corners = [corner for number, corner in enumerate(box.face.corners) if number != self.chosen[1]]
        if self._set(box, corners, "Take out a corner"):
            self.chosen = (box.face.id, min(self.chosen[1], len(corners) - 1))

    def _lay(self, box: FaceBox, x: float, y: float) -> None:
        assert self.chosen is not None
        face, corners = box.face, list(box.face.corners)
        x, y = round(min(max(0.0, x), face.width_m), 3), round(min(max(0.0, y), face.height_m), 3)
        if corners[self.chosen[1]] != (x, y):
            corners[self.chosen[1]] = (x, y)
            self._set(box, corners, f"Move a corner to {plain(x)}, {plain(y)} m")

    def _set(self, box: FaceBox, corners: list[Corner], words: str) -> bool:
        rows = [list(corner) for corner in corners]
        return self.view.store.edit(
            f"{words} of {box.face.name}", Change(f"faces/{box.face.id}/outline", rows)
        )

    def _faces(self) -> tuple[FaceBox, ...]:
        return self.view.roof.faces if self.view.roof is not None else ()

    def _box(self) -> FaceBox | None:
        """The face of the chosen corner, as the job has it now."""
        if self.chosen is None:
            return None
        box = next((box for box in self._faces() if box.face.id == self.chosen[0]), None)
        return box if box is not None and self.chosen[1] < len(box.face.corners) else None

    def choose(self, place: Place) -> None:
        """Go to a corner."""
        self.chosen = place
        self.view.update()

    def paint(self, painter: QPainter, at: QPointF) -> None:
        """Handles, the chosen one filled, and where it is carried to."""
        if not self.shown:
            return
        look, size = current(), HANDLE_PX * max(1.0, text_scale())
        painter.setPen(QPen(colour(look.hand), 1.6 * look.stroke))
        for box in self._faces():
            spots = [box.point(x, y) for x, y in box.face.corners]
            for number, spot in enumerate(spots):
                held = (box.face.id, number) == self.chosen
                painter.setBrush(colour(look.hand if held else look.panel))
                rect = QRectF(spot.x() - size, spot.y() - size, 2 * size, 2 * size)
                painter.drawRect(rect)
                middle = (spot + spots[(number + 1) % len(spots)]) / 2
                painter.setBrush(colour(look.panel))
                painter.drawEllipse(middle, size * 0.6, size * 0.6)
                if held and self.view.hasFocus():
                    focus_frame(painter, look, rect.adjusted(-4, -4, 4, 4))
                    painter.setPen(QPen(colour(look.hand), 1.6 * look.stroke))
        if self.carried:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, size, size)

    def spoken(self) -> list[Spoken]:
        """Each corner with where it lies."""
        return [
            Spoken(
                ("corner", box.face.id, number),
                f"corner {number + 1} of {box.face.name}",
                QRectF(
                    box.point(x, y) - QPointF(HANDLE_PX, HANDLE_PX),
                    box.point(x, y) + QPointF(HANDLE_PX, HANDLE_PX),
                ),
                f"{plain(x)}, {plain(y)} m",
                chosen=(box.face.id, number) == self.chosen,
                press=partial(self.choose, (box.face.id, number)),
            )
            for box in (self._faces() if self.shown else ())
            for number, (x, y) in enumerate(box.face.corners)
        ]
