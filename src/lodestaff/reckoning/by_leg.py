"""What each phase or leg of the supply carries, as the circuits hang: never the total divided by their
number."""

import numpy as np

from lodestaff.energy.calendar import Floats, standard_hour
from lodestaff.job import Job, Role
from lodestaff.reckoning import selectors
from lodestaff.reckoning.reckoner import Reckoner


def leg_load_kw(reckoner: Reckoner, job: Job) -> Floats:
    """The circuits by phase or leg of the supply, shape (leg, step), in kW, without those that take surplus
    only."""
    return reckoner.of_parts(
        "load by leg", (job.circuits, job.site, job.pack), lambda: _leg_load_kw(reckoner, job)
    )


def _leg_load_kw(reckoner: Reckoner, job: Job) -> Floats:
    legs = job.site.phases
    load = np.zeros((len(legs), standard_hour().size))
    for circuit in job.circuits:
        if circuit.role is not Role.SURPLUS:
            power = reckoner.circuit_kw(job, circuit) / len(circuit.legs)
            for leg in circuit.legs:
                load[legs.index(leg)] += power
    return load


def leg_import_kw(reckoner: Reckoner, job: Job) -> Floats:
    """What each phase or leg of the supply imports, shape (leg, step), in kW.

    Circuits as they hang; what units that stand on several legs give or take is on each of them alike.
    """
    load, grid = leg_load_kw(reckoner, job), reckoner.year(job).series.grid_kw
    parts = np.zeros_like(load)
    for number, group in enumerate(selectors.energy_phases(job)):
        rows = [job.site.phases.index(leg) for leg in group]
        given = (load[rows].sum(axis=0) - grid[number]) / len(rows)
        parts[rows] = np.clip(load[rows] - given, 0, None)
    return parts
