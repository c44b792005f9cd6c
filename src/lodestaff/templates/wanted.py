"""What stands at a site and what is wanted there: choices, each free of the others as far as the trade
allows."""

from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from lodestaff.catalogue import load_pack, pack_names
from lodestaff.catalogue.begins import Begins
from lodestaff.catalogue.field_meta import FieldMeta
from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.plan import leg_names

Family = Literal[
    "hybrid",
    "string inverter and battery unit",
    "microinverters and battery unit",
    "battery units with solar inputs",
    "existing array and battery unit",
]
Building = Literal["house", "flat", "farm", "workshop", "office", "clinic", "cafe", "station"]
Few = Annotated[int, Field(ge=1, le=4)]


class Roof(Frozen):
    """A face and the strings on it: for each its unit (counted from 0), tracker and number of modules."""

    name: str
    azimuth_deg: Annotated[float, Field(ge=0, lt=360)]
    tilt_deg: Annotated[float, Field(ge=0, le=90)] = 32
    strings: tuple[tuple[int, str, int], ...]


class Wanted(Frozen):
    """The choices of a new job. Every field has an ordinary value, so that a few answers make a job."""

    title: Annotated[str, Field(min_length=1, max_length=80), FieldMeta("Name of the job")] = "New job"
    place: Annotated[str, Field(min_length=1, max_length=60), FieldMeta("Place")] = "Place not named yet"
    pack: Annotated[str, FieldMeta("Rule pack")] = "uk"
    grid: Annotated[bool, FieldMeta("There is a grid supply")] = True
    system: Annotated[
        Literal["single phase", "two of three phases", "three phases", "120/240 V", "120/208 V"],
        FieldMeta("Supply"),
    ] = "single phase"
    rating_a: Annotated[float | None, Field(gt=0, le=400), FieldMeta("Service rating as read", "A")] = None
    earthing: Annotated[Literal["TN-C-S", "TN-S", "TT", "TN-C", "MEN"], FieldMeta("Earthing arrangement")] = (
        "TN-C-S"
    )
    existing: Annotated[Literal["none", "string inverter"], FieldMeta("Generation that is already there")] = (
        "none"
    )
    charger: Annotated[bool, FieldMeta("Car charger")] = False
    generator: Annotated[bool, FieldMeta("Generator")] = False
    second_building: Annotated[bool, FieldMeta("Circuits in a second building")] = False
    family: Annotated[Family, FieldMeta("Family")] = "hybrid"
    units: Annotated[Few, FieldMeta("Number of units")] = 1
    arrangement: Annotated[
        Literal["together", "one on each phase", "side by side", "across all phases"],
        FieldMeta("How units stand"),
    ] = "together"
    backup: Annotated[Literal["none", "outlet", "panel", "whole building"], FieldMeta("Backup")] = "panel"
    bypass: Annotated[Literal["none", "by hand", "automatic"], FieldMeta("Bypass")] = "none"
    interlock: Annotated[bool, FieldMeta("Interlock that feeds the main board from the unit")] = False
    shutdown: Annotated[bool, FieldMeta("Rapid shutdown with a transmitter")] = False
    optimisers: Annotated[Literal["none", "some", "all"], FieldMeta("Power optimisers")] = "none"
    surplus: Annotated[bool, FieldMeta("Surplus loads")] = False
    metered: Annotated[bool, FieldMeta("Generation meter")] = False
    outbuilding: Annotated[bool, FieldMeta("Array and battery in an outbuilding")] = False
    chosen_loads_ct: Annotated[bool, FieldMeta("Transformer on chosen circuits")] = False
    own_sun: Annotated[bool, FieldMeta("A load with a solar input of its own")] = False
    circuits: Annotated[Building, FieldMeta("Circuits to begin with")] = "house"
    unit_sheet: str = ""
    battery_sheet: str = ""
    module_sheet: str = ""
    battery_modules: tuple[int, ...] = (2,)
    roofs: tuple[Roof, ...] = ()

    @field_validator("pack")
    @classmethod
    def _is_there(cls, name: str) -> str:
        if name not in pack_names():
            raise ValueError(f"no rule pack {name!r}; choose from {', '.join(pack_names())}")
        return name

    @property
    def begins(self) -> Begins:
        return load_pack(self.pack).beginning

    @model_validator(mode="after")
    def _may_stand_together(self) -> Self:
        if self.arrangement == "across all phases" and (
            self.split or len(self.phases) < 2 or self.family != "hybrid" or self.units > 1
        ):
            raise ValueError(
                "across all phases: that is one hybrid on three phases; choose these, or another way"
            )
        if self.arrangement in ("one on each phase", "side by side") and self.units < 2:
            raise ValueError(f"{self.arrangement}: that takes two units or more; the number is {self.units}")
        if self.arrangement == "one on each phase" and self.units > len(self.phases):
            raise ValueError(
                f"one on each phase: {self.units} units on {len(self.phases)} phases; take fewer units"
            )
        if self.arrangement == "side by side" and (self.family != "hybrid" or self.backup != "panel"):
            raise ValueError("side by side: each hybrid feeds a panel of its own; choose hybrid and panel")
        if self.shutdown and self.family == "microinverters and battery unit":
            raise ValueError("rapid shutdown: converters behind each module need no transmitter; take it off")
        if self.generator and self.family != "hybrid" and self.backup == "none":
            raise ValueError("a generator feeds a hybrid, or a gateway with a backup; choose one of them")
        if self.interlock and (self.family != "hybrid" or self.backup != "panel"):
            raise ValueError(
                "an interlock goes with a hybrid's backup panel; choose hybrid and panel, or none"
            )
        if self.bypass != "none" and (self.family != "hybrid" or self.backup in ("none", "outlet")):
            raise ValueError(
                "a bypass goes round a hybrid that feeds a board; choose panel or whole building"
            )
        if not self.grid and (self.family != "hybrid" or self.backup != "whole building"):
            raise ValueError(
                "without a grid the unit feeds the whole building: choose hybrid and whole building"
            )
        if not self.grid and self.arrangement == "one on each phase":
            raise ValueError(
                "without a grid units on phases of their own share no service and no bond; choose together"
            )
        if self.backup == "outlet" and self.family != "hybrid":
            raise ValueError(
                "an emergency outlet belongs to a hybrid; choose hybrid, or a gateway with a panel"
            )
        return self

    @property
    def phases(self) -> tuple[str, ...]:
        """Names of the phases or legs at the origin, in the pack's way."""
        return leg_names(load_pack(self.pack).legs, self.system)

    @property
    def split(self) -> bool:
        """Whether a unit stands across both legs."""
        return self.system in ("120/240 V", "120/208 V")

    @property
    def across(self) -> bool:
        """Whether a unit stands on all phases or legs."""
        return self.split or self.arrangement == "across all phases"


CHOICES = ("title", "place", "pack", "grid", "system", "rating_a", "earthing", "existing", "charger",
           "generator",
           "second_building", "family", "units", "arrangement", "backup", "bypass", "interlock", "shutdown",
           "optimisers",
           "surplus", "metered", "outbuilding", "chosen_loads_ct", "own_sun", "circuits")  # fmt: skip
