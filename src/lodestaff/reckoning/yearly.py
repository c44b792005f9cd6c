"""The year of a job, from what it is made of."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import Floats, standard_hour
from lodestaff.energy.dispatch import Converter, Year, simulate
from lodestaff.energy.surplus import with_surplus
from lodestaff.job import Job, Role
from lodestaff.reckoning import selectors
from lodestaff.reckoning.controlling import Plan, ahead_of, controllers, netted, told
from lodestaff.reckoning.off_grid import Whole, off_grid_year


@dataclass(frozen=True)
class Parts:
    """Units, what their arrays give (unit, step), and who leads them: what a candidate exchanges."""

    converters: tuple[Converter, ...]
    sun_kw: Floats
    plans: tuple[Plan, ...]


Years = Callable[[tuple[Converter, ...], Floats], Year]


def on_phases(job: Job, powers: tuple[Floats, ...]) -> Floats:
    """Powers of the circuits by phase, shape (phase, step). Legs that a unit stands across are one phase."""
    load = np.zeros((len(selectors.energy_phases(job)), standard_hour().size))
    for circuit, power in zip(job.circuits, powers, strict=True):
        for leg in circuit.legs:
            load[selectors.phase_index(job, leg)] += power / len(circuit.legs)
    return load


def year_of(reckoner: Whole, job: Job, parts: Parts) -> Year:
    """The year of a job with these parts; surplus loads take what is over."""
    return years_of(reckoner, job, parts.plans)(parts.converters, parts.sun_kw)


def years_of(reckoner: Whole, job: Job, plans: tuple[Plan, ...]) -> Years:
    """What makes a job's year of its converters and their sun; all that candidates share is made once."""
    nothing = np.zeros(standard_hour().size)
    takers = [number for number, c in enumerate(job.circuits) if c.role is Role.SURPLUS]
    usual = tuple(
        nothing if number in takers else reckoner.circuit_kw(job, c) for number, c in enumerate(job.circuits)
    )
    windows = told(job, reckoner.hours_by(job, job.limits.device_clock)) if job.mains.grid else ()
    summed = netted(job)

    def under(powers: tuple[Floats, ...]) -> Years:
        load = on_phases(job, powers)
        if not job.mains.grid:
            return lambda units, sun: off_grid_year(
                reckoner, job, converters=units, sun=sun, powers=powers, load=load
            )
        led = controllers(plans, job.circuits, powers)

        def made(units: tuple[Converter, ...], sun: Floats) -> Year:
            ahead = ahead_of(led, units, sun) if job.limits.keep_room else None
            return simulate(
                units, sun, load_kw=load, windows=windows, controllers=led, netted=summed, ahead=ahead
            )

        return made

    if not takers:
        return under(usual)
    loads = tuple(
        selectors.surplus_load(job, job.circuits[number], reckoner.circuit_kw(job, job.circuits[number]))
        for number in takers
    )

    def with_takers(units: tuple[Converter, ...], sun: Floats) -> Year:
        def taking(taken: Floats) -> Year:
            powers = list(usual)
            for number, power in zip(takers, taken, strict=True):
                powers[number] = power
            return under(tuple(powers))(units, sun)

        return with_surplus(loads, nothing.size, load_rows(job), units, taking)

    return with_takers


def load_rows(job: Job) -> int:
    """How many phases energy is balanced on."""
    return len(selectors.energy_phases(job))
