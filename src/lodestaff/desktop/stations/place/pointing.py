"""Points set on walls one after the other, by mouse or keys: the way of a cable, a measure on a photo."""

from collections.abc import Callable
from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, Qt

from lodestaff.desktop.stations.place.geometry import GRID_M, Plan
from lodestaff.quantities import text_of

Spot = tuple[str, float, float]  # wall, along, up
STEP_M, FINE_M = 0.1, 0.01
ARROWS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)
}  # fmt: skip


@dataclass
class Pointing:
    """What is pointed out, for what, and who takes it. `exact` sets no point on the grid; after `most` of
    them it is done."""

    words: str
    done: Callable[[list[Spot]], object]
    at: Spot
    exact: bool = False
    most: int = 40
    spots: list[Spot] = field(default_factory=list)
    ended: bool = False

    @property
    def hint(self) -> str:
        """What a hand may do now."""
        _, x, y = self.at
        here = f"{text_of(x, 'm', 2)} along, {text_of(y, 'm', 2)} up"
        return f"{self.words}  {here}. Click or Space sets a point, Enter ends, Backspace takes one back."

    def over(self, plan: Plan, point: QPointF) -> bool:
        """The mouse is somewhere; whether that is on a wall."""
        box = plan.wall_at(point)
        if box is None:
            return False
        x, y = box.metres(point)
        if not self.exact:
            x, y = round(x / GRID_M) * GRID_M, round(y / GRID_M) * GRID_M
        self.at = (box.wall.id, round(max(0.0, x), 3), round(max(0.0, y), 3))
        return True

    def set_point(self) -> None:
        """A point where the cross is."""
        self.spots.append(self.at)
        if len(self.spots) >= self.most:
            self.end()

    def end(self) -> None:
        """No more: what was pointed out is taken."""
        self.ended = True
        self.done(self.spots)

    def key(self, key: Qt.Key, plan: Plan, fine: bool) -> bool:
        """Whether a key was one of ours."""
        wall, x, y = self.at
        if key in ARROWS:
            across, up = ARROWS[key]
            by, box = FINE_M if fine else STEP_M, plan.of(wall)
            x, y = x + across * by, y + up * by
            if box is not None:
                x, y = min(x, box.wall.width_m), min(y, box.wall.height_m)
            self.at = (wall, round(max(0.0, x), 3), round(max(0.0, y), 3))
        elif key == Qt.Key.Key_W:
            names = [box.wall.id for box in plan.walls]
            self.at = (names[(names.index(wall) + 1) % len(names)] if wall in names else names[0], x, y)
        elif key == Qt.Key.Key_Space:
            self.set_point()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.end()
        elif key == Qt.Key.Key_Backspace:
            del self.spots[-1:]
        elif key == Qt.Key.Key_Escape:
            self.ended = True
        else:
            return False
        return True
