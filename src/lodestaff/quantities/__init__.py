"""Units at the edges, and figures that can be doubted: value, unit, formula, inputs, source."""

from lodestaff.quantities.units import text_of
from lodestaff.quantities.working import Figure, Input, Provenance, Source

__all__ = ["Figure", "Input", "Provenance", "Source", "text_of"]
