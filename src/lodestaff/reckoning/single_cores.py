"""Metres of single conductors to be pulled, by size and colour."""

from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.runs import runs
from lodestaff.reckoning.schedules import Head, Schedule
from lodestaff.topology import Topology
from lodestaff.topology.model import EARTH, Conductor
from lodestaff.topology.questions import inside_cases
from lodestaff.wiring.terminations import colour_of, size_of


def single_core_schedule(reckoner: Reckoner, job: Job) -> Schedule:
    """What is bought as single conductors: arrays and batteries, and where conductors are pulled through
    conduits all runs. Lengths are those of the runs: what is cut off comes on top."""
    topology, names = reckoner.wiring(job).topology, {run.id: run.name for run in runs(reckoner, job, False)}
    metres: dict[tuple[str, str], float] = {}
    of: dict[tuple[str, str], list[str]] = {}
    for cable in job.cables:
        run = topology.runs.get(cable.id)
        pulled = run is not None and (job.pack.conductor_rule == "NEC" or run.dc)
        conductor = _of_run(topology, cable.id)
        if cable.existing or not pulled or conductor is None:
            continue
        earthed = cable.cpc_mm2 is not None and EARTH not in conductor.cores
        for core in (*conductor.cores, *((EARTH,) if earthed else ())):
            key = (size_of(job, cable, core), colour_of(job, conductor, core))
            metres[key] = metres.get(key, 0.0) + cable.length_m
            of.setdefault(key, []).append(names.get(cable.id, cable.id))
    rows = tuple(
        (size, colour, round(length, 2), ", ".join(dict.fromkeys(of[size, colour])))
        for (size, colour), length in metres.items()
    )
    heads = (
        Head("Conductor", share=14),
        Head("Colour", share=18),
        Head("Length", "m"),
        Head("Runs", share=56),
    )
    note = "Lengths of the runs; what is cut off comes on top. Cables of several cores stand among the parts."
    return Schedule("conductors", "Single conductors", heads, rows, note if rows else "")


def _of_run(topology: Topology, run: str) -> Conductor | None:
    """The conductor of a run that a hand lays; None inside a sealed case."""
    apart = inside_cases(topology)
    return next(
        (
            conductor
            for conductor in topology.conductors
            if conductor.run == run and conductor.id not in apart
        ),
        None,
    )
