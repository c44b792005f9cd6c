"""The pages of the pack, in the order in which they are handed over."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from lodestaff.commissioning.record import proof_of
from lodestaff.handover.design_pages import diagram_page, split_page, summary_page
from lodestaff.handover.finding_pages import cautions_page, findings_page
from lodestaff.handover.model import Page
from lodestaff.handover.place_pages import place_page
from lodestaff.handover.record_pages import found_page, permission_page
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
from lodestaff.job.journal import Entry
from lodestaff.reckoning import Reckoner
from lodestaff.register import Register


@dataclass(frozen=True)
class HandoverInput:
    """What the pack is made of: the job, its journal, the firm's register, the day it is printed."""

    job: Job
    entries: Sequence[Entry]
    register: Register
    printed: date


def pages(reckoner: Reckoner, given: HandoverInput) -> tuple[Page, ...]:
    """All pages. Raises JobError where the job can't be computed or the journal is damaged."""
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
        settings_page(job, topology, proof),
        results_page(proof),
        isolation_page(job, topology),
        labels_page(reckoner, job),
        serials_page(job, entries),
        findings_page(reckoner, job, proof),
        cautions_page(job, topology),
        signatures_page(job, proof, register),
    )
