"""Where a pack lets batteries stand, and at what height hands reach: data; local code has the last word."""

from typing import Annotated

from pydantic import Field

from lodestaff.catalogue.frozen import Frozen

Distance = Annotated[float, Field(ge=0, le=20)]


class Placing(Frozen):
    """Rooms by name with the reason; distances in metres, None where the pack says nothing.

    `backing_behind` names what must not lie behind the wall unless a backing that doesn't burn is there; it
    goes `backing_side_m` beyond the battery at each side and `backing_above_m` above it.
    """

    source: str
    provenance: str
    not_in: dict[str, str]
    opening_m: Distance | None = None  # from doors, windows and vents
    gas_m: Distance | None = None  # from gas meters and appliances
    between_m: Distance | None = None  # from battery to battery, unless the maker allows less
    backing_behind: tuple[str, ...] = ()
    backing_always: bool = False
    backing_side_m: Distance | None = None
    backing_above_m: Distance | None = None
    above_flood_m: Distance = 0.0
    reach_low_m: Distance = 0.0
    reach_high_m: Distance = 2.0
    front_m: Distance | None = None  # free in front of boards and disconnects
