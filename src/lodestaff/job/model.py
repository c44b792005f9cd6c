"""The model of a job. Sources, batteries, boards and phases are lists; one of each is a list of one."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue import HybridSheet, Pack, Sheets
from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact

SCHEMA_VERSION = 2
HOURS, MONTHS = 24, 12

Identifier = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=40)]
Share = Annotated[float, Field(ge=0, le=1)]
NotNegative = Annotated[float, Field(ge=0, le=1e6)]
Positive = Annotated[float, Field(gt=0, le=1e6)]
Hour = Annotated[float, Field(ge=0, le=24)]
DayWeights = Annotated[tuple[NotNegative, ...], Field(min_length=HOURS, max_length=HOURS)]
MonthWeights = Annotated[tuple[NotNegative, ...], Field(min_length=MONTHS, max_length=MONTHS)]
MonthShares = Annotated[tuple[Annotated[float, Field(gt=0.05, lt=0.85)], ...], Field(min_length=12, max_length=12)]
MonthTemperatures = Annotated[tuple[Annotated[float, Field(ge=-60, le=60)], ...], Field(min_length=12, max_length=12)]


class Role(StrEnum):
    """What becomes of a circuit in an outage."""

    HELD = "held"
    SHED = "shed first"
    GRID = "grid only"
    LOCKED = "locked out"


class SyntheticWeather(Frozen):
    """A seeded synthetic year: monthly clearness (GHI over extraterrestrial), temperatures, wind."""

    kind: Literal["synthetic"] = "synthetic"
    seed: int = 1
    clearness: MonthShares
    temperature_low_c: MonthTemperatures
    temperature_high_c: MonthTemperatures
    wind_m_s: Annotated[tuple[Annotated[float, Field(ge=0, le=30)], ...], Field(min_length=12, max_length=12)]

    @model_validator(mode="after")
    def _temperatures_in_order(self) -> Self:
        pairs = zip(self.temperature_low_c, self.temperature_high_c, strict=True)
        for month, (low, high) in enumerate(pairs, start=1):
            if low > high:
                raise ValueError(f"month {month}: low {low} °C is above high {high} °C")
        return self


class FileWeather(Frozen):
    """A typical year from an attached TMY3 or EPW file, by the attachment's SHA-256."""

    kind: Literal["file"] = "file"
    format: Literal["tmy3", "epw"]
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: str = ""


class Supply(Frozen):
    """The grid supply as it was read."""

    earthing: Fact[Literal["TN-C-S", "TN-S", "TT"]]
    rating_a: Fact[Positive]
    voltage_v: Fact[Positive]
    ze_ohm: Fact[Positive] = Fact()


class Permission(Frozen):
    """What the operator allows, with its state."""

    export_kw: Fact[NotNegative]
    state: Literal["granted", "applied for", "not asked"]
    date: str = ""


class Site(Frozen):
    place: str
    latitude_deg: Annotated[float, Field(ge=-66, le=66)]
    longitude_deg: Annotated[float, Field(ge=-180, le=180)]
    altitude_m: Annotated[float, Field(ge=-400, le=5000)] = 0
    utc_offset_h: Annotated[float, Field(ge=-12, le=14)]
    phases: Annotated[tuple[str, ...], Field(min_length=1, max_length=3)]
    supply: Supply
    permission: Permission
    weather: Annotated[SyntheticWeather | FileWeather, Field(discriminator="kind")]


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
    def running_kva(self) -> float:
        return self.running_w / 1000 / self.power_factor

    @property
    def start_kva(self) -> float:
        """Apparent power while it starts (arithmetic, on the safe side); the running value if it has no start."""
        multiple = self.start_multiple if self.soft_start_multiple is None else self.soft_start_multiple
        return self.running_kva * multiple


class Face(Frozen):
    """One face of the array and the unit's tracker it is on. Tilt from horizontal, azimuth from north."""

    id: Identifier
    name: str
    tilt_deg: Annotated[float, Field(ge=0, le=90)]
    azimuth_deg: Annotated[float, Field(ge=0, lt=360)]
    module: str
    count: Annotated[int, Field(ge=1, le=500)]
    unit: Identifier
    tracker: str
    mounting: Literal["close roof", "open rack"] = "close roof"


class Unit(Frozen):
    """A hybrid on one phase."""

    id: Identifier
    name: str
    sheet: str
    phase: str
    ambient_max_c: Fact[Annotated[float, Field(ge=-40, le=80)]] = Fact()


class Bank(Frozen):
    """The battery of one unit."""

    id: Identifier
    unit: Identifier
    sheet: str
    modules: Annotated[int, Field(ge=1, le=64)]
    state_of_health: Annotated[float, Field(gt=0.3, le=1)] = 1.0


class Wiring(Frozen):
    """Decisions that make the topology of this slice: what is behind the changeover, and its bypass."""

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


class Job(Frozen):
    """One job, from the first visit to the handover: the design part."""

    schema_version: Literal[2] = 2
    id: Identifier
    title: Annotated[str, Field(min_length=1, max_length=80)]
    pack: Pack
    site: Site
    circuits: tuple[Circuit, ...]
    faces: tuple[Face, ...]
    units: Annotated[tuple[Unit, ...], Field(min_length=1)]
    banks: tuple[Bank, ...]
    wiring: Wiring = Wiring()
    limits: Limits
    tariff: Tariff
    wishes: Wishes
    sheets: Sheets

    @model_validator(mode="after")
    def _parts_fit_together(self) -> Self:
        for kind, parts in (("circuits", self.circuits), ("faces", self.faces), ("units", self.units),
                            ("banks", self.banks)):  # fmt: skip
            ids = [part.id for part in parts]
            twice = sorted({name for name in ids if ids.count(name) > 1})
            if twice:
                raise ValueError(f"{kind}: the id {twice[0]!r} stands twice; ids must differ")
        self._check_references()
        self._check_limits()
        return self

    def _check_references(self) -> None:
        def need(name: str, among: object, where: str) -> None:
            choices = list(among)  # type: ignore[call-overload]
            if name not in choices:
                raise ValueError(f"{where}: {name!r} is not there; choose from {', '.join(map(repr, choices))}")

        units = {unit.id: unit for unit in self.units}
        for unit in self.units:
            need(unit.sheet, self.sheets.hybrids, f"units {unit.id} sheet")
            need(unit.phase, self.site.phases, f"units {unit.id} phase")
        for circuit in self.circuits:
            need(circuit.phase, self.site.phases, f"circuits {circuit.id} phase")
        for bank in self.banks:
            need(bank.sheet, self.sheets.batteries, f"banks {bank.id} sheet")
            need(bank.unit, units, f"banks {bank.id} unit")
        owners = [bank.unit for bank in self.banks]
        if len(set(owners)) < len(owners):
            raise ValueError("banks: two banks on one unit; give one bank with all its modules")
        for face in self.faces:
            need(face.module, self.sheets.modules, f"faces {face.id} module")
            need(face.unit, units, f"faces {face.id} unit")
            trackers = [tracker.name for tracker in self.sheets.hybrids[units[face.unit].sheet].trackers]
            need(face.tracker, trackers, f"faces {face.id} tracker")

    def _check_limits(self) -> None:
        for bank in self.banks:
            sheet = self.sheets.batteries[bank.sheet]
            if not sheet.floor_soc <= self.limits.reserve_soc <= sheet.top_soc:
                raise ValueError(
                    f"limits reserve_soc: {self.limits.reserve_soc:g} lies outside the battery's "
                    f"{sheet.floor_soc:g} to {sheet.top_soc:g}"
                )

    def circuit(self, circuit_id: str) -> Circuit:
        return next(circuit for circuit in self.circuits if circuit.id == circuit_id)

    def with_role(self, *roles: Role) -> tuple[Circuit, ...]:
        return tuple(circuit for circuit in self.circuits if circuit.role in roles)

    def hybrid_of(self, unit: Unit) -> HybridSheet:
        return self.sheets.hybrids[unit.sheet]

    def bank_of(self, unit: Unit) -> Bank | None:
        return next((bank for bank in self.banks if bank.unit == unit.id), None)
