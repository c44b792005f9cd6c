"""What was decided beside the array, the circuits and the plan: units, batteries, settings, tariff,
wishes."""

from calendar import monthrange
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
    `serves` says how far it feeds: what hangs on its own port, all up to its transformer, or the grid as
    well; `exports` what may go out past that. `export_kw` and `import_kw` are limits of its own at its
    transformer, where it isn't told its share of the site's.
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
    serves: Literal["own port", "up to the CT", "grid"] = "grid"
    exports: Literal["nothing", "sun only", "sun and battery"] = "sun only"
    export_kw: NotNegative | None = None
    import_kw: Positive | None = None
    ambient_max_c: Fact[Annotated[float, Field(ge=-40, le=80)]] = Fact()

    @property
    def legs(self) -> tuple[str, ...]:
        return tuple(self.phase.split("+"))


class Bank(Frozen):
    """The battery of one unit. `place_low_c` and `place_high_c` are the range of its place over the year;
    `charge_kw` and `discharge_kw` are its own where it isn't told what all are told."""

    id: Identifier
    unit: Identifier
    sheet: str
    modules: Annotated[int, Field(ge=1, le=64)]
    state_of_health: Annotated[float, Field(gt=0.3, le=1)] = 1.0
    charge_kw: NotNegative | None = None
    discharge_kw: NotNegative | None = None
    place_low_c: Fact[Annotated[float, Field(ge=-50, le=60)]] = Fact()
    place_high_c: Fact[Annotated[float, Field(ge=-40, le=80)]] = Fact()


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


MonthDay = Annotated[str, Field(pattern=r"^(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$")]


class Window(Frozen):
    """Hours in which the battery is told something, by the device's clock.

    To charge from the grid up to the target, to hold what it has, or to give to circuits and grid down to
    the target.
    `months` (1 to 12) and `days` narrow it, `on` names single days (MM-DD); none of them: all.
    """

    id: Identifier
    start_h: Hour
    end_h: Hour
    target_soc: Share
    power_kw: Positive
    kind: Literal["charge", "hold", "give"] = "charge"
    months: Annotated[tuple[Annotated[int, Field(ge=1, le=12)], ...], Field(max_length=12)] = ()
    days: Literal["every day", "weekdays", "weekends"] = "every day"
    on: Annotated[tuple[MonthDay, ...], Field(max_length=60)] = ()

    @model_validator(mode="after")
    def _has_length(self) -> Self:
        if self.start_h % 24 == self.end_h % 24:
            raise ValueError("a window must begin and end at different hours")
        return self

    @model_validator(mode="after")
    def _days_are_there(self) -> Self:
        for day in self.on:
            month, number = (int(part) for part in day.split("-"))
            if number > monthrange(2025, month)[1]:
                raise ValueError(f"windows {self.id} on: {day} is no day of a year; write MM-DD, as in 12-24")
        return self


class Limits(Frozen):
    """The settings that the unit is told.

    `mode` is what batteries do outside windows: serve the circuits, hold for an outage, or keep the import
    below `peak_kw`. With `keep_room` they wait for the sun that would else be lost at noon. `counted` says
    whether the export limit is for the sum or its part for each phase.
    """

    reserve_soc: Share
    export_kw: NotNegative
    import_kw: Positive
    charge_kw: NotNegative
    discharge_kw: NotNegative
    shed_soc: Share = 0.4
    windows: tuple[Window, ...] = ()
    device_clock: Literal["standard", "household"] = "household"
    mode: Literal["serve circuits", "hold for outages", "shave the peak"] = "serve circuits"
    peak_kw: Positive | None = None
    keep_room: bool = False
    counted: Literal["in sum", "each phase"] = "in sum"

    @model_validator(mode="after")
    def _peak_is_there(self) -> Self:
        if self.mode == "shave the peak" and self.peak_kw is None:
            raise ValueError("limits peak_kw: shaving needs the peak to stay below, in kW")
        return self


class Band(Frozen):
    """A further price by hours, days and months, by the tariff's clock; later ones in the list above
    earlier.
    """

    id: Identifier
    price: Annotated[float, Field(ge=-5, le=50)]
    of: Literal["import", "export"] = "import"
    start_h: Hour = 0.0
    end_h: Annotated[float, Field(ge=0, le=24)] = 24.0
    days: Literal["every day", "weekdays", "weekends"] = "every day"
    months: Annotated[tuple[Annotated[int, Field(ge=1, le=12)], ...], Field(max_length=12)] = ()


class HourlyPrices(Frozen):
    """Import prices of each hour of a year, an attached CSV file by its SHA-256."""

    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: str = ""


class Tariff(Frozen):
    """Two import bands and an export price, in currency units per kWh; the low band by the tariff's clock.

    `bands` are laid over them, over the hourly prices too. A demand charge is paid for each month's highest
    quarter of an hour.
    """

    currency: str
    import_high: NotNegative
    import_low: NotNegative
    low_start_h: Hour
    low_end_h: Hour
    export: NotNegative
    standing_per_day: NotNegative
    fuel_per_litre: NotNegative | None = None  # of a generator
    clock: Literal["standard", "household"] = "standard"
    bands: Annotated[tuple[Band, ...], Field(max_length=48)] = ()
    hourly: HourlyPrices | None = None
    demand_per_kw_month: NotNegative = 0.0


class Wishes(Frozen):
    """What the customer wants of an outage, and how money is looked at over years: prices drift and what
    comes later is discounted, by shares a year."""

    outage_h: Annotated[float, Field(gt=0, le=168)]
    known: Fact[Literal["yes"]] = Fact()
    years: Annotated[int, Field(ge=1, le=40)] = 20
    price_drift: Annotated[float, Field(ge=-0.1, le=0.2)] = 0.0
    discount: Annotated[float, Field(ge=0, le=0.2)] = 0.0
    wear_per_kwh: Annotated[float, Field(ge=0, le=5)] = 0.0  # of the battery, a kWh out
    budget: Positive | None = None
