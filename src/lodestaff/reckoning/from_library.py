"""A circuit of the library put into a job: on the leg that carries least, or across all where it is wide."""

from lodestaff.catalogue.library import LibraryCircuit
from lodestaff.job import Circuit, Job


def circuit_of(job: Job, row: LibraryCircuit, taken: set[str]) -> Circuit:
    """The circuit with an id of its own; values are assumed until they are measured."""
    id = next(name for name in (row.id, *(f"{row.id}-{n}" for n in range(2, 1000))) if name not in taken)
    phases = job.site.phases
    wide = row.wide and len(phases) > 1
    load = {leg: sum(c.running_kva / len(c.legs) for c in job.circuits if leg in c.legs) for leg in phases}
    phase = "+".join(phases) if wide else min(phases, key=lambda leg: load[leg])
    return Circuit.model_validate({**row.values, "id": id, "phase": phase})
