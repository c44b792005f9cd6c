"""What was decided beside the array and the plan: circuits, units, batteries, settings, tariff, wishes."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.types import HOURS, MONTHS, DayWeights, Hour, Identifier, MonthWeights, NotNegative, Positive, Share


class Role(StrEnum):
    """What becomes of a circuit in an outage."""

    HELD = "held"
    SHED = "shed first"
    GRID = "grid only"
    LOCKED = "locked out"


class Circuit(Frozen):
    """A final circuit: what it draws, how it starts, when it runs, and what it means to people.

    `event_minutes` is how long one run lasts; None is a load that is always there. The weights say
    when runs begin: by hour on weekdays and weekends (household clock), and by month.
    """

    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=60)]
    phase: str
    role: Role
    running_w: Annotated[float, Field(gt=0, le=100_000)]
    power_factor: Annotated[float, Field(gt=0.2, le=1)] = 1
    start_multiple: Annotated[float, Field(ge=1, le=12)] = 1
    start_s: NotNegative = 0
    soft_start_multiple: Annotated[float, Field(ge=1, le=12)] | None = None
    kwh_year: NotNegative
    event_minutes: Annotated[float, Field(ge=1, le=1440)] | None = None
    weekday: DayWeights = (1.0,) * HOURS
    weekend: DayWeights = (1.0,) * HOURS
    months: MonthWeights = (1.0,) * MONTHS
    kind: Literal["general", "motor", "heating", "car charger"] = "general"
    care: Literal["none", "medical", "life safety"] = "none"
    wish: str = ""
    known: Fact[Literal["yes"]] = Fact()
    priority: Annotated[int, Field(ge=0, le=10)] | None = None  # what it is worth to people; None goes by role and wish
    board: Annotated[str, Field(max_length=40)] = ""  # '' is the board that holds circuits of its role and phase
    neutral_board: Annotated[str, Field(max_length=40)] = ""  # where its neutral goes, if not to its own board
    also_on: Annotated[str, Field(max_length=40)] = ""  # a second board that feeds it, as a tank with two elements

    @model_validator(mode="after")
    def _energy_fits_power(self) -> Self:
        most_kwh = self.running_w / 1000 * 8760
        if self.kwh_year > most_kwh:
            raise ValueError(
                f"{self.kwh_year:.0f} kWh a year is more than {self.running_w:.0f} W running all year "
                f"({most_kwh:.0f} kWh); give less energy or more power"
            )
        if self.kwh_year > 0 and not (sum(self.weekday) > 0 and sum(self.weekend) > 0 and sum(self.months) > 0):
            raise ValueError("a circuit that takes energy needs an hour and a month with a weight above 0")
        return self

    @property
    def legs(self) -> tuple[str, ...]:
        """The phases it is on: two for a circuit between legs, A+B."""
        return tuple(self.phase.split("+"))

    @property
    def running_kva(self) -> float:
        return self.running_w / 1000 / self.power_factor

    @property
    def start_kva(self) -> float:
        """Apparent power while it starts (arithmetic, on the safe side); the running value if it has no start."""
        multiple = self.start_multiple if self.soft_start_multiple is None else self.soft_start_multiple
        return self.running_kva * multiple


class Unit(Frozen):
    """A converter: hybrid, string inverter, branch of microinverters, battery unit; its sheet says what it can do.

    `fed_from` is where its grid side is connected; '' is the ordinary place, the distribution block. Units of one
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
    """The ordinary installation in short: each unit with a changeover feeds an essential loads board of its own.

    It stands for parts that are spelled out when the graph is built; a job with `parts` of its own doesn't use it.
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
