"""The array: faces of the roof to scale, modules placed on them, strings, and cables."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.types import Identifier, NotNegative, Positive

Metre = Annotated[float, Field(ge=0, le=200)]


class Obstacle(Frozen):
    """Something on a face that no module may cover."""

    name: Annotated[str, Field(min_length=1, max_length=40)]
    x_m: Metre
    y_m: Metre
    w_m: Positive
    h_m: Positive


class PlacedModule(Frozen):
    """A module on its face: its lower left corner, seen square on; `string` "" while it is on none."""

    id: Identifier
    x_m: Metre
    y_m: Metre
    string: Annotated[str, Field(max_length=40)] = ""


class Face(Frozen):
    """One face of the roof, seen square on. Tilt from horizontal, azimuth clockwise from north."""

    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=40)]
    tilt_deg: Annotated[float, Field(ge=0, le=90)]
    azimuth_deg: Annotated[float, Field(ge=0, lt=360)]
    width_m: Positive
    height_m: Positive
    module: str
    portrait: bool = True
    mounting: Literal["close roof", "open rack"] = "close roof"
    modules: tuple[PlacedModule, ...] = ()
    obstacles: tuple[Obstacle, ...] = ()

    @model_validator(mode="after")
    def _ids_differ(self) -> Self:
        ids = [module.id for module in self.modules]
        twice = sorted({name for name in ids if ids.count(name) > 1})
        if twice:
            raise ValueError(f"the module {twice[0]!r} stands twice on {self.name}; ids must differ")
        return self

    def count_of(self, string: str) -> int:
        return sum(module.string == string for module in self.modules)


class ModuleString(Frozen):
    """A string of modules in series, on a tracker of a unit."""

    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=20)]
    unit: Identifier
    tracker: str
    optimisers: Literal["none", "some", "all"] = "none"


class Cable(Frozen):
    """What was chosen for one run of the wiring. `id` is the run's, from the decisions that made it."""

    id: Identifier
    size_mm2: Positive
    length_m: Positive
    table: Annotated[str, Field(max_length=40)]  # a method of the pack, or DC class 5
    ambient_c: Annotated[float, Field(ge=-20, le=60)] = 30
    grouping: Annotated[int, Field(ge=1, le=6)] = 1
    insulation_mm: NotNegative = 0
    device_a: Positive | None = None
    terminals_c: Literal["60", "75"] | None = None  # what the device's terminals are marked for
    curve: Literal["B", "C", "D"] | None = None
    cpc_mm2: Positive | None = None
    rcd_ma: Positive | None = None
    rcd_type: Literal["AC", "A", "F", "B"] | None = None
    rcd_bidirectional: Fact[Literal["yes", "no"]] = Fact()
    depth_mm: NotNegative | None = None
    known: Fact[Literal["yes"]] = Fact()
