"""The diagram of an installation: layout from the graph, symbols as shapes in millimetres."""

from lodestaff.wiring.drawing import Drawing, Shape, draw
from lodestaff.wiring.layout import Layout, lay_out

__all__ = ["Drawing", "Layout", "Shape", "draw", "lay_out"]
