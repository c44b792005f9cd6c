"""The pages of the pack, in the order in which they are handed over."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from lodestaff.commissioning.record import proof_of
from lodestaff.handover.built_page import built_page
from lodestaff.handover.design_pages import diagram_page, split_page, summary_page
from lodestaff.handover.finding_pages import cautions_page, findings_page
from lodestaff.handover.model import PART_NAMES, Page, Table
from lodestaff.handover.other_parts import firm_pages, operator_page
from lodestaff.handover.owner_pages import owner_pages
from lodestaff.handover.place_pages import place_page
from lodestaff.handover.record_pages import found_page, permission_page, registered_page
from lodestaff.handover.schedule_pages import schedules_page, wiring_page
from lodestaff.handover.site_pages import (
    isolation_page,
    labels_page,
    results_page,
    serials_page,
    settings_page,
    signatures_page,
)
from lodestaff.job import Job
from lodestaff.job.handed import PackPart
from lodestaff.job.journal import Entry
from lodestaff.reckoning import Reckoner
from lodestaff.register import Register
from lodestaff.shelf.prices import PriceBook


@dataclass(frozen=True)
class HandoverInput:
    """What the pack is made of: the job, its journal, the firm's register, the day it is printed."""

    job: Job
    entries: Sequence[Entry]
    register: Register
    printed: date
    prices: PriceBook | None = None
    parts: tuple[PackPart, ...] = ()  # () for those that the job has chosen
    workings: bool = False  # every finding with its formula and source


def pages(reckoner: Reckoner, given: HandoverInput) -> tuple[Page, ...]:
    """The pages of the chosen parts. Raises JobError where the job can't be computed."""
    job = given.job
    chosen = given.parts or job.handed.parts
    made: list[Page] = []
    if "owner" in chosen:
        made += owner_pages(reckoner, job, given.register)
    if "technical" in chosen:
        made += technical_pages(reckoner, given)
    if "operator" in chosen and job.mains.grid:
        made.append(operator_page(job, given.register))
    if "firm" in chosen:
        made += firm_pages(reckoner, job, given.entries, given.prices)
    return with_gathered(tuple(made))


def with_gathered(made: tuple[Page, ...]) -> tuple[Page, ...]:
    """The pages with one that gathers what is missing on all: at the end of the technical record, else of
    all."""
    rows = tuple((PART_NAMES[page.part], page.title, gap) for page in made for gap in page.missing)
    if not rows:
        return made
    last = max((n for n, page in enumerate(made) if page.part == "technical"), default=len(made) - 1)
    table = Table(("Part", "Page", "What is missing"), rows, (18, 24, 58), name="Missing")
    gathered = Page("missing", "Still missing", (table,), part=made[last].part)
    return (*made[: last + 1], gathered, *made[last + 1 :])


def technical_pages(reckoner: Reckoner, given: HandoverInput) -> tuple[Page, ...]:
    """The record by which the next person works."""
    job, entries, register = given.job, given.entries, given.register
    topology = reckoner.wiring(job).topology
    proof = proof_of(job, topology, entries)
    return (
        summary_page(reckoner, job, proof, register, given.printed),
        *((permission_page(reckoner, job),) if job.mains.grid else ()),
        found_page(job, entries),
        split_page(reckoner, job),
        diagram_page(reckoner, job),
        schedules_page(reckoner, job),
        wiring_page(reckoner, job),
        *((place_page(reckoner, job),) if job.walls else ()),
        *((built_page(reckoner, job),) if job.handed.plan else ()),
        *((registered_page(job),) if job.handed.registered else ()),
        settings_page(job, topology, proof),
        results_page(proof),
        isolation_page(job, topology),
        labels_page(reckoner, job),
        serials_page(job, entries),
        findings_page(reckoner, job, proof, given.workings),
        cautions_page(job, topology),
        signatures_page(job, proof, register),
    )
