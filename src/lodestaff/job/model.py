"""The model of a job. Sources, batteries, boards and phases are lists; one of each is a list of one."""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue import HybridSheet, Pack, Sheets
from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.array import Cable, Face, ModuleString
from lodestaff.job.facts import Fact
from lodestaff.job.site import Site
from lodestaff.job.types import HOURS, MONTHS, DayWeights, Hour, Identifier, MonthWeights, NotNegative, Positive, Share

SCHEMA_VERSION = 3


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

    schema_version: Literal[3] = 3
    id: Identifier
    title: Annotated[str, Field(min_length=1, max_length=80)]
    pack: Pack
    site: Site
    circuits: tuple[Circuit, ...]
    faces: tuple[Face, ...]
    strings: tuple[ModuleString, ...] = ()
    units: Annotated[tuple[Unit, ...], Field(min_length=1)]
    banks: tuple[Bank, ...]
    wiring: Wiring = Wiring()
    cables: tuple[Cable, ...] = ()
    limits: Limits
    tariff: Tariff
    wishes: Wishes
    sheets: Sheets

    @model_validator(mode="after")
    def _parts_fit_together(self) -> Self:
        named = {"circuits": self.circuits, "faces": self.faces, "strings": self.strings, "units": self.units,
                 "banks": self.banks, "cables": self.cables}  # fmt: skip
        for kind, parts in named.items():
            ids = [part.id for part in parts]  # type: ignore[attr-defined]
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
        for string in self.strings:
            need(string.unit, units, f"strings {string.id} unit")
            trackers = [tracker.name for tracker in self.sheets.hybrids[units[string.unit].sheet].trackers]
            need(string.tracker, trackers, f"strings {string.id} tracker")
        for cable in self.cables:
            need(cable.table, self.pack.methods, f"cables {cable.id} table")
        strings = ["", *(string.id for string in self.strings)]
        for face in self.faces:
            need(face.module, self.sheets.modules, f"faces {face.id} module")
            for module in face.modules:
                need(module.string, strings, f"faces {face.id} modules {module.id} string")
            self._check_places(face)

    def _check_places(self, face: Face) -> None:
        """Modules lie on their face and not on each other or on an obstacle."""
        sheet = self.sheets.modules[face.module]
        w, h = (sheet.width_m, sheet.length_m) if face.portrait else (sheet.length_m, sheet.width_m)
        boxes = [(module.id, module.x_m, module.y_m, w, h) for module in face.modules]
        for name, x, y, *_ in boxes:
            if x + w > face.width_m + 1e-6 or y + h > face.height_m + 1e-6:
                raise ValueError(
                    f"faces {face.id} modules {name}: reaches beyond the face of {face.width_m:g} x {face.height_m:g} m"
                )
        others = boxes + [(one.name, one.x_m, one.y_m, one.w_m, one.h_m) for one in face.obstacles]
        for index, (name, x, y, *_) in enumerate(boxes):
            for other, ox, oy, ow, oh in others[index + 1 :]:
                if x < ox + ow - 1e-6 and ox < x + w - 1e-6 and y < oy + oh - 1e-6 and oy < y + h - 1e-6:
                    raise ValueError(f"faces {face.id} modules {name}: lies on {other}; move one of them")

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

    def modules_in(self, string: str) -> tuple[tuple[Face, int], ...]:
        """The faces that a string has modules on, with how many."""
        return tuple((face, count) for face in self.faces if (count := face.count_of(string)))

    def strings_on(self, unit: str, tracker: str) -> tuple[ModuleString, ...]:
        return tuple(string for string in self.strings if string.unit == unit and string.tracker == tracker)

    def with_role(self, *roles: Role) -> tuple[Circuit, ...]:
        return tuple(circuit for circuit in self.circuits if circuit.role in roles)

    def hybrid_of(self, unit: Unit) -> HybridSheet:
        return self.sheets.hybrids[unit.sheet]

    def bank_of(self, unit: Unit) -> Bank | None:
        return next((bank for bank in self.banks if bank.unit == unit.id), None)
