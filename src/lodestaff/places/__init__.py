"""Where things stand: bodies with their clearances on walls to scale, what they may not come near, and the
ways that cables take between them."""

from lodestaff.places.bodies import Body, bodies, entries, numbered, placeable, storing
from lodestaff.places.geometry import Rect, apart_m
from lodestaff.places.routes import Route, routes
from lodestaff.places.ways import CLOSED

__all__ = [
    "CLOSED",
    "Body",
    "Rect",
    "Route",
    "apart_m",
    "bodies",
    "entries",
    "numbered",
    "placeable",
    "routes",
    "storing",
]
