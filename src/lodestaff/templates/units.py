"""Which units and batteries the choices ask for."""

from dataclasses import dataclass
from typing import Any

from lodestaff.catalogue import HybridSheet, unit_sheet
from lodestaff.catalogue.kinds import checked, kind_named
from lodestaff.quantities.errors import JobError
from lodestaff.shelf.model import starter
from lodestaff.templates.wanted import Wanted

MICRO = "micro-400"


@dataclass(frozen=True)
class Part:
    """A unit of the job, and what it is for: `backs` a house in an outage, makes `sun` only, or stores
    only."""

    fields: dict[str, Any]
    does: str

    @property
    def id(self) -> str:
        return str(self.fields["id"])


@dataclass(frozen=True)
class Chosen:
    units: tuple[Part, ...]
    banks: tuple[dict[str, Any], ...]
    module: str

    def doing(self, *what: str) -> tuple[Part, ...]:
        return tuple(unit for unit in self.units if unit.does in what)


def sheet_named(name: str, count: int = 1) -> HybridSheet:
    """A unit's sheet from the starter set. Raises JobError where there is none."""
    for entry in starter().entries:
        if entry.id == name:
            return unit_sheet(checked(kind_named(entry.kind), dict(entry.values), entry.id), count)
    raise JobError(f"no sheet {name!r} in the starter set", "new job", "choose one of the shelf's units")


def chosen_units(wanted: Wanted) -> Chosen:
    """Units with their sheets, phases and groups; banks by unit, the last number of modules for all further
    ones."""
    module = wanted.module_sheet or "module-440"
    across = "+".join(wanted.phases) if wanted.across else wanted.phases[0]
    units: list[Part] = []
    if wanted.family == "hybrid":
        one_leg = wanted.begins.hybrid  # who opens the neutral goes by the pack
        if wanted.units > 1 and wanted.arrangement == "together" and wanted.grid:
            one_leg = wanted.begins.hybrids_together
        three = "hybrid-10-three" if wanted.begins.opens_neutral else "hybrid-10-three-through"
        wide = "hybrid-9-split" if wanted.split else three
        sheet = wanted.unit_sheet or (wide if wanted.across else one_leg)
        units += _several(wanted, "hybrid", "Hybrid", sheet, across)
        if wanted.existing == "string inverter":
            units.append(_existing(across))
    else:
        units += _makers_of_sun(wanted, across)
        solar = wanted.family == "battery units with solar inputs"
        sheet = wanted.unit_sheet or ("battery-unit-sun" if solar else "battery-unit-5")
        units += _several(wanted, "battery-unit", "Battery unit", sheet, across)
    banks = []
    modules = wanted.battery_modules or (1,)
    stores = [unit for unit in units if unit.does == "backs"]
    for number, unit in enumerate(stores):
        count = modules[min(number, len(modules) - 1)]
        if count:
            id = "battery" if len(stores) == 1 else f"battery-{number + 1}"
            banks.append(
                {"id": id, "unit": unit.id, "sheet": wanted.battery_sheet or "battery-48", "modules": count}
            )
    return Chosen(tuple(units), tuple(banks), module)


def _several(wanted: Wanted, id: str, name: str, sheet: str, across: str) -> list[Part]:
    parts = []
    for number in range(wanted.units):
        phase = wanted.phases[number] if wanted.arrangement == "one on each phase" else across
        many = wanted.units > 1
        fields: dict[str, Any] = {"id": f"{id}-{number + 1}" if many else id,
                                  "name": f"{name} {number + 1}" if many else name, "sheet": sheet,
                                  "phase": phase}  # fmt: skip
        if many and wanted.arrangement == "together" and wanted.family == "hybrid":
            fields["group"] = "pair"
            fields["bond"] = "none"  # one bond for all of them, at the gateway or in the board
        parts.append(Part(fields, "backs"))
    return parts


def _makers_of_sun(wanted: Wanted, across: str) -> list[Part]:
    """Inverters beside a battery unit: a string inverter, branches of microinverters, what is there
    already."""
    parts: list[Part] = []
    numbers = sorted({unit for roof in wanted.roofs for unit, _, _ in roof.strings})
    if wanted.family == "string inverter and battery unit":
        parts.append(
            Part({"id": "inverter", "name": "String inverter", "sheet": "inverter-6", "phase": across}, "sun")
        )
    if wanted.family == "microinverters and battery unit":
        for number in numbers or [0]:
            count = sum(n for roof in wanted.roofs for unit, _, n in roof.strings if unit == number)
            fields = {"id": f"branch-{number + 1}", "name": f"Branch {number + 1}", "sheet": MICRO,
                      "phase": across,
                      "count": max(1, count)}  # fmt: skip
            parts.append(Part(fields, "sun"))
    if wanted.family == "existing array and battery unit":
        parts.append(_existing(across))
        if 1 in numbers:
            more = {"id": "inverter", "name": "String inverter", "sheet": "inverter-5", "phase": across}
            parts.append(Part(more, "sun"))
    elif wanted.existing == "string inverter":
        parts.append(_existing(across))
    return parts


def _existing(across: str) -> Part:
    fields = {
        "id": "existing",
        "name": "Existing inverter",
        "sheet": "inverter-2",
        "phase": across,
        "existing": True,
    }
    return Part(fields, "sun")
