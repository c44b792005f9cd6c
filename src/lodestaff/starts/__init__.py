"""New jobs: what stands there and what is wanted, put together into parts; kinds A to R as starting points."""

from lodestaff.starts.compose import compose
from lodestaff.starts.kinds import KINDS, StartingPoint
from lodestaff.starts.wanted import CHOICES, Wanted

__all__ = ["CHOICES", "KINDS", "StartingPoint", "Wanted", "compose"]
