"""Walls with what is on them, and where the parts of the installation stand: to scale, metres from the lower
left corner of a wall as one faces it."""

from dataclasses import dataclass
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue.body import Hole
from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.array import Corner, crosses_itself
from lodestaff.job.array_fits import lies_within
from lodestaff.job.facts import Fact
from lodestaff.job.found import Sha256
from lodestaff.job.types import Identifier, NotNegative

Name = Annotated[str, Field(min_length=1, max_length=60)]
Metres = Annotated[float, Field(gt=0, le=100)]
Along = Annotated[float, Field(ge=0, le=100)]
Height = Annotated[float, Field(ge=0, le=20)]
YesNo = Literal["yes", "no"]
Room = Literal[
    "garage",
    "utility room",
    "plant room",
    "outbuilding",
    "cellar",
    "kitchen",
    "living room",
    "bedroom",
    "hall",
    "escape route",
    "under stairs",
    "cupboard",
    "loft",
]
Behind = Literal["bedroom", "living room", "other room", "outside", "ground"]
Build = Literal["masonry", "concrete", "studs", "timber", "insulated panel"]
FeatureKind = Literal[
    "door", "window", "vent", "hatch", "drain", "gas meter", "gas appliance", "socket", "obstacle"
]
Way = Literal["along the wall", "through the wall", "loft", "trench", "conduit", "trunking"]
Cables = Literal["", "clipped to it", "conduit", "trunking", "in the wall"]


class Feature(Frozen):
    """An opening or a thing on a wall that must stay as it is."""

    id: Identifier
    kind: FeatureKind
    name: Annotated[str, Field(max_length=60)] = ""
    x_m: Along
    y_m: Height
    width_m: Metres
    height_m: Metres


class Underlay(Frozen):
    """A photo that lies under a wall to its scale: an attachment, where its lower left corner lies on the
    wall and how wide it is there. The two points that were measured on it say so (`places/scaling.py`)."""

    sha256: Sha256
    x_m: Annotated[float, Field(ge=-100, le=100)] = 0.0
    y_m: Annotated[float, Field(ge=-100, le=100)] = 0.0
    width_m: Annotated[float, Field(gt=0, le=200)]


class Wall(Frozen):
    """A wall as one faces it: `room` is where one stands, '' outside; what isn't known stays open.

    `flood_m` is how high water has stood or may stand above the foot of the wall; `low_c` and `high_c` are
    the range of the place over a year. `outline` are its corners where it is no rectangle, a gable's say.
    `cables` is how they run on it, `cable_depth_mm` how deep in it.
    """

    id: Identifier
    name: Name
    width_m: Metres
    height_m: Annotated[float, Field(gt=0, le=20)]
    outline: Annotated[tuple[Corner, ...], Field(max_length=24)] = ()
    room: Room | Literal[""] = ""
    behind: Fact[Behind] = Fact[Behind]()
    build: Fact[Build] = Fact[Build]()
    stud_pitch_m: Annotated[float, Field(gt=0.1, le=2)] | None = None
    free_m: Fact[NotNegative] = Fact[NotNegative]()  # free in front of it
    lined: Fact[YesNo] = Fact[YesNo]()  # with what doesn't burn
    sun: Fact[YesNo] = Fact[YesNo]()
    rain: Fact[YesNo] = Fact[YesNo]()
    quiet: Fact[YesNo] = Fact[YesNo]()  # people sleep or rest near
    vehicles: Fact[YesNo] = Fact[YesNo]()
    flood_m: Fact[NotNegative] = Fact[NotNegative]()
    low_c: Fact[Annotated[float, Field(ge=-50, le=60)]] = Fact()
    high_c: Fact[Annotated[float, Field(ge=-40, le=80)]] = Fact()
    cables: Cables = ""
    cable_depth_mm: Annotated[float, Field(ge=0, le=500)] | None = None
    photo: Underlay | None = None
    features: Annotated[tuple[Feature, ...], Field(max_length=60)] = ()

    @property
    def outside(self) -> bool:
        return self.room == ""

    @property
    def corners(self) -> tuple[Corner, ...]:
        """Its outline: the whole rectangle where none is typed."""
        return self.outline or ((0, 0), (self.width_m, 0), (self.width_m, self.height_m), (0, self.height_m))

    def holds(self, x_m: float, y_m: float, width_m: float, height_m: float) -> bool:
        """Whether a rectangle lies on it."""
        slack = 1e-6
        if x_m < -slack or y_m < -slack or x_m + width_m > self.width_m + slack:
            return False
        if y_m + height_m > self.height_m + slack:
            return False
        return not self.outline or lies_within(self.outline, (x_m, y_m, width_m, height_m))

    @model_validator(mode="after")
    def _outline_is_one(self) -> Self:
        """Corners lie in its width and height, and no edge crosses another."""
        beyond = [corner for corner in self.outline if corner[0] > self.width_m or corner[1] > self.height_m]
        if beyond:
            raise ValueError(f"outline: {beyond[0]} lies beyond {self.width_m:g} x {self.height_m:g} m")
        if self.outline and (len(self.outline) < 3 or crosses_itself(self.outline)):
            raise ValueError("outline: three corners or more, in their order around the wall")
        return self


class Standing(Frozen):
    """Where a part stands: its lower left corner. Sizes that were measured go before those of the sheet.

    `reach_side_m` and `reach_above_m` are how far what stands behind it goes beyond it; `guard` a post or a
    kerb before it; `beyond_m`, of an array, the metres from its modules to where its cables come in.
    """

    id: Identifier  # the part's
    wall: Identifier
    x_m: Along
    y_m: Height
    width_m: Metres | None = None
    height_m: Metres | None = None
    depth_m: Metres | None = None
    backing: Fact[Literal["does not burn", "burns", "none"]] = Fact()
    fixings: Annotated[tuple[Hole, ...], Field(max_length=40)] = ()
    entries: Annotated[tuple[Hole, ...], Field(max_length=40)] = ()
    reach_side_m: NotNegative | None = None
    reach_above_m: NotNegative | None = None
    held: Fact[Literal["to masonry", "to studs", "on a board", "on the floor, tied back", "free"]] = Fact()
    guard: bool = False
    beyond_m: NotNegative | None = None


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
    dc: bool = True  # whether DC may go there
    ac: bool = True  # whether AC may go there
    metal: bool | None = None  # of a conduit or trunking
    bends_deg: Annotated[float, Field(ge=0, le=1080)] | None = None  # of a conduit


class Turn(Frozen):
    """A point on a wall that a cable goes by."""

    wall: Identifier
    x_m: Along
    y_m: Height


class Course(Frozen):
    """The way of a run as a person laid it: by these points, in this order; without one it is proposed."""

    id: Identifier  # the run's
    by: Annotated[tuple[Turn, ...], Field(min_length=1, max_length=40)]


class Arrangement(Frozen):
    """One way to stand it all, kept beside others: places and laid ways."""

    id: Identifier
    name: Name
    standing: Annotated[tuple[Standing, ...], Field(max_length=120)] = ()
    courses: Annotated[tuple[Course, ...], Field(max_length=80)] = ()


@dataclass(frozen=True)
class Plan:
    """All of a job that lies on walls, to be looked over at once."""

    walls: tuple[Wall, ...]
    standing: tuple[Standing, ...]
    passages: tuple[Passage, ...]
    courses: tuple[Course, ...]
    arrangements: tuple[Arrangement, ...]


def check_walls(plan: Plan) -> None:
    """Everything stands on a wall that is there, ids differ. Raises ValueError with where."""
    there = [wall.id for wall in plan.walls]
    kept = [("", plan.standing, plan.courses)]
    kept += [
        (f"arrangements {arrangement.id} ", arrangement.standing, arrangement.courses)
        for arrangement in plan.arrangements
    ]
    named = [
        (f"passages {passage.id} {end}", getattr(passage, end))
        for passage in plan.passages
        for end in ("a", "b")
    ]
    for where, standing, courses in kept:
        named += [(f"{where}standing {other.id} wall", other.wall) for other in standing]
        named += [(f"{where}courses {course.id} wall", turn.wall) for course in courses for turn in course.by]
        _differ(f"{where}standing", standing)
        _differ(f"{where}courses", courses)
    for where, name in named:
        if name not in there:
            raise ValueError(f"{where}: {name!r} is not there; choose from {', '.join(map(repr, there))}")
    for wall in plan.walls:
        _differ(f"walls {wall.id} features", wall.features)


def _differ(where: str, rows: tuple[Feature | Standing | Course, ...]) -> None:
    ids = [row.id for row in rows]
    twice = sorted({name for name in ids if ids.count(name) > 1})
    if twice:
        raise ValueError(f"{where}: the id {twice[0]!r} stands twice; ids must differ")
