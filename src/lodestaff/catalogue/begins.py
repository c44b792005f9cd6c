"""What a new job of a rule pack begins with, and the habits of its trade: data of the pack, assumed until
somebody says it."""

from typing import Annotated

from pydantic import Field

from lodestaff.catalogue.frozen import Frozen

Months = Annotated[tuple[float, ...], Field(min_length=12, max_length=12)]


class Begins(Frozen):
    """A place with its weather, prices, the sheets that are usual, and how boards and changeovers are
    built."""

    latitude_deg: float
    longitude_deg: float
    altitude_m: float
    utc_offset_h: float
    time_zone: str
    clearness: Months
    temperature_low_c: Months
    temperature_high_c: Months
    currency: str
    import_high: float
    import_low: float
    export: float
    standing_per_day: float
    opens_neutral: bool  # whether a changeover breaks the neutral
    hybrid: str  # the usual sheet on one leg
    hybrids_together: str  # of several that leave changeover and bond to one gateway
    essential_rcd: bool  # whether an essential board has a residual-current device at its head
    earthing: str = "TN-C-S"  # the usual arrangement of a supply
    instead: dict[str, str] = {}  # supplies that the trade hasn't, each with what stands in its place
    circuits: str  # whose words and powers of the library of circuits
