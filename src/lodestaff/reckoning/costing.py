"""What a whole design costs: sheets and cables, devices, and what carries its parts on their walls."""

from lodestaff.job import Job
from lodestaff.job.holders import sheet_names
from lodestaff.places import bodies
from lodestaff.places.supports import supports
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.schedules import (
    Cell,
    Head,
    Schedule,
    board_schedule,
    bought,
    cable_schedule,
    containment_schedule,
    device_rows,
    device_schedule,
    gland_schedule,
    label_schedule,
    link_schedule,
    shutdown_schedule,
    termination_schedule,
)
from lodestaff.reckoning.single_cores import single_core_schedule
from lodestaff.shelf.prices import Bought, Cost, PriceBook, cost
from lodestaff.visits.items import slug


def design_cost(reckoner: Reckoner, job: Job, book: PriceBook) -> Cost:
    """All lines of a design; boards, tie-backs and posts are those that its places ask for."""
    held = supports(job, bodies(job, reckoner.wiring(job).topology))
    rows = [(support.item, support.words, support.count, support.unit) for support in held]
    return cost(job, book, [*_devices(reckoner, job), *rows])


def _devices(reckoner: Reckoner, job: Job) -> list[Bought]:
    """Devices and transformers to be bought, counted by what they are; price lists name them by these
    words."""
    topology, counted = reckoner.wiring(job).topology, dict[tuple[str, str], int]()
    names = sheet_names(job)

    def count(item: str, words: str) -> None:
        counted[item, words] = counted.get((item, words), 0) + 1

    for row in bought(topology, device_rows(reckoner, job)):
        if isinstance(row[-1], str):
            count(row[-1], names[row[-1]])
            continue
        rating = f", {row[5] or ''}{plain(row[4])} A" if isinstance(row[4], float) else ""
        poles = f", {plain(row[6])} poles" if isinstance(row[6], float) else ""
        words = f"{str(row[1])[:1].upper()}{str(row[1])[1:]}{rating}{poles}"
        count(slug(words), words)
    for ct in (part for part in job.parts if part.kind == "ct"):
        count(ct.sheet or slug(ct.name), names.get(ct.sheet, ct.name))
    for circuit in job.circuits:
        if circuit.sheet and circuit.added:
            count(circuit.sheet, names[circuit.sheet])
    return [(item, words, float(count), "pieces") for (item, words), count in counted.items()]


def part_schedule(reckoner: Reckoner, job: Job, book: PriceBook | None = None) -> Schedule:
    """What is bought; what has no price is open."""
    costs = design_cost(reckoner, job, book or PriceBook())
    money = costs.currency if book is not None else job.tariff.currency
    rows: list[tuple[Cell, ...]] = [
        (
            line.words,
            line.count,
            "m of run" if line.unit == "m" else line.unit,
            line.each,
            line.total,
            line.supplier or None,
        )
        for line in costs.lines
        if line.unit
    ]
    heads = (
        Head("Part", share=40), Head("Count", share=10), Head("Unit", share=10), Head("Each", money, 13),
        Head("Together", money, 14), Head("Supplier", share=13),
    )  # fmt: skip
    return Schedule("parts", "Parts", heads, tuple(rows))


def all_schedules(reckoner: Reckoner, job: Job, book: PriceBook | None = None) -> tuple[Schedule, ...]:
    """Every schedule of a job. Without a price book prices stay open."""
    return (
        cable_schedule(reckoner, job),
        single_core_schedule(reckoner, job),
        device_schedule(reckoner, job),
        board_schedule(reckoner, job),
        termination_schedule(reckoner, job),
        link_schedule(reckoner, job),
        label_schedule(reckoner, job),
        containment_schedule(reckoner, job),
        gland_schedule(reckoner, job),
        shutdown_schedule(reckoner, job),
        part_schedule(reckoner, job, book),
    )
