"""Years in brief of a job without a grid."""

from dataclasses import replace

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, Floats
from lodestaff.energy.dispatch import Converter, most_ac_kw
from lodestaff.energy.outage import IslandLoads, island_arrays, loop_arrays, no_generator
from lodestaff.energy.tariff import self_sufficiency
from lodestaff.job import Job
from lodestaff.reckoning.brief.made import Brief, Made, Room, Run, drawn_of, feeding_of
from lodestaff.reckoning.generating import generator_of
from lodestaff.reckoning.off_grid import Placed, begin, loads_on, placed
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import Parts, on_phases
from lodestaff.topology.islands import Island


def on_islands(reckoner: Reckoner, job: Job, parts: Parts, takers: tuple[int, ...]) -> Run:
    """What makes years of a job, with what its surplus loads (circuits by number) take."""
    from lodestaff.energy import islanding, sums

    nothing = np.zeros(STEPS)
    powers = tuple(
        nothing if number in takers else reckoner.circuit_kw(job, circuit)
        for number, circuit in enumerate(job.circuits)
    )
    load, sun, whole_kw = on_phases(job, powers), parts.sun_kw, np.sum(powers, axis=0)
    load_kwh, hours = float(load.sum()) * STEP_H, reckoner.hours_by(job, job.limits.device_clock)
    onto = drawn_of(job, takers)
    islands, room = placed(reckoner, job, parts.converters), Room()
    fed = [_drawn_on(job, place.island, powers) for place in islands]
    taking = [
        [row for row, at in enumerate(takers) if job.circuits[at].id in place.island.circuits]
        for place in islands
    ]
    all_there = sum(len(place.members) for place in islands) == len(job.units)
    generators = [generator_of(job, tuple(job.units[at] for at in place.members), hours) for place in islands]
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
        number: int, place: Placed, units: tuple[Converter, ...], taken: Floats
    ) -> tuple[Floats, Floats]:
        """One island's year: by unit, shape (8, unit, step), and as a whole, (5, step)."""
        loads = loads_of(number, sum(units[at].own_use_kw for at in (*place.members, *place.follows)))
        if taking[number]:
            loads = replace(loads, kw=loads.kw + taken[taking[number]].sum(axis=0))
        follow = np.sum([most_of(units[at], at) for at in place.follows], axis=0) if place.follows else None
        table, begun = begin(units, place.members)
        given, ac_sun, rows = loop_arrays(island_arrays(sun[place.members], loads, ac_sun=follow), table)
        out, whole = room.of(f"out {number}", 8, len(table), STEPS), room.of(f"whole {number}", 5, STEPS)
        work = room.of(f"work {number}", 10, len(table))
        work[:] = 0.0
        work[8] = begun
        islanding.year_into(
            given, ac_sun, rows, generators[number] or no_generator(given), STEP_H, out, whole, work
        )
        return out, whole

    def made(units: tuple[Converter, ...], taken: Floats) -> Made:
        pv_ac, bat_ac, curtailed, energy = room.of("units", 4, len(units), STEPS)
        if not all_there:  # what is on no island, or only follows one
            pv_ac[:], bat_ac[:], energy[:] = 0.0, 0.0, 0.0
        curtailed[:] = sun
        unserved, generated_h = whole_kw + taken.sum(axis=0), 0.0
        for number, other in enumerate(islands):
            out, whole = run_on(number, other, units, taken)
            for row, at in enumerate(other.members):
                pv_ac[at], energy[at] = out[0, row], out[7, row]
                np.subtract(out[1, row], out[2, row], out=bat_ac[at])
                curtailed[at] -= out[5, row]
                curtailed[at] -= out[6, row]
            most = {at: most_of(units[at], at) for at in other.follows}
            for at in other.follows:
                pv_ac[at], curtailed[at] = _following(units[at], sun[at], at, most, whole[2])
            unserved += whole[0] - fed[number] - taken[taking[number]].sum(axis=0)
            generated_h += float(np.count_nonzero(whole[1] > 0) * STEP_H)
        missing = float(np.clip(unserved, 0, None).sum()) * STEP_H
        brief = Brief(
            self_sufficiency(load_kwh + float(taken.sum()) * STEP_H, missing),
            None,
            float(curtailed.sum()) * STEP_H,
            unserved_kwh=missing,
            generator_h=generated_h,
        )
        grid = room.of("grid", *load.shape)
        if takers:
            feeding, own = feeding_of(units, len(load))
            sums.grid_into(load + own[:, None] + onto @ taken, feeding, pv_ac, bat_ac, grid)
        return Made(brief, pv_ac=pv_ac, curtailed=curtailed, energy=energy, grid=grid)

    return made


def _following(
    unit: Converter, sun: Floats, at: int, most: dict[int, Floats], followed: Floats
) -> tuple[Floats, Floats]:
    """What a unit that follows an island gives of all that is followed, by what each could give (`most`, by
    unit), and what it loses, kW."""
    together = sum(most.values(), np.zeros(STEPS))
    ac = followed * np.divide(most[at], together, out=np.zeros(STEPS), where=together > 0)
    used = ac + unit.k1 * ac + unit.k2 * ac**2
    clipped = np.clip(sun - (most[at] + unit.k1 * most[at] + unit.k2 * most[at] ** 2), 0, None)
    return ac, np.clip(sun - used - clipped, 0, None)


def _drawn_on(job: Job, island: Island, powers: tuple[Floats, ...]) -> Floats:
    """What the circuits of an island draw together, kW."""
    on_it = (
        power for circuit, power in zip(job.circuits, powers, strict=True) if circuit.id in island.circuits
    )
    return sum(on_it, np.zeros(STEPS))
