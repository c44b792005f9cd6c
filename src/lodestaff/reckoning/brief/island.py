"""Years in brief of a job without a grid."""

from dataclasses import replace

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, Floats
from lodestaff.energy.dispatch import Converter, most_ac_kw
from lodestaff.energy.outage import IslandLoads, island_arrays, loop_arrays, no_generator
from lodestaff.energy.tariff import self_sufficiency
from lodestaff.job import Job
from lodestaff.reckoning.brief.made import Brief, Made, Room, Run, feeding_of
from lodestaff.reckoning.generating import generator_of
from lodestaff.reckoning.off_grid import Placed, begin, loads_on, placed
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import Parts, on_phases


def on_islands(reckoner: Reckoner, job: Job, parts: Parts, takers: tuple[int, ...]) -> Run:
    """What makes years of a job, with what its surplus loads (circuits by number) take."""
    nothing = np.zeros(STEPS)
    powers = tuple(
        nothing if number in takers else reckoner.circuit_kw(job, circuit)
        for number, circuit in enumerate(job.circuits)
    )
    load, sun, whole_kw = on_phases(job, powers), parts.sun_kw, np.sum(powers, axis=0)
    load_kwh, hours = float(load.sum()) * STEP_H, reckoner.hours_by(job, job.limits.device_clock)
    islands, room = placed(reckoner, job, parts.converters), Room()
    fed = [
        sum((powers[at] for at, c in enumerate(job.circuits) if c.id in island.island.circuits), nothing)
        for island in islands
    ]
    known, able = dict[object, IslandLoads](), dict[tuple[Converter, int], Floats]()

    def loads_of(number: int, own_use_kw: float) -> IslandLoads:
        """What doesn't change while own use is the same."""
        key = (number, own_use_kw)
        if key not in known:
            known[key] = loads_on(job, islands[number].island, powers, own_use_kw)
        return known[key]

    def most_of(unit: Converter, at: int) -> Floats:
        if (unit, at) not in able:
            able[unit, at] = most_ac_kw(unit, sun[at])
        return able[unit, at]

    def run_on(
        number: int, place: Placed, units: tuple[Converter, ...], taken: Floats | None
    ) -> tuple[Floats, Floats]:
        """One island's year: by unit, shape (8, unit, step), and as a whole, (5, step)."""
        from lodestaff.energy import islanding

        loads = loads_of(number, sum(units[at].own_use_kw for at in (*place.members, *place.follows)))
        if taken is not None:
            here = [row for row, at in enumerate(takers) if job.circuits[at].id in place.island.circuits]
            loads = replace(loads, kw=loads.kw + taken[here].sum(axis=0))
        follow = np.sum([most_of(units[at], at) for at in place.follows], axis=0) if place.follows else None
        table, begun = begin(units, place.members)
        given, ac_sun, rows = loop_arrays(island_arrays(sun[place.members], loads, ac_sun=follow), table)
        generator = generator_of(job, tuple(job.units[at] for at in place.members), hours)
        out, whole = room.of(f"out {number}", 8, len(table), STEPS), room.of(f"whole {number}", 5, STEPS)
        work = room.of(f"work {number}", 10, len(table))
        work[:] = 0.0
        work[8] = begun
        islanding.year_into(given, ac_sun, rows, generator or no_generator(given), STEP_H, out, whole, work)
        return out, whole

    def made(units: tuple[Converter, ...], taken: Floats | None) -> Made:
        pv_ac, bat_ac, curtailed, energy = room.of("units", 4, len(units), STEPS)
        pv_ac[:], bat_ac[:], energy[:], curtailed[:] = 0.0, 0.0, 0.0, sun
        unserved, generated_h = whole_kw.copy(), 0.0
        if taken is not None:
            unserved += taken.sum(axis=0)
        for number, other in enumerate(islands):
            out, whole = run_on(number, other, units, taken)
            for row, at in enumerate(other.members):
                pv_ac[at], energy[at] = out[0, row], out[7, row]
                np.subtract(out[1, row], out[2, row], out=bat_ac[at])
                curtailed[at] -= out[5, row]
                curtailed[at] -= out[6, row]
            follow = sum((most_of(units[at], at) for at in other.follows), np.zeros(STEPS))
            for at in other.follows:
                most, unit = most_of(units[at], at), units[at]
                pv_ac[at] = whole[2] * np.divide(most, follow, out=np.zeros(STEPS), where=follow > 0)
                used = pv_ac[at] + unit.k1 * pv_ac[at] + unit.k2 * pv_ac[at] ** 2
                clipped = np.clip(sun[at] - (most + unit.k1 * most + unit.k2 * most**2), 0, None)
                curtailed[at] = np.clip(sun[at] - used - clipped, 0, None)
            unserved += whole[0] - fed[number]
            if taken is not None:
                here = [row for row, at in enumerate(takers) if job.circuits[at].id in other.island.circuits]
                unserved -= taken[here].sum(axis=0)
            generated_h += float(np.count_nonzero(whole[1] > 0) * STEP_H)
        missing = float(np.clip(unserved, 0, None).sum()) * STEP_H
        of_year = load_kwh + (0.0 if taken is None else float(taken.sum()) * STEP_H)
        brief = Brief(
            self_sufficiency(of_year, missing),
            None,
            float(curtailed.sum()) * STEP_H,
            unserved_kwh=missing,
            generator_h=generated_h,
        )
        grid = room.of("grid", *load.shape)
        if taken is not None:
            _grid_into(job, units, load, taken, takers=takers, pv_ac=pv_ac, bat_ac=bat_ac, grid=grid)
        return Made(brief, pv_ac=pv_ac, curtailed=curtailed, energy=energy, grid=grid)

    return made


def _grid_into(
    job: Job,
    units: tuple[Converter, ...],
    load: Floats,
    taken: Floats,
    takers: tuple[int, ...],
    pv_ac: Floats,
    bat_ac: Floats,
    grid: Floats,
) -> None:
    """What phases lack of what is drawn, kW: where units give more, surplus loads may take it."""
    from lodestaff.energy.sums import grid_into

    feeding, own = feeding_of(units, len(load))
    powers = tuple(np.zeros(STEPS) for _ in job.circuits)
    for number, power in zip(takers, taken, strict=True):
        powers[number][:] = power
    grid_into(load + own[:, None] + on_phases(job, powers), feeding, pv_ac, bat_ac, grid)
