"""A pack's method of service demand, as data: shares by what a circuit is for, or the optional method of
dwellings."""

from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.frozen import Frozen
from lodestaff.quantities import Provenance, Source

Part = Annotated[float, Field(ge=0, le=1)]
Amount = Annotated[float, Field(ge=0, le=1_000_000)]


class ShareRule(Frozen):
    """How circuits of one use count. The `firsts` largest count `first`, all others `others`, of their
    current.

    Uses of one `group` are counted as one; `together` takes the sum of their currents for one. With
    `whole_a` a current counts in full up to it and by `beyond` above; `first_a` and `others_a` are fixed
    amounts in place of the current; `plus_a` is added for each circuit (a socket in a cooker's switch).
    """

    first: Part = 1.0
    others: Part = 1.0
    whole_a: Amount | None = None
    beyond: Part = 1.0
    plus_a: Amount = 0.0
    first_a: Amount | None = None
    others_a: Amount = 0.0
    firsts: Annotated[int, Field(ge=1, le=100)] = 1
    group: str = ""
    together: bool = False


class DemandMethod(Frozen):
    """`shares`: a rule for each use. `optional`: area, small-appliance circuits and nameplates, climate on
    top."""

    name: str
    source: str
    provenance: Provenance
    kind: Literal["shares", "optional"]
    rules: dict[str, ShareRule] = {}
    per_m2_va: Amount = 0.0
    per_circuit_va: Amount = 0.0
    whole_va: Amount = 0.0
    rest_share: Part = 1.0
    heating_share: Part = 1.0
    heating_many_share: Part = 1.0
    supplement_share: Part = 1.0  # of the heating that may run beside a heat pump's compressor
    heating_many: Annotated[int, Field(ge=1, le=100)] = 4
    logged_factor: Annotated[float, Field(ge=1, le=3)] = 1.0
    logged_source: str = ""
    standard_a: tuple[Amount, ...] = ()  # ratings of a supply, rising
    standard_source: str = ""

    def next_standard_a(self, amps: float) -> float | None:
        """The next rating of a supply at or above a current; None above the largest."""
        return next((rating for rating in self.standard_a if rating >= amps), None)

    def cite(self) -> Source:
        return Source(self.source, self.provenance)
