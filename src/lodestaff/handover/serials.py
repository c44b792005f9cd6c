"""Serial numbers: what wants one, and what the journal holds."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from lodestaff.catalogue.families import sealed
from lodestaff.job import Job
from lodestaff.job.journal import Entry, standing
from lodestaff.quantities.convention import plain


@dataclass(frozen=True)
class Wanted:
    """Something with a serial number: its id, name, and place."""

    id: str
    name: str
    place: str


def wanted_serials(job: Job) -> tuple[Wanted, ...]:
    """Units, battery modules, and every solar module by its place on its face, with the unit or optimiser
    behind it."""
    everywhere = {string.id for string in job.strings if job.optimisers_on(string) == "all"}
    behind = {unit.id: unit for unit in job.units if job.sheet_of(unit).module_level}
    entries = [
        Wanted(unit.id, unit.name, job.sheet_of(unit).name) for unit in job.units if unit.id not in behind
    ]
    for bank in job.banks:
        sheet = job.sheets.batteries[bank.sheet].name
        unit = job.unit(bank.unit)
        if sealed(job.sheet_of(unit)):
            continue  # its case has one number
        whose = f" of {unit.name}" if len(job.banks) > 1 else ""
        entries += [
            Wanted(f"{bank.id}/{n}", f"Battery module {n}{whose}", sheet) for n in range(1, bank.modules + 1)
        ]
    for face in job.faces:
        strings = {string.id: string.name for string in job.strings}
        owners = {string.id: string.unit for string in job.strings}
        for module in face.modules:
            where = f"{face.name}, {plain(module.x_m, 1)} m along, {plain(module.y_m, 1)} m up"
            branch = behind.get(owners.get(module.string, ""))
            group = branch.name if branch is not None else f"string {strings.get(module.string, 'none')}"
            entries.append(Wanted(f"{face.id}/{module.id}", f"{face.name} {module.id}, {group}", where))
            if branch is not None:
                name = f"{branch.name}, unit behind {face.name} {module.id}"
                entries.append(Wanted(f"{branch.id}/{face.id}/{module.id}", name, where))
            elif module.optimiser or module.string in everywhere:
                name = f"Optimiser behind {face.name} {module.id}, {group}"
                entries.append(Wanted(f"{module.string}/{face.id}/{module.id}", name, where))
    return tuple(entries)


def serial_data(part: str, serial: str) -> dict[str, Any]:
    """What a serial's journal line holds."""
    return {"part": part, "serial": serial}


def serials(entries: Sequence[Entry]) -> dict[str, str]:
    """Of each part the last serial that was not withdrawn."""
    numbers = {}
    for _, entry in standing(entries, "serial"):
        data = entry.data or {}
        numbers[str(data.get("part", ""))] = str(data.get("serial", ""))
    return {part: serial for part, serial in numbers.items() if part and serial}
