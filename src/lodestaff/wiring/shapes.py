"""What a diagram is made of: lines, polygons, circles and texts in millimetres."""

from dataclasses import dataclass
from typing import Literal

MM = float
Point = tuple[MM, MM]
Style = Literal["conductor", "symbol", "thin", "fill", "label", "small", "board"]


@dataclass(frozen=True)
class Shape:
    """A line through points, a closed polygon, a circle (centre and a rim point), or a text at a point."""

    kind: Literal["line", "polygon", "circle", "text"]
    points: tuple[Point, ...]
    style: Style
    owner: str
    text: str = ""
    align: Literal["left", "middle", "right"] = "left"


def rect(x: MM, y: MM, w: MM, h: MM) -> tuple[Point, ...]:
    """The corners of a rectangle."""
    return ((x, y), (x + w, y), (x + w, y + h), (x, y + h))
