"""Rectangles on a wall, metres from its lower left corner."""

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Rect:
    """A rectangle: lower left corner, width and height, m."""

    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        return self.x + self.width

    @property
    def top(self) -> float:
        return self.y + self.height

    @property
    def middle(self) -> tuple[float, float]:
        return self.x + self.width / 2, self.y + self.height / 2

    def grown(self, left: float, right: float, above: float, below: float) -> "Rect":
        """With room at its sides."""
        return Rect(self.x - left, self.y - below, self.width + left + right, self.height + above + below)

    def meets(self, other: "Rect", slack: float = 1e-9) -> bool:
        """Whether both share more than an edge."""
        return (
            self.x < other.right - slack
            and other.x < self.right - slack
            and self.y < other.top - slack
            and other.y < self.top - slack
        )


def apart_m(a: Rect, b: Rect) -> float:
    """The shortest distance between two rectangles, m; 0 where they touch or overlap."""
    across = max(a.x - b.right, b.x - a.right, 0.0)
    up = max(a.y - b.top, b.y - a.top, 0.0)
    return math.hypot(across, up)
