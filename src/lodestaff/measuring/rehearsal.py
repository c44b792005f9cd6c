"""The whole procedure gone through at the simulated site, as a person would: until it is done, or a step
fails."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from lodestaff.commissioning.procedure import procedure
from lodestaff.commissioning.reading import Reading, Status, judge
from lodestaff.commissioning.record import BUILT_ON, Proof, as_data, proof_of, words_of
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
            plant.wires.forget()


def rehearse(
    job: Job, start: PlantStart, told: Callable[[str, Status], None] | None = None, permitted: bool = True
) -> Rehearsal:
    """Go through the procedure; `told` hears of each step.

    As if running beside the grid were permitted, else as the job stands: without permission units go no
    further than their island. Stops at the first step that doesn't pass. One that needs what isn't there is
    put off, and so is what waits for it; the rest goes on.
    """
    job = as_if_permitted(job) if permitted else job
    entries: list[Entry] = []
    with simulated_visit(job, start) as visit:
        topology = visit.plant.drawn
        passed: dict[str, bool] = {}
        taken: dict[str, Reading] = {}
        for step in procedure(job, topology):
            waits = [name for name in step.waits_for if not passed[name]]
            reading = visit.put_off(step, f"{waits[0]} before it") if waits else visit.take(step)
            text = words_of(step, reading)
            entries.append(
                Entry("reading", text, at=reading.at, by=reading.by, corrects=None, data=as_data(reading))
            )
            taken[step.id] = reading
            status = judge(step, reading, passed, taken).status
            passed[step.id] = status in BUILT_ON
            if told is not None:
                told(step.id, status)
            if status is Status.FAILED or (status is Status.OPEN and not reading.put_off):
                return Rehearsal(proof_of(job, topology, entries), step.id, tuple(entries))
        return Rehearsal(proof_of(job, topology, entries), None, tuple(entries))
