"""What each task takes along: parts with the rating that must stand on their label."""

import re
from dataclasses import replace

from lodestaff.catalogue.families import sealed
from lodestaff.job import Job
from lodestaff.job.plan import Transformer
from lodestaff.places import bodies
from lodestaff.places.supports import supports
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology, normalised
from lodestaff.visits import names
from lodestaff.visits.news import new_parts
from lodestaff.visits.task import Item, Task

KIND_WORDS = {"rcd": "residual-current device"}


def with_items(job: Job, topology: Topology, tasks: tuple[Task, ...]) -> tuple[Task, ...]:
    """The tasks with their parts; what is there already isn't taken along."""
    bought: dict[str, list[Item]] = {}
    for task, item in (
        *_sheets(job),
        *_cables(job, topology),
        *_devices(job, topology),
        *_supports(job, topology),
    ):
        bought.setdefault(task, []).append(item)
    there = [task.id for task in tasks]
    strays = [item for task, items in bought.items() if task not in there for item in items]
    if strays and there:  # parts of tasks that others do: with the first thing that is done
        bought.setdefault(there[0], []).extend(strays)
    return tuple(replace(task, items=tuple(bought.get(task.id, ()))) for task in tasks)


def _sheets(job: Job) -> list[tuple[str, Item]]:
    rows: list[tuple[str, Item]] = []
    old = {string.id for string in job.strings if job.unit(string.unit).existing}
    for face in job.faces:
        count = sum(other.string not in old for other in face.modules)
        if count:
            sheet = job.sheets.modules[face.module]
            item = Item(face.module, sheet.name, count, rated=sheet.pmp_w, rated_in="W")
            rows.append((names.modules_on(face.id), item))
    for unit in (unit for unit in job.units if not unit.existing):
        reckoned, name = job.sheet_of(unit), job.sheets.units()[unit.sheet].name
        each = reckoned.rated_kva / unit.count
        item = Item(unit.sheet, name, unit.count, rated=round(each, 3), rated_in="kVA")
        where = names.unit_stands(unit.id)
        if reckoned.module_level:
            faces = [face.id for string in job.strings if string.unit == unit.id
                     for face, _ in job.modules_in(string.id)]  # fmt: skip
            where = names.modules_on(faces[0]) if faces else where
        rows.append((where, item))
    for bank in job.banks:
        unit = job.unit(bank.unit)
        if not unit.existing:  # sealed cells come in their case
            if sealed(job.sheet_of(unit)):
                continue
            battery = job.sheets.batteries[bank.sheet]
            item = Item(bank.sheet, battery.name, bank.modules, rated=battery.module_kwh, rated_in="kWh")
            rows.append((names.battery_stands(bank.id), item))
    for string in (other for other in job.strings if other.optimiser and other.id not in old):
        count = sum(
            job.optimisers_on(string) == "all" or module.optimiser for _, module in job.placed_in(string.id)
        )
        faces = [face.id for face, _ in job.modules_in(string.id)]
        if count and faces:
            sheet_name = job.sheets.optimisers[string.optimiser].name
            rows.append((names.modules_on(faces[0]), Item(string.optimiser, sheet_name, count)))
    return rows


def _cables(job: Job, topology: Topology) -> list[tuple[str, Item]]:
    """Metres of run by table and size, those from the roof apart."""
    metres: dict[tuple[str, str, float], float] = {}
    for cable in (cable for cable in job.cables if not cable.existing):
        run = topology.runs.get(cable.id)
        task = names.runs_of(run.of) if run is not None and run.kind == "array" else names.CABLES
        key = (task, cable.table, cable.size_mm2)
        metres[key] = metres.get(key, 0.0) + cable.length_m
    return [(task, _cable(job, table, size, length)) for (task, table, size), length in metres.items()]


def _cable(job: Job, table: str, size: float, length: float) -> Item:
    words = f"Cable {table}, {job.pack.size_words(size)}"
    return Item(slug(f"cable {table} {plain(size)}"), words, round(length, 2), "m of run")


def _devices(job: Job, topology: Topology) -> list[tuple[str, Item]]:
    rated = {cable.id: cable.device_a for cable in job.cables}
    rows: list[tuple[str, Item]] = []
    counted: dict[tuple[str, str], tuple[Item, float]] = {}

    def count(task: str, words: str, rated_a: float | None) -> None:
        rating = f", {plain(rated_a)} A" if rated_a else ""
        item = Item(slug(words + rating), words + rating, 0, rated=rated_a, rated_in="A" if rated_a else "")
        counted[task, item.key] = (item, counted.get((task, item.key), (item, 0.0))[1] + 1)

    for part in new_parts(job, topology):
        words = KIND_WORDS.get(part.kind, part.kind)
        if part.kind in ("unit", "battery", "array"):
            continue
        if part.kind == "board":
            rows.append((names.board_stands(part.id), Item(slug(part.name), part.name, 1)))
        elif part.kind == "generator":
            rows.append((names.generator_stands(part.id), Item(slug(part.name), part.name, 1)))
        elif part.kind == "electrode":
            count(names.ELECTRODES, "Earth electrode", None)
        else:
            amps = part.rated_a if part.rated_a is not None else rated.get(part.id)
            count(names.DEVICES, words[:1].upper() + words[1:], amps)
    for _ in (transformer for transformer in normalised(job).parts if isinstance(transformer, Transformer)):
        count(names.DEVICES, "Current transformer", None)
    rows += [(task, replace(item, count=many)) for (task, _), (item, many) in counted.items()]
    return rows


def _supports(job: Job, topology: Topology) -> list[tuple[str, Item]]:
    """Boards, tie-backs and posts of the places."""
    all_supports = supports(job, bodies(job, topology))
    return [
        (names.SUPPORTS, Item(slug(f"{part.item} {part.part}"), part.words, part.count, part.unit))
        for part in all_supports
    ]


def slug(words: str) -> str:
    """Words as a key that a person can type."""
    return re.sub(r"[^a-z0-9.]+", "-", words.lower()).strip("-.") or "item"
