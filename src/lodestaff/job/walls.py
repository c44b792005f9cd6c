"""Walls with what is on them, and where the parts of the installation stand: to scale, metres from the lower
left corner of a wall as one faces it."""

from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.types import Identifier, NotNegative

Name = Annotated[str, Field(min_length=1, max_length=60)]
Metres = Annotated[float, Field(gt=0, le=100)]
Along = Annotated[float, Field(ge=0, le=100)]
Height = Annotated[float, Field(ge=0, le=20)]
YesNo = Literal["yes", "no"]
Room = Literal[
    "garage", "utility room", "plant room", "outbuilding", "cellar", "kitchen", "living room", "bedroom",
    "hall", "escape route", "under stairs", "cupboard", "loft",
]  # fmt: skip
Behind = Literal["bedroom", "living room", "other room", "outside", "ground"]
Build = Literal["masonry", "concrete", "studs", "timber", "insulated panel"]
FeatureKind = Literal[
    "door", "window", "vent", "hatch", "drain", "gas meter", "gas appliance", "socket", "obstacle"
]
Way = Literal["along the wall", "through the wall", "loft", "trench", "conduit"]


class Feature(Frozen):
    """An opening or a thing on a wall that must stay as it is."""

    id: Identifier
    kind: FeatureKind
    name: Annotated[str, Field(max_length=60)] = ""
    x_m: Along
    y_m: Height
    width_m: Metres
    height_m: Metres


class Wall(Frozen):
    """A wall as one faces it: `room` is where one stands, '' outside; what isn't known stays open.

    `flood_m` is how high water has stood or may stand above the foot of the wall; `low_c` and `high_c` are
    the range of the place over a year.
    """

    id: Identifier
    name: Name
    width_m: Metres
    height_m: Annotated[float, Field(gt=0, le=20)]
    room: Room | Literal[""] = ""
    behind: Fact[Behind] = Fact[Behind]()
    build: Fact[Build] = Fact[Build]()
    stud_pitch_m: Annotated[float, Field(gt=0.1, le=2)] | None = None
    free_m: Fact[NotNegative] = Fact[NotNegative]()  # free in front of it
    lined: Fact[YesNo] = Fact[YesNo]()  # with what doesn't burn
    sun: Fact[YesNo] = Fact[YesNo]()
    vehicles: Fact[YesNo] = Fact[YesNo]()
    flood_m: Fact[NotNegative] = Fact[NotNegative]()
    low_c: Fact[Annotated[float, Field(ge=-50, le=60)]] = Fact()
    high_c: Fact[Annotated[float, Field(ge=-40, le=80)]] = Fact()
    features: Annotated[tuple[Feature, ...], Field(max_length=60)] = ()

    @property
    def outside(self) -> bool:
        return self.room == ""


class Standing(Frozen):
    """Where a part stands: its lower left corner. Sizes that were measured go before those of the sheet."""

    id: Identifier  # the part's
    wall: Identifier
    x_m: Along
    y_m: Height
    width_m: Metres | None = None
    height_m: Metres | None = None
    depth_m: Metres | None = None
    backing: Fact[Literal["does not burn", "burns", "none"]] = Fact()
    held: Fact[Literal["to masonry", "to studs", "on a board", "on the floor, tied back", "free"]] = Fact()


class Passage(Frozen):
    """A way for cables from one wall to another, and how long it is between its two ends."""

    id: Identifier
    a: Identifier
    a_x_m: Along
    a_y_m: Height
    b: Identifier
    b_x_m: Along
    b_y_m: Height
    length_m: NotNegative
    way: Way = "along the wall"
    dc: bool = True  # whether array DC may go there


def check_walls(
    walls: tuple[Wall, ...], standing: tuple[Standing, ...], passages: tuple[Passage, ...]
) -> None:
    """Everything stands on a wall that is there, ids of features differ. Raises ValueError with where."""
    there = [wall.id for wall in walls]
    named = [(f"standing {one.id} wall", one.wall) for one in standing]
    named += [(f"passages {one.id} {end}", getattr(one, end)) for one in passages for end in ("a", "b")]
    for where, name in named:
        if name not in there:
            raise ValueError(f"{where}: {name!r} is not there; choose from {', '.join(map(repr, there))}")
    for wall in walls:
        ids = [feature.id for feature in wall.features]
        if len(set(ids)) < len(ids):
            raise ValueError(f"walls {wall.id} features: an id stands twice; ids must differ")
