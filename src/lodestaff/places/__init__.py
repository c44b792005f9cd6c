"""Where things stand: bodies with their clearances on walls to scale, what they may not come near, and the
ways that cables take between them."""

from lodestaff.places.bodies import Body, bodies, placeable, storing
from lodestaff.places.geometry import Rect, apart_m
from lodestaff.places.routes import Route, routes

__all__ = ["Body", "Rect", "Route", "apart_m", "bodies", "placeable", "routes", "storing"]
