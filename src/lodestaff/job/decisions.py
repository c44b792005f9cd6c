"""What was decided beside the array, the circuits and the plan: units, batteries, settings, tariff,
wishes."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.types import Hour, Identifier, NotNegative, Positive, Share


class Unit(Frozen):
    """A converter: hybrid, string inverter, branch of microinverters, battery unit; its sheet says what it
    can do.

    `fed_from` is where its grid side is connected; '' is the ordinary place, the distribution block. Units
    of one
    `group` are paralleled and keep in step; others don't. `count` is how many equal converters a branch has.
    """

    id: Identifier
    name: str
    sheet: str
    phase: Annotated[str, Field(max_length=12)]
    fed_from: Annotated[str, Field(max_length=60)] = ""
    group: Annotated[str, Field(max_length=40)] = ""
    count: Annotated[int, Field(ge=1, le=40)] = 1
    existing: bool = False
    bond: Literal["relay", "link", "none"] = "relay"
    ambient_max_c: Fact[Annotated[float, Field(ge=-40, le=80)]] = Fact()

    @property
    def legs(self) -> tuple[str, ...]:
        return tuple(self.phase.split("+"))


class Bank(Frozen):
    """The battery of one unit."""

    id: Identifier
    unit: Identifier
    sheet: str
    modules: Annotated[int, Field(ge=1, le=64)]
    state_of_health: Annotated[float, Field(gt=0.3, le=1)] = 1.0


class Wiring(Frozen):
    """The ordinary installation in short: each unit with a changeover feeds an essential loads board of its
    own.

    It stands for parts that are spelled out when the graph is built; a job with `parts` of its own doesn't
    use it.
    """

    bypass: bool = True
    bond_place: Literal["unit relay", "essential board", "none"] = "unit relay"
    electrode: bool = True
    essential_rcd: bool = True


class Window(Frozen):
    """A charge window: from the grid to a target state of charge. Hours by the device's clock."""

    id: Identifier
    start_h: Hour
    end_h: Hour
    target_soc: Share
    power_kw: Positive

    @model_validator(mode="after")
    def _has_length(self) -> Self:
        if self.start_h % 24 == self.end_h % 24:
            raise ValueError("a window must begin and end at different hours")
        return self


class Limits(Frozen):
    """The settings that the unit is told."""

    reserve_soc: Share
    export_kw: NotNegative
    import_kw: Positive
    charge_kw: NotNegative
    discharge_kw: NotNegative
    shed_soc: Share = 0.4
    windows: tuple[Window, ...] = ()
    device_clock: Literal["standard", "household"] = "household"


class Tariff(Frozen):
    """Two import bands and an export price, in currency units per kWh; the low band by the tariff's clock."""

    currency: str
    import_high: NotNegative
    import_low: NotNegative
    low_start_h: Hour
    low_end_h: Hour
    export: NotNegative
    standing_per_day: NotNegative
    clock: Literal["standard", "household"] = "standard"


class Wishes(Frozen):
    """What the customer wants of an outage."""

    outage_h: Annotated[float, Field(gt=0, le=168)]
    known: Fact[Literal["yes"]] = Fact()
