"""Conduits and trunkings with the runs that lie in them."""

import math
from collections.abc import Iterator

from lodestaff.checks.fill import Filled
from lodestaff.checks.runs import Run
from lodestaff.job import Containment, Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.records.runs import runs


@makes
def filled(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Filled]:
    for containment in job.containments:
        yield filled_with(reckoner, job, containment)


def filled_with(reckoner: Reckoner, job: Job, containment: Containment) -> Filled:
    """A containment, of the job or only tried, with what lies in it."""
    known = {run.id: run for run in runs(reckoner, job, False)}
    here = [known[run] for run in containment.runs if run in known]
    return Filled(
        containment=containment,
        pack=job.pack,
        runs=tuple((run.id, run.name, *cores_of(run)) for run in here),
        strays=tuple(run for run in containment.runs if run not in known),
        array_dc=any(run.kind == "array" for run in here),
        mixed=len({run.dc for run in here}) > 1,
        too_few=tuple(
            (run.id, run.name, run.cable.grouping)
            for run in here
            if run.cable is not None and run.cable.grouping < len(here)
        ),
    )


def cores_of(run: Run) -> tuple[int, float | None]:
    """How many cores a run brings, and the area of all of them, mm²; None where no table has it. A diameter
    that was read is of the whole cable, or of each conductor where single ones are pulled."""
    cable = run.cable
    live = 2 * run.pairs if run.dc else run.legs + 1
    if cable is None:
        return live, None
    if cable.outside_mm is not None:
        cores = live + (cable.cpc_mm2 is not None)
        pulled = cores if run.dc or run.pack.conductor_rule == "NEC" else 1
        return cores, pulled * math.pi / 4 * cable.outside_mm**2
    try:
        areas = run.pack.usual_table("cable_areas")
        area = live * areas.at(cable.size_mm2, cable.table)
        if cable.cpc_mm2 is not None:
            area += areas.above(cable.cpc_mm2, cable.table)
    except JobError:
        return live + (cable.cpc_mm2 is not None), None
    return live + (cable.cpc_mm2 is not None), area
