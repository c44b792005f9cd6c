"""The year of a job, from what it is made of."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import Floats, standard_hour
from lodestaff.energy.dispatch import Converter, Year, simulate
from lodestaff.energy.surplus import with_surplus
from lodestaff.job import Job, Role
from lodestaff.reckoning import selectors
from lodestaff.reckoning.controlling import Plan, controllers, netted, told
from lodestaff.reckoning.off_grid import Whole, off_grid_year


@dataclass(frozen=True)
class Parts:
    """Units, what their arrays give (unit, step), and who leads them: what a candidate exchanges."""

    converters: tuple[Converter, ...]
    sun_kw: Floats
    plans: tuple[Plan, ...]


def on_phases(job: Job, powers: tuple[Floats, ...]) -> Floats:
    """Powers of the circuits by phase, shape (phase, step). Legs that a unit stands across are one phase."""
    load = np.zeros((len(selectors.energy_phases(job)), standard_hour().size))
    for circuit, power in zip(job.circuits, powers, strict=True):
        for leg in circuit.legs:
            load[selectors.phase_index(job, leg)] += power / len(circuit.legs)
    return load


def year_of(reckoner: Whole, job: Job, parts: Parts) -> Year:
    """The year of a job with these parts; surplus loads take what is over."""
    nothing = np.zeros(standard_hour().size)
    usual = [nothing if c.role is Role.SURPLUS else reckoner.circuit_kw(job, c) for c in job.circuits]
    takers = [number for number, c in enumerate(job.circuits) if c.role is Role.SURPLUS]
    windows = told(job, reckoner.hours_by(job, job.limits.device_clock)) if job.mains.grid else ()

    def run(powers: tuple[Floats, ...]) -> Year:
        load = on_phases(job, powers)
        if not job.mains.grid:
            return off_grid_year(
                reckoner, job, converters=parts.converters, sun=parts.sun_kw, powers=powers, load=load
            )
        return simulate(
            parts.converters,
            parts.sun_kw,
            load_kw=load,
            windows=windows,
            controllers=controllers(parts.plans, job.circuits, powers),
            netted=netted(job),
        )

    def taking(taken: Floats) -> Year:
        powers = list(usual)
        for number, power in zip(takers, taken, strict=True):
            powers[number] = power
        return run(tuple(powers))

    if not takers:
        return run(tuple(usual))
    loads = tuple(
        selectors.surplus_load(job, c, reckoner.circuit_kw(job, c))
        for c in map(job.circuits.__getitem__, takers)
    )
    phases = len(selectors.energy_phases(job))
    return with_surplus(loads, nothing.size, phases, parts.converters, taking)
