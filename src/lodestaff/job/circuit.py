"""A final circuit: what it draws, how it starts, when it runs, what was measured, and what it means to
people."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.types import (
    HOURS,
    MONTHS,
    DayWeights,
    Identifier,
    MonthWeights,
    NotNegative,
    Positive,
    Share,
    SheetName,
)
from lodestaff.quantities.convention import plain


class Role(StrEnum):
    """What becomes of a circuit in an outage; `SURPLUS` takes only what would be exported or lost."""

    HELD = "held"
    SHED = "shed first"
    GRID = "grid only"
    LOCKED = "locked out"
    SURPLUS = "surplus only"


Use = Literal[
    "",
    "lighting",
    "sockets",
    "small appliances",
    "laundry",
    "cooker",
    "shower",
    "water heating",
    "space heating",
    "heat pump",
    "cooling",
    "appliance",
    "motor",
    "car charger",
]
BY_KIND: dict[str, Use] = {"car charger": "car charger", "heating": "space heating", "motor": "motor",
                           "general": "appliance"}  # fmt: skip


class Climate(Frozen):
    """How much of a circuit's energy follows the weather: degrees below (heating) or above (cooling) a
    balance."""

    kind: Literal["heating", "cooling"]
    balance_c: Annotated[float, Field(ge=-10, le=40)]
    share: Share = 1.0


class Surplus(Frozen):
    """When a surplus load is switched: on above, off below these powers of surplus; and from which state of
    charge.

    A `top_up` load (a tank with two supplies) takes what the surplus did not give from the mains by its
    timetable.
    """

    start_kw: NotNegative = 0.5
    stop_kw: NotNegative = 0.1
    min_soc: Share = 0.9
    top_up: bool = False

    @model_validator(mode="after")
    def _thresholds_in_order(self) -> Self:
        if self.stop_kw > self.start_kw:
            raise ValueError(
                f"surplus stops at {plain(self.stop_kw)} kW above its start at {plain(self.start_kw)} kW; "
                "give a lower stop"
            )
        return self


class Circuit(Frozen):
    """A final circuit.

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
    restart_s: NotNegative = (
        0  # how long after the transfer it may start again; those of one delay start together
    )
    kwh_year: NotNegative
    event_minutes: Annotated[float, Field(ge=1, le=1440)] | None = None
    weekday: DayWeights = (1.0,) * HOURS
    weekend: DayWeights = (1.0,) * HOURS
    months: MonthWeights = (1.0,) * MONTHS
    climate: Climate | None = None
    kind: Literal["general", "motor", "heating", "car charger"] = "general"
    use: Use = ""  # '' goes by kind; what the pack's method of demand counts it as
    device_a: Fact[Positive] = Fact()
    open_neutral: Fact[Literal["yes", "no"]] = Fact()  # of a car charger: protection against an open neutral
    sheet: SheetName = ""  # of a car charger
    switch_socket: bool = False  # a cooker's control unit with a socket in it
    added: bool = False  # not there yet when the supply's meter was logged
    care: Literal["none", "medical", "life safety"] = "none"
    wish: str = ""
    on_battery: Literal["not decided", "on the battery", "never on the battery"] = (
        "not decided"  # the customer's choice
    )
    known: Fact[Literal["yes"]] = Fact()
    from_battery: bool = True  # whether batteries serve it while the grid is there
    planned_w: Positive | None = None  # what was planned, once the measured value is reckoned with
    measured_w: Fact[Positive] = Fact()
    measured_start_kva: Fact[Positive] = Fact()
    shed_soc: Share | None = None  # the state of charge that drops it; None goes by the job's setting
    switched_by: Literal["", "contactor", "load control", "hand"] = ""  # what drops it in an outage
    surplus: Surplus = Surplus()
    priority: Annotated[int, Field(ge=0, le=10)] | None = (
        None  # what it is worth to people; None goes by role and wish
    )
    board: Annotated[str, Field(max_length=40)] = (
        ""  # '' is the board that holds circuits of its role and phase
    )
    neutral_board: Annotated[str, Field(max_length=40)] = (
        ""  # where its neutral goes, if not to its own board
    )
    also_on: Annotated[str, Field(max_length=40)] = (
        ""  # a second board that feeds it, as a tank with two elements
    )

    @model_validator(mode="after")
    def _energy_fits_power(self) -> Self:
        most_kwh = self.running_w / 1000 * 8760
        if self.kwh_year > most_kwh:
            raise ValueError(
                f"{plain(self.kwh_year, 0)} kWh a year is more than {plain(self.running_w, 0)} W running all "
                f"year ({plain(most_kwh, 0)} kWh); give less energy or more power"
            )
        if self.kwh_year > 0 and not (
            sum(self.weekday) > 0 and sum(self.weekend) > 0 and sum(self.months) > 0
        ):
            raise ValueError("a circuit that takes energy needs an hour and a month with a weight above 0")
        return self

    @property
    def legs(self) -> tuple[str, ...]:
        """The phases it is on: two for a circuit between legs, A+B."""
        return tuple(self.phase.split("+"))

    @property
    def counted_as(self) -> Use:
        """What the method of demand counts it as."""
        return self.use or BY_KIND[self.kind]

    @property
    def running_kva(self) -> float:
        return self.running_w / 1000 / self.power_factor

    @property
    def start_kva(self) -> float:
        """Apparent power while it starts (arithmetic, on the safe side); the running value if it has no
        start."""
        multiple = self.start_multiple if self.soft_start_multiple is None else self.soft_start_multiple
        return self.running_kva * multiple
