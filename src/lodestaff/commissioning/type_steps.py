"""Steps that read what was delivered: the type plate of each unit, battery and kind of module."""

from collections.abc import Iterator, Mapping
from typing import Any

from lodestaff.catalogue.families import sealed
from lodestaff.commissioning.rules import Named
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Job


def type_steps(job: Job) -> list[Step]:
    """What stood there before is no delivery: its type is known from the first visit."""
    return [*_units(job), *_banks(job), *_modules(job)]


def _units(job: Job) -> Iterator[Step]:
    for unit in job.units:
        if unit.existing:
            continue
        name = job.sheet_of(unit).name
        what = "one of its units, its type plate" if unit.count > 1 else "its type plate"
        paths = (f"units/{unit.id}/sheet",)
        yield _step(
            f"type-{unit.id}",
            f"{unit.name}: {what}.",
            name,
            paths,
            (unit.sheet, job.sheets.of_family(unit.sheet)),
        )


def _banks(job: Job) -> Iterator[Step]:
    for bank in job.banks:
        unit = job.unit(bank.unit)
        if unit.existing or sealed(job.sheet_of(unit)):
            continue  # the plate of its case is the unit's
        name = job.sheets.batteries[bank.sheet].name
        whose = f"Battery of {unit.name}" if len(job.banks) > 1 else "Battery"
        family = (bank.sheet, job.sheets.batteries)
        yield _step(
            f"type-{bank.id}",
            f"{whose}: the type plate of each module.",
            name,
            (f"banks/{bank.id}/sheet",),
            family,
        )


def _modules(job: Job) -> Iterator[Step]:
    there = {unit.id for unit in job.units if unit.existing}
    new = {string.id for string in job.strings if string.unit not in there}
    faces = [face for face in job.faces if any(module.string in new for module in face.modules)]
    for sheet in dict.fromkeys(face.module for face in faces):
        own = [face for face in faces if face.module == sheet]
        where = f" on {', '.join(face.name for face in own)}" if len(job.faces) > 1 else ""
        paths = tuple(f"faces/{face.id}/module" for face in own)
        name = job.sheets.modules[sheet].name
        yield _step(
            f"type-of-{sheet}",
            f"Modules{where}: the type plate at the back of one.",
            name,
            paths,
            (sheet, job.sheets.modules),
        )


def _step(
    id: str, text: str, name: str, paths: tuple[str, ...], family: tuple[str, Mapping[str, Any]]
) -> Step:
    own, sheets = family
    others = tuple((key, sheet.name) for key, sheet in sheets.items() if key != own)
    return Step(id, "dead tests", text, Named(name, paths, others), measure=Measure("type", subject=name))
