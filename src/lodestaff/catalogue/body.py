"""How large a part is, what room its maker wants about it, and how it stands."""

from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.field_meta import FieldMeta
from lodestaff.catalogue.frozen import Frozen

Side = Annotated[float, Field(gt=0, le=5)]
Clear = Annotated[float, Field(ge=0, le=5)]
MM = ("mm", "ft")
Millimetres = Annotated[float, Field(ge=0, le=5000)]


class Hole(Frozen):
    """A hole behind or under a part: its middle from the lower left corner of its back as one faces it, and
    how wide it is, mm."""

    x_mm: Millimetres
    y_mm: Millimetres
    diameter_mm: Annotated[float, Field(gt=0, le=300)]


class Body(Frozen):
    """Outer sizes and clearances; None where the sheet is silent. Of a battery: those of one module."""

    body_width_m: Annotated[Side | None, FieldMeta("Outer width", "m", MM)] = None
    body_height_m: Annotated[Side | None, FieldMeta("Outer height", "m", MM)] = None
    body_depth_m: Annotated[Side | None, FieldMeta("Outer depth", "m", MM)] = None
    clear_side_m: Annotated[Clear | None, FieldMeta("Free at each side", "m", MM)] = None
    clear_above_m: Annotated[Clear | None, FieldMeta("Free above", "m", MM)] = None
    clear_below_m: Annotated[Clear | None, FieldMeta("Free below", "m", MM)] = None
    clear_front_m: Annotated[Clear | None, FieldMeta("Free in front", "m", MM)] = None
    stands: Annotated[
        Literal["on the wall", "on the floor"] | None, FieldMeta("Hangs on the wall or stands on the floor")
    ] = None
    weather: Annotated[
        Literal["in the open", "under a roof", "indoors"] | None, FieldMeta("Where it may stand")
    ] = None
    fixings: Annotated[tuple[Hole, ...], FieldMeta("Fixings at its back: along, up, diameter", "mm")] = ()
    entries: Annotated[tuple[Hole, ...], FieldMeta("Cable entries: along, up, diameter", "mm")] = ()
