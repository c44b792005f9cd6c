"""The whole procedure gone through at the simulated site, as a person would: until it is done, or a step
fails."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.record import Proof, as_data, proof_of, words_of
from lodestaff.electrical.permission import held_back
from lodestaff.job import Change, Job, edit
from lodestaff.job.journal import Entry
from lodestaff.link.server import HOST, PlantServer
from lodestaff.measuring.over_link import link_to
from lodestaff.measuring.simulated import SimulatedVisit
from lodestaff.plant import Plant, PlantStart


@dataclass(frozen=True)
class Rehearsal:
    """How it ended: the proof, and the step at which it stopped (None where every step passed)."""

    proof: Proof
    stopped_at: str | None
    entries: tuple[Entry, ...]

    @property
    def passed(self) -> bool:
        return self.stopped_at is None


def as_if_permitted(job: Job) -> Job:
    """The job with the operator's permission to run in parallel: a rehearsal meets no operator."""
    kva = sum(job.sheet_of(unit).rated_kva for unit in job.units)
    fact = {"value": max(kva, 0.001), "known": "told", "note": "as rehearsed", "date": ""}
    if not held_back(job):
        return job
    return edit(
        job, Change("site/permission/parallel_state", "granted"), Change("site/permission/parallel_kva", fact)
    )


@contextmanager
def simulated_visit(job: Job, start: PlantStart, by: str = "rehearsal") -> Iterator[SimulatedVisit]:
    """A visit to a fresh simulated site, served on loopback for as long as it lasts."""
    plant = Plant(job, start)
    with PlantServer(plant) as server:
        links = {unit.id: link_to(job, unit.id, HOST, server.port) for unit in job.units}
        visit = SimulatedVisit(plant, links, by, start.seed)
        visit.begin()
        try:
            yield visit
        finally:
            for link in links.values():
                link.close()


def rehearse(job: Job, start: PlantStart, told: Callable[[str, Status], None] | None = None) -> Rehearsal:
    """Go through the procedure as if it were permitted; `told` hears of each step.

    Stops at the first that doesn't pass. One that the program, the job or the simulated site leaves open is
    put off, and what doesn't wait for it goes on.
    """
    job = as_if_permitted(job)
    entries: list[Entry] = []
    with simulated_visit(job, start) as visit:
        topology = visit.plant.topology
        proof = proof_of(job, topology, entries)
        for result in proof.results:
            reading = visit.take(result.step)
            text = words_of(result.step, reading)
            entries.append(
                Entry("reading", text, at=reading.at, by=reading.by, corrects=None, data=as_data(reading))
            )
            proof = proof_of(job, topology, entries)
            status = proof.result(result.step.id).status
            if told is not None:
                told(result.step.id, status)
            if status is Status.FAILED or (status is Status.OPEN and not reading.put_off):
                return Rehearsal(proof, result.step.id, tuple(entries))
    return Rehearsal(proof, None, tuple(entries))
