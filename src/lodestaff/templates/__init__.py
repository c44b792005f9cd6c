"""New jobs: what stands there and what is wanted, put together into parts; kinds A to S as starting
points."""

from lodestaff.templates.compose import compose
from lodestaff.templates.kinds import KINDS, StartingPoint
from lodestaff.templates.wanted import CHOICES, Wanted

__all__ = ["CHOICES", "KINDS", "StartingPoint", "Wanted", "compose"]
