"""A year without a grid: its islands, what they serve, and the generator."""

from typing import NamedTuple, Protocol

import numpy as np

from lodestaff.energy import records
from lodestaff.energy.calendar import STEP_H, STEPS, Floats
from lodestaff.energy.dispatch import Converter, IslandYear, Year, most_ac_kw, onto_phases
from lodestaff.energy.outage import (
    CircuitSeries,
    IslandLoads,
    island_arrays,
    island_loads,
    islands_of,
    loop_arrays,
    no_generator,
)
from lodestaff.job import Circuit, Job, Role
from lodestaff.reckoning.generating import generator_of, started
from lodestaff.topology.islands import Island
from lodestaff.topology.questions import Asked


class Whole(Protocol):
    """What a year needs of the reckoner that it belongs to."""

    def hours_by(self, job: Job, clock: str) -> Floats: ...

    def asked(self, job: Job) -> Asked: ...

    def circuit_kw(self, job: Job, circuit: Circuit) -> Floats: ...


class Placed(NamedTuple):
    """An island, with the units that form it and those that follow it by their index in the job."""

    island: Island
    members: list[int]
    follows: list[int]


def shed_level(job: Job, circuit: Circuit) -> float:
    """The charge at which a shed-first circuit is dropped: its own, else the job's; 0 for all others."""
    if circuit.role is not Role.SHED:
        return 0.0
    return job.limits.shed_soc if circuit.shed_soc is None else circuit.shed_soc


def off_grid_year(
    reckoner: Whole,
    job: Job,
    converters: tuple[Converter, ...],
    sun: Floats,
    powers: tuple[Floats, ...],
    load: Floats,
) -> Year:
    """The year of all islands. What hangs on no island stays without power.

    `sun` by unit, shape (unit, step); `powers` by circuit, shape (step,); `load` the same by phase, (phase,
    step).
    """
    shape = (len(job.units), STEPS)
    pv_ac, bat_ac, used, bat_dc, clipped, curtailed, energy = (np.zeros(shape) for _ in range(7))
    e_start = np.zeros(len(job.units))
    curtailed += sun
    unserved = np.sum(powers, axis=0)
    generated, hours, starts, litres = np.zeros(STEPS), 0.0, 0, 0.0
    known = True
    for island, members, follows in placed(reckoner, job, converters):
        run, begun = _run(
            reckoner,
            job,
            island,
            members=members,
            follows=follows,
            powers=powers,
            converters=converters,
            sun=sun,
        )
        bus = np.zeros(STEPS)
        for row, at in enumerate(members):
            pv_ac[at], bat_ac[at] = run.direct[row], run.given[row] - run.taken[row]
            used[at], bat_dc[at] = run.used[row], run.drawn[row] - run.stored[row]
            clipped[at], energy[at], e_start[at] = run.clipped[row], run.energy[row], begun[row]
            curtailed[at] = sun[at] - used[at] - clipped[at]
        able = [most_ac_kw(converters[at], sun[at]) for at in follows]
        bus = np.sum(able, axis=0) if able else bus
        for at, most in zip(follows, able, strict=True):
            ac = run.followed * np.divide(most, bus, out=np.zeros_like(most), where=bus > 0)
            pv_ac[at] = ac
            used[at] = ac + converters[at].k1 * ac + converters[at].k2 * ac**2
            clipped[at] = np.clip(sun[at] - _dc(converters[at], most), 0, None)
            curtailed[at] = np.clip(sun[at] - used[at] - clipped[at], 0, None)
        on_island = (power for c, power in zip(job.circuits, powers, strict=True) if c.id in island.circuits)
        fed = sum(on_island, np.zeros(STEPS))
        unserved = unserved - fed + run.unserved
        generated = generated + run.generator
        on = run.generator > 0
        hours += float(on.sum() * STEP_H)
        starts += int((on & ~np.roll(on, 1)).sum())
        part = started(job, tuple(job.units[at] for at in members))
        if part is not None:
            fuel = part.litre_per_kwh.value
            known = known and fuel is not None
            litres += float(run.generator.sum() * STEP_H) * (fuel or 0.0)
            litres += float(on.sum() * STEP_H) * (part.idle_litre_per_h.value or 0.0)
    own = np.zeros_like(load)
    for converter in converters:
        for phase in converter.phases:
            own[phase] += converter.own_use_kw / len(converter.phases)
    grid = load + own - onto_phases(converters, pv_ac + bat_ac, load + own)
    series = records.Series(
        pv_ac_kw=pv_ac,
        battery_ac_kw=bat_ac,
        pv_dc_kw=used,
        battery_dc_kw=bat_dc,
        clipped_kw=clipped,
        curtailed_kw=curtailed,
        energy_kwh=energy,
        grid_kw=grid,
    )
    return Year(
        series,
        load,
        own_use_kw=own,
        pv_available_kw=sun,
        e_start_kwh=e_start,
        step_h=STEP_H,
        island=IslandYear(np.clip(unserved, 0, None), generated, hours, starts, litres if known else None),
    )


def _dc(converter: Converter, ac: Floats) -> Floats:
    return np.asarray(ac + converter.k1 * ac + converter.k2 * ac**2)


def _run(
    reckoner: Whole,
    job: Job,
    island: Island,
    members: list[int],
    follows: list[int],
    powers: tuple[Floats, ...],
    converters: tuple[Converter, ...],
    sun: Floats,
) -> tuple[records.IslandSeries, Floats]:
    """One island's year, and the energy with which its batteries began."""
    from lodestaff.energy import islanding

    own_use = sum(converters[at].own_use_kw for at in (*members, *follows))
    arrays = island_arrays(
        sun[members],
        loads_on(job, island, powers, own_use),
        ac_sun=np.sum([most_ac_kw(converters[at], sun[at]) for at in follows], axis=0) if follows else None,
    )
    table, begun = begin(converters, members)
    given, ac_sun, rows = loop_arrays(arrays, table)
    generator = generator_of(
        job, tuple(job.units[at] for at in members), reckoner.hours_by(job, job.limits.device_clock)
    )
    made = islanding.island_year(given, ac_sun, rows, generator or no_generator(given), begun, STEP_H)
    return made, begun


def loads_on(job: Job, island: Island, powers: tuple[Floats, ...], own_use_kw: float) -> IslandLoads:
    """What the circuits of an island draw; `powers` by circuit of the job, shape (step,)."""

    def series(shed: bool) -> tuple[CircuitSeries, ...]:
        return tuple(
            CircuitSeries(power, 0.0, 0.0, shed_level(job, circuit))
            for circuit, power in zip(job.circuits, powers, strict=True)
            if circuit.id in island.circuits and (circuit.role is Role.SHED) == shed
        )

    return island_loads(series(False), series(True), own_use_kw, STEPS)


def begin(converters: tuple[Converter, ...], members: list[int]) -> tuple[tuple[records.Island, ...], Floats]:
    """An island's units as its loop takes them, and the energy with which their batteries begin the year:
    half full."""
    table = islands_of(tuple(converters[at] for at in members))
    return table, np.array([(unit.e_floor + unit.e_top) / 2 for unit in table])


def placed(reckoner: Whole, job: Job, converters: tuple[Converter, ...]) -> list[Placed]:
    """The islands of a job that have a battery, with their units by index."""
    islands = []
    for island in reckoner.asked(job).islands:
        members = [at for at, unit in enumerate(job.units) if unit.id in island.forming]
        follows = [at for at, unit in enumerate(job.units) if unit.id in island.following]
        if any(converters[at].battery is not None for at in members):
            islands.append(Placed(island, members, follows))
    return islands
