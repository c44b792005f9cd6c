"""The array: faces of the roof to scale, modules placed on them, strings, and cables."""

from typing import Annotated, Any, Literal, Self

from pydantic import Field, field_validator, model_validator

from lodestaff.catalogue import ModuleSheet
from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.types import Identifier, NotNegative, Positive, SheetName
from lodestaff.quantities.convention import plain

Metre = Annotated[float, Field(ge=0, le=200)]


Plan = Annotated[float, Field(ge=-500, le=500)]
Height = Annotated[float, Field(ge=0, le=120)]
Light = Annotated[float, Field(ge=0, le=1)]
Name = Annotated[str, Field(min_length=1, max_length=40)]


Optimisers = Literal["none", "some", "all"]


class Obstacle(Frozen):
    """Something on a face that no module may cover; `height_m` is how far it rises straight up above the face
    at its middle: 0 for a roof window, None while unknown."""

    id: Identifier
    name: Name
    x_m: Metre
    y_m: Metre
    w_m: Positive
    h_m: Positive
    height_m: Height | None = None


class Surrounding(Frozen):
    """Something beside the roof that throws shade: a building, a wall, a tree. Its middle on the site's plan,
    its top and the lower end of what shades above the ground, and how much of the beam comes through it."""

    id: Identifier
    name: Name
    shape: Literal["box", "round"] = "box"
    east_m: Plan
    north_m: Plan
    width_m: Positive
    depth_m: Positive | None = None  # as deep as wide where none is given
    turned_deg: Annotated[float, Field(ge=0, lt=360)] = 0
    height_m: Height
    base_m: Height = 0
    light_in_leaf: Light = 0
    light_bare: Light = 0

    @model_validator(mode="after")
    def _stands(self) -> Self:
        if self.base_m >= self.height_m:
            raise ValueError(f"{self.name}: its top must lie above its lower end")
        return self


class Origin(Frozen):
    """Where a face's lower left corner, seen square on, stands on the site's plan, and how high."""

    east_m: Plan
    north_m: Plan
    eaves_m: Height


class PlacedModule(Frozen):
    """A module on its face: its lower left corner, seen square on; `string` "" while it is on none.

    `turned` lies the other way than its face's modules do.
    """

    id: Identifier
    x_m: Metre
    y_m: Metre
    string: Annotated[str, Field(max_length=40)] = ""
    turned: bool = False
    optimiser: bool = False


Corner = tuple[Metre, Metre]


class Face(Frozen):
    """One face of the roof, seen square on. Tilt from horizontal, azimuth clockwise from north.

    `outline` are its corners in its own plane, from the lower left of its width and height; none is the whole
    rectangle.
    """

    id: Identifier
    name: Name
    tilt_deg: Annotated[float, Field(ge=0, le=90)]
    azimuth_deg: Annotated[float, Field(ge=0, lt=360)]
    width_m: Positive
    height_m: Positive
    outline: Annotated[tuple[Corner, ...], Field(max_length=24)] = ()
    origin: Origin | None = None
    module: str
    portrait: bool = True
    mounting: Literal["close roof", "open rack", "in the roof"] = "close roof"
    mounting_sheet: Annotated[str, Field(max_length=60)] = ""  # '' while none is chosen
    rafter_m: Fact[Positive] = Fact()  # from one to the next, where supports go into rafters
    bonded: Fact[Literal["every rail", "by the clamps", "not bonded"]] = Fact()
    bond_mm2: Fact[Positive] = Fact()
    covering: Fact[Literal["tiles", "slates", "metal", "membrane", "ground"]] = Fact()
    modules: tuple[PlacedModule, ...] = ()
    obstacles: tuple[Obstacle, ...] = ()

    @field_validator("obstacles", mode="before")
    @classmethod
    def _each_has_an_id(cls, given: Any) -> Any:
        """Documents from before obstacles had ids: they are counted."""
        if not isinstance(given, list | tuple):
            return given
        return [
            {"id": f"obstacle-{number}", **thing} if isinstance(thing, dict) and "id" not in thing else thing
            for number, thing in enumerate(given, start=1)
        ]

    @model_validator(mode="after")
    def _ids_differ(self) -> Self:
        for what, parts in (("module", self.modules), ("obstacle", self.obstacles)):
            ids = [part.id for part in parts]
            twice = sorted({name for name in ids if ids.count(name) > 1})
            if twice:
                raise ValueError(f"the {what} {twice[0]!r} stands twice on {self.name}; ids must differ")
        return self

    @model_validator(mode="after")
    def _outline_encloses(self) -> Self:
        if not self.outline:
            return self
        if len(self.outline) < 3 or abs(_twice_area(self.outline)) < 0.2:
            raise ValueError(f"the outline of {self.name} encloses nothing; give three corners or more")
        for x, y in self.outline:
            if x > self.width_m + 1e-6 or y > self.height_m + 1e-6:
                raise ValueError(
                    f"the corner {plain(x)}, {plain(y)} of {self.name} lies beyond its "
                    f"{plain(self.width_m)} x {plain(self.height_m)} m"
                )
        if crosses_itself(self.outline):
            raise ValueError(f"the outline of {self.name} crosses itself; give its corners in order")
        return self

    def count_of(self, string: str) -> int:
        return sum(module.string == string for module in self.modules)

    def size_of(self, module: PlacedModule, sheet: ModuleSheet) -> tuple[float, float]:
        """Width and height that a module takes on this face, m."""
        return sheet.lying(self.portrait != module.turned)

    @property
    def corners(self) -> tuple[Corner, ...]:
        """Its outline, counter-clockwise."""
        if not self.outline:
            w, h = self.width_m, self.height_m
            return ((0.0, 0.0), (w, 0.0), (w, h), (0.0, h))
        return self.outline if _twice_area(self.outline) > 0 else self.outline[::-1]


def _twice_area(corners: tuple[Corner, ...]) -> float:
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(corners, (*corners[1:], corners[0]), strict=True))


def crosses_itself(corners: tuple[Corner, ...]) -> bool:
    """Whether two edges of an outline that don't follow each other meet."""
    edges = list(zip(corners, (*corners[1:], corners[0]), strict=True))

    def side(a: Corner, b: Corner, c: Corner) -> float:
        return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])

    return any(
        side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0
        for index, (a, b) in enumerate(edges)
        for c, d in edges[index + 2 : len(edges) - (index == 0)]
    )


class ModuleString(Frozen):
    """A string of modules in series, on a tracker of a unit."""

    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=20)]
    unit: Identifier
    tracker: str
    optimisers: Optimisers = "none"  # as it was said of the whole; modules say it each
    optimiser: Annotated[str, Field(max_length=60)] = ""  # their sheet
    connector: Fact[Annotated[str, Field(min_length=1, max_length=40)]] = Fact()  # of its home run
    joined_on_roof: bool = False  # by branch connectors with the other strings of its tracker


def array_run(unit: str, tracker: str) -> str:
    """The id of the run that brings a tracker's strings to their unit."""
    return f"{unit}-array-{tracker.lower()}"


class Cable(Frozen):
    """What was chosen for one run of the wiring. `id` is the run's, from the decisions that made it."""

    id: Identifier
    size_mm2: Positive
    length_m: Positive
    table: Annotated[str, Field(max_length=40)]  # a method of the pack, or DC class 5
    ambient_c: Annotated[float, Field(ge=-20, le=90)] | None = None  # None: the pack's air or ground
    soil_k_m_w: Annotated[float, Field(gt=0.1, le=5)] | None = None  # of a buried one; None: the pack's
    grouping: Annotated[int, Field(ge=1, le=6)] = 1
    insulation_mm: NotNegative = 0
    device_a: Positive | None = None
    isolator_v: Positive | None = None  # of the DC isolator in an array's run
    isolator_a: Positive | None = None
    string_fuse_a: Positive | None = None  # fitted in each string of an array's run
    surge: Literal["none", "one end", "both ends"] | None = None  # protection of an array's run
    surge_lead_m: NotNegative | None = None  # both leads of it together
    terminals_c: Literal["60", "75"] | None = None  # what the device's terminals are marked for
    curve: Literal["B", "C", "D"] | None = None
    breaking_ka: Positive | None = None  # of its device or fuse
    selective: Fact[Literal["yes", "no"]] = Fact()  # against the device ahead, by the maker's table
    cpc_mm2: Positive | None = None
    outside_mm: Positive | None = None  # of a cable of several cores, else of each conductor
    gland_least_mm: Positive | None = None  # what its glands seal, as it is marked on them
    gland_most_mm: Positive | None = None
    rcd_ma: Positive | None = None
    rcd_type: Literal["AC", "A", "F", "B"] | None = None
    rcd_bidirectional: Fact[Literal["yes", "no"]] = Fact()
    depth_mm: NotNegative | None = None
    known: Fact[Literal["yes"]] = Fact()
    existing: bool = False  # it lies there already: nothing to buy or to pull in
    sheet: SheetName = ""  # of the cable
    device_sheet: SheetName = ""
    why: Annotated[str, Field(max_length=200)] = ""  # chosen otherwise than proposed: the reason, printed


class Containment(Frozen):
    """A conduit or trunking with the runs that lie in it: its size by the pack's table, what was measured of
    it."""

    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=60)]
    size: Annotated[str, Field(max_length=40)]  # a size of the pack's containments
    runs: Annotated[tuple[Identifier, ...], Field(max_length=40)] = ()
    bends_deg: Annotated[float, Field(ge=0, le=1080)] | None = None  # between two places to draw in
    metal: bool | None = None
    inside: bool = True  # within a building
    sun_proof: bool | None = None  # of what lies outside
    known: Fact[Literal["yes"]] = Fact()
