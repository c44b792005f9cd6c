"""The model of a job. Sources, batteries, boards and phases are lists; one of each is a list of one."""

from collections.abc import Iterable
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue import HybridSheet, Pack, Sheets
from lodestaff.catalogue.families import unit_sheet
from lodestaff.catalogue.frozen import Frozen
from lodestaff.catalogue.kinds import kind_named
from lodestaff.job.array import Cable, Containment, Face, ModuleString, Optimisers, PlacedModule, Surrounding
from lodestaff.job.array_fits import check_places
from lodestaff.job.circuit import Circuit, Role
from lodestaff.job.decisions import Bank, Limits, Tariff, Unit, Window, Wiring, Wishes
from lodestaff.job.found import Choice
from lodestaff.job.handed import Handed
from lodestaff.job.plan import (
    LEGS,
    Adjustment,
    Board,
    Contactor,
    Mains,
    Placed,
    Reordering,
    Sheeted,
    Throw,
    equipment_kind,
)
from lodestaff.job.plan_fits import check_plan
from lodestaff.job.site import Site
from lodestaff.job.types import Identifier
from lodestaff.job.visits import Visits
from lodestaff.job.walls import Arrangement, Course, Passage, Plan, Standing, Wall, check_walls
from lodestaff.quantities.convention import plain

__all__ = [
    "SCHEMA_VERSION",
    "Bank",
    "Circuit",
    "Job",
    "Limits",
    "Role",
    "Tariff",
    "Unit",
    "Window",
    "Wiring",
    "Wishes",
]

SCHEMA_VERSION = 5


def need(name: str, among: Iterable[str], where: str) -> None:
    """Raise ValueError where a name isn't among those that are there."""
    choices = list(among)
    if name not in choices:
        raise ValueError(f"{where}: {name!r} is not there; choose from {', '.join(map(repr, choices))}")


class Job(Frozen):
    """One job, from the first visit to the handover: the design part."""

    schema_version: Literal[5] = 5
    id: Identifier
    title: Annotated[str, Field(min_length=1, max_length=80)]
    pack: Pack
    site: Site
    circuits: tuple[Circuit, ...]
    faces: tuple[Face, ...]
    surroundings: Annotated[tuple[Surrounding, ...], Field(max_length=60)] = ()
    strings: tuple[ModuleString, ...] = ()
    units: Annotated[tuple[Unit, ...], Field(min_length=1)]
    banks: tuple[Bank, ...]
    mains: Mains = Mains()
    wiring: Wiring = Wiring()
    parts: tuple[Placed, ...] = ()
    adjustments: tuple[Adjustment, ...] = ()
    cables: tuple[Cable, ...] = ()
    containments: tuple[Containment, ...] = ()
    walls: Annotated[tuple[Wall, ...], Field(max_length=20)] = ()
    standing: Annotated[tuple[Standing, ...], Field(max_length=120)] = ()
    passages: Annotated[tuple[Passage, ...], Field(max_length=40)] = ()
    courses: Annotated[tuple[Course, ...], Field(max_length=80)] = ()
    arrangements: Annotated[tuple[Arrangement, ...], Field(max_length=8)] = ()
    reorderings: Annotated[tuple[Reordering, ...], Field(max_length=40)] = ()
    visits: Visits = Visits()
    handed: Handed = Handed()
    limits: Limits
    tariff: Tariff
    wishes: Wishes
    choices: tuple[Choice, ...] = ()
    sheets: Sheets

    @model_validator(mode="after")
    def _parts_fit_together(self) -> Self:
        named = {"circuits": self.circuits, "faces": self.faces, "strings": self.strings, "units": self.units,
                 "surroundings": self.surroundings, "banks": self.banks, "cables": self.cables,
                 "containments": self.containments,
                 "walls": self.walls, "passages": self.passages, "arrangements": self.arrangements,
                 "parts": self.parts, "adjustments": self.adjustments, "choices": self.choices,
                 "site found": self.site.found, "site permits": self.site.permits,
                 "site interim": self.site.interim}  # fmt: skip
        for kind, parts in named.items():
            ids = [part.id for part in parts]  # type: ignore[attr-defined]
            twice = sorted({name for name in ids if ids.count(name) > 1})
            if twice:
                raise ValueError(f"{kind}: the id {twice[0]!r} stands twice; ids must differ")
        self._check_references()
        self._check_sheets()
        self._check_limits()
        check_plan(self.units, self.banks, self.circuits, self.parts)
        check_walls(Plan(self.walls, self.standing, self.passages, self.courses, self.arrangements))
        return self

    def _check_sheets(self) -> None:
        sheets = self.sheets
        for cable in self.cables:
            need(cable.sheet, ("", *sheets.cables), f"cables {cable.id} sheet")
            need(cable.device_sheet, ("", *sheets.devices), f"cables {cable.id} device_sheet")
        for circuit in self.circuits:
            need(circuit.sheet, ("", *sheets.chargers), f"circuits {circuit.id} sheet")
        for part in (*self.parts, *self.adjustments):
            if isinstance(part, Sheeted) and part.sheet:
                kind = equipment_kind(part)
                of = getattr(sheets, kind_named(kind).in_jobs) if kind else ()
                need(part.sheet, ("", *of), f"{part.id} sheet")

    def _check_references(self) -> None:
        phases, legs = self.site.phases, LEGS[self.mains.system]
        if len(phases) != legs:
            raise ValueError(
                f"mains system: {self.mains.system} has {legs} phases or legs, and site phases names "
                f"{', '.join(phases)}; change both together"
            )
        units = {unit.id: unit for unit in self.units}
        boards = ["", *(part.id for part in self.parts if isinstance(part, Board | Contactor))]
        boards += [adjustment.id for adjustment in self.adjustments if adjustment.kind == "board"]
        for unit in self.units:
            need(unit.sheet, self.sheets.units(), f"units {unit.id} sheet")
            for leg in unit.legs:
                need(leg, self.site.phases, f"units {unit.id} phase")
        for circuit in self.circuits:
            for leg in circuit.legs:
                need(leg, self.site.phases, f"circuits {circuit.id} phase")
            for field in ("board", "neutral_board", "also_on"):
                need(getattr(circuit, field), boards, f"circuits {circuit.id} {field}")
        for bank in self.banks:
            need(bank.sheet, self.sheets.batteries, f"banks {bank.id} sheet")
            need(bank.unit, units, f"banks {bank.id} unit")
        owners = [bank.unit for bank in self.banks]
        if len(set(owners)) < len(owners):
            raise ValueError("banks: two banks on one unit; give one bank with all its modules")
        for string in self.strings:
            need(string.unit, units, f"strings {string.id} unit")
            trackers = [tracker.name for tracker in self.sheet_of(units[string.unit]).trackers]
            need(string.tracker, trackers, f"strings {string.id} tracker")
            need(string.optimiser, ["", *self.sheets.optimisers], f"strings {string.id} optimiser")
        rows = [(f"cables {cable.id} table", cable.table, self.pack.methods) for cable in self.cables]
        sizes = tuple(self.pack.containment_sizes)
        rows += [
            (f"containments {containment.id} size", containment.size, sizes)
            for containment in self.containments
        ]
        for where, name, choices in rows:
            need(name, choices, where)
        strings = ["", *(string.id for string in self.strings)]
        for face in self.faces:
            need(face.module, self.sheets.modules, f"faces {face.id} module")
            need(face.mounting_sheet, ["", *self.sheets.mountings], f"faces {face.id} mounting_sheet")
            for module in face.modules:
                need(module.string, strings, f"faces {face.id} modules {module.id} string")
            check_places(face, self.sheets.modules[face.module])

    def _check_limits(self) -> None:
        for bank in self.banks:
            sheet = self.sheets.batteries[bank.sheet]
            if not sheet.floor_soc <= self.limits.reserve_soc <= sheet.top_soc:
                raise ValueError(
                    f"limits reserve_soc: {plain(self.limits.reserve_soc)} lies outside the battery's "
                    f"{plain(sheet.floor_soc)} to {plain(sheet.top_soc)}"
                )

    def circuit(self, circuit_id: str) -> Circuit:
        return next(circuit for circuit in self.circuits if circuit.id == circuit_id)

    @property
    def time_zone(self) -> str:
        """The zone by which household clocks go: the site's, else the pack's usual one; '' where clocks
        don't change."""
        return self.site.time_zone.value or self.pack.zone_at(self.site.utc_offset_h) or ""

    def unit(self, unit_id: str) -> Unit:
        return next(unit for unit in self.units if unit.id == unit_id)

    def modules_in(self, string: str) -> tuple[tuple[Face, int], ...]:
        """The faces that a string has modules on, with how many."""
        return tuple((face, count) for face in self.faces if (count := face.count_of(string)))

    def placed_in(self, string: str) -> tuple[tuple[Face, PlacedModule], ...]:
        """Each module of a string, with its face."""
        return tuple(
            (face, module) for face in self.faces for module in face.modules if module.string == string
        )

    def optimisers_on(self, string: ModuleString) -> Optimisers:
        """Whether a string's modules have optimisers: as each module says, else as was said of the whole."""
        if string.optimisers == "all":
            return "all"
        has = [module.optimiser for _, module in self.placed_in(string.id)]
        if has and all(has):
            return "all"
        return "some" if any(has) else string.optimisers

    def strings_on(self, unit: str, tracker: str) -> tuple[ModuleString, ...]:
        return tuple(string for string in self.strings if string.unit == unit and string.tracker == tracker)

    def with_role(self, *roles: Role) -> tuple[Circuit, ...]:
        return tuple(circuit for circuit in self.circuits if circuit.role in roles)

    def sheet_of(self, unit: Unit) -> HybridSheet:
        """A unit's sheet as the program reckons with it, of whatever family it is."""
        return unit_sheet(self.sheets.units()[unit.sheet], unit.count)

    def told_charge_kw(self, bank: Bank) -> float:
        """What a battery may charge with: its own setting, else that of all."""
        return self.limits.charge_kw if bank.charge_kw is None else bank.charge_kw

    def told_discharge_kw(self, bank: Bank) -> float:
        """What a battery may give: its own setting, else that of all."""
        return self.limits.discharge_kw if bank.discharge_kw is None else bank.discharge_kw

    def bank_of(self, unit: Unit) -> Bank | None:
        return next((bank for bank in self.banks if bank.unit == unit.id), None)

    @property
    def has_bypass(self) -> bool:
        """Whether a bypass stands anywhere."""
        if any(adjustment.kind == "bypass" for adjustment in self.adjustments):
            return True
        return (
            any(isinstance(p, Throw) and p.use == "bypass" for p in self.parts)
            if self.parts
            else self.wiring.bypass
        )

    @property
    def has_electrode(self) -> bool:
        """Whether the installation has an earth electrode of its own."""
        return any(part.kind == "electrode" for part in self.parts) if self.parts else self.wiring.electrode
