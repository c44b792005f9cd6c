"""The model of a job. Sources, batteries, boards and phases are lists; one of each is a list of one."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue import HybridSheet, Pack, Sheets
from lodestaff.catalogue.families import unit_sheet
from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.array import Cable, Face, ModuleString
from lodestaff.job.circuit import Circuit, Role
from lodestaff.job.decisions import Bank, Limits, Tariff, Unit, Window, Wiring, Wishes
from lodestaff.job.found import Choice
from lodestaff.job.plan import Adjustment, Board, Contactor, Mains, Placed, Throw
from lodestaff.job.plan_fits import check_plan
from lodestaff.job.site import Site
from lodestaff.job.types import Identifier
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


class Job(Frozen):
    """One job, from the first visit to the handover: the design part."""

    schema_version: Literal[5] = 5
    id: Identifier
    title: Annotated[str, Field(min_length=1, max_length=80)]
    pack: Pack
    site: Site
    circuits: tuple[Circuit, ...]
    faces: tuple[Face, ...]
    strings: tuple[ModuleString, ...] = ()
    units: Annotated[tuple[Unit, ...], Field(min_length=1)]
    banks: tuple[Bank, ...]
    mains: Mains = Mains()
    wiring: Wiring = Wiring()
    parts: tuple[Placed, ...] = ()
    adjustments: tuple[Adjustment, ...] = ()
    cables: tuple[Cable, ...] = ()
    limits: Limits
    tariff: Tariff
    wishes: Wishes
    choices: tuple[Choice, ...] = ()
    sheets: Sheets

    @model_validator(mode="after")
    def _parts_fit_together(self) -> Self:
        named = {"circuits": self.circuits, "faces": self.faces, "strings": self.strings, "units": self.units,
                 "banks": self.banks, "cables": self.cables, "parts": self.parts,
                 "adjustments": self.adjustments, "choices": self.choices, "site found": self.site.found,
                 "site permits": self.site.permits, "site interim": self.site.interim}  # fmt: skip
        for kind, parts in named.items():
            ids = [part.id for part in parts]  # type: ignore[attr-defined]
            twice = sorted({name for name in ids if ids.count(name) > 1})
            if twice:
                raise ValueError(f"{kind}: the id {twice[0]!r} stands twice; ids must differ")
        self._check_references()
        self._check_limits()
        check_plan(self.units, self.banks, self.circuits, self.parts)
        return self

    def _check_references(self) -> None:
        def need(name: str, among: object, where: str) -> None:
            choices = list(among)  # type: ignore[call-overload]
            if name not in choices:
                raise ValueError(
                    f"{where}: {name!r} is not there; choose from {', '.join(map(repr, choices))}"
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
                    f"faces {face.id} modules {name}: reaches beyond the face of {plain(face.width_m)} x "
                    f"{plain(face.height_m)} m"
                )
        others = boxes + [
            (obstacle.name, obstacle.x_m, obstacle.y_m, obstacle.w_m, obstacle.h_m)
            for obstacle in face.obstacles
        ]
        for index, (name, x, y, *_) in enumerate(boxes):
            for other, ox, oy, ow, oh in others[index + 1 :]:
                if x < ox + ow - 1e-6 and ox < x + w - 1e-6 and y < oy + oh - 1e-6 and oy < y + h - 1e-6:
                    raise ValueError(f"faces {face.id} modules {name}: lies on {other}; move one of them")

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

    def strings_on(self, unit: str, tracker: str) -> tuple[ModuleString, ...]:
        return tuple(string for string in self.strings if string.unit == unit and string.tracker == tracker)

    def with_role(self, *roles: Role) -> tuple[Circuit, ...]:
        return tuple(circuit for circuit in self.circuits if circuit.role in roles)

    def sheet_of(self, unit: Unit) -> HybridSheet:
        """A unit's sheet as the program reckons with it, of whatever family it is."""
        return unit_sheet(self.sheets.units()[unit.sheet], unit.count)

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
