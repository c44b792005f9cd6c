"""The diagram of an installation: layout from the graph, symbols as shapes in millimetres."""

from lodestaff.wiring.drawing import Drawing, draw
from lodestaff.wiring.layout import Layout, lay_out
from lodestaff.wiring.levels import LEVELS, Level, seen_at, usual_level
from lodestaff.wiring.offers import Offer, offers
from lodestaff.wiring.shapes import Shape

__all__ = [
    "LEVELS",
    "Drawing",
    "Layout",
    "Level",
    "Offer",
    "Shape",
    "draw",
    "lay_out",
    "offers",
    "seen_at",
    "usual_level",
]
