"""Loads that take only what would be exported or lost: switched by thresholds, up to what they need in a
day."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS_PER_DAY, Floats
from lodestaff.energy.dispatch import Converter, Year, unit_arrays

ROUNDS = 3  # the mains' share of a load with two supplies depends on the surplus, and the surplus on it


@dataclass(frozen=True)
class SurplusLoad:
    """One load on one phase. `need_kwh` is what it can take on each day, shape (365,).

    `usual_kw` of shape (step,) is how the mains would feed it; a `top_up` load takes from there what is
    missing.
    """

    phase: int
    running_kw: float
    start_kw: float
    stop_kw: float
    min_soc: float
    need_kwh: Floats
    usual_kw: Floats
    top_up: bool


def spare_ac_kw(year: Year, converters: tuple[Converter, ...]) -> Floats:
    """What each phase exports or loses by curtailment, as AC power, shape (phase, step), kW; shape (1, step)
    where the meter sums its phases."""
    units, series = unit_arrays(converters), year.series
    spare = year.export_kw
    for index, converter in enumerate(converters):
        k1, k2 = units.k1[index], units.k2[index]
        made = series.pv_ac_kw[index]
        dc = made + k1 * made + k2 * made**2 + series.curtailed_kw[index]
        b = 1 + k1
        lost = np.clip(2 * dc / (b + np.sqrt(b * b + 4 * k2 * dc)) - made, 0, None)
        for phase in converter.phases:
            spare[phase if spare.shape[0] > 1 else 0] += lost / len(converter.phases)
    return spare


def soc_of_phase(year: Year, converters: tuple[Converter, ...], phases: int) -> Floats:
    """State of charge of the batteries on each phase at the step's end, shape (phase, step); 1 where there
    is none."""
    energy, capacity = np.zeros((phases, year.load_kw.shape[1])), np.zeros(phases)
    for index, converter in enumerate(converters):
        if converter.battery is not None:
            row = converter.phase if phases > 1 else 0
            energy[row] += year.series.energy_kwh[index]
            capacity[row] += converter.battery.capacity_kwh
    full = np.ones_like(energy)
    return np.divide(energy, capacity[:, None], out=full, where=capacity[:, None] > 0)


def take(
    spare_kw: Floats, soc: Floats, load: SurplusLoad, room_kwh: Floats, step_h: float = STEP_H
) -> Floats:
    """What one load takes in each step, shape (step,), kW.

    It is switched on above its start and off below its stop (or below its state of charge); while on it takes
    the surplus up to its running power, each day no more than `room_kwh` of shape (365,).
    """
    taken: Floats = _taking()(
        spare_kw,
        soc,
        load.running_kw,
        load.start_kw,
        load.stop_kw,
        load.min_soc,
        room_kwh,
        STEPS_PER_DAY,
        step_h,
    )
    return taken


@cache
def _taking() -> Any:
    """The loop over the steps, compiled when it is first needed."""
    from lodestaff.energy.compiled import njit

    return njit(cache=True, nogil=True, error_model="numpy")(_take)


def _take(spare, soc, running, start, stop, min_soc, room, per_day, dt):  # type: ignore[no-untyped-def]
    taken = np.zeros(spare.size)
    on = False
    left = 0.0
    for t in range(spare.size):
        if t % per_day == 0:
            left = room[(t // per_day) % room.size]
        if on and (spare[t] < stop or soc[t] < min_soc):
            on = False
        if not on and spare[t] > start and soc[t] >= min_soc:
            on = True
        if on and left > 0.0:
            taken[t] = max(0.0, min(spare[t], running, left / dt))
            left -= taken[t] * dt
    return taken


def with_surplus(
    loads: tuple[SurplusLoad, ...],
    steps: int,
    phases: int,
    converters: tuple[Converter, ...],
    run: Callable[[Floats], Year],
) -> Year:
    """A year in which surplus loads take what would be exported or curtailed. `run` simulates with what each
    of them takes, shape (surplus load, step).

    Their power is added to the load: as it takes no more than what was over, batteries go as they did
    without. What
    a topped-up load doesn't get from the surplus of a day comes from the mains by its timetable.
    """
    mains = np.zeros((len(loads), steps))
    taken = np.zeros_like(mains)
    topped = any(load.top_up for load in loads)
    for _ in range(ROUNDS if topped else 1):
        year = run(mains)
        spare = spare_ac_kw(year, converters)
        soc = soc_of_phase(year, converters, spare.shape[0])
        first = mains
        last = mains
        mains = np.zeros_like(mains)
        for index, one in enumerate(loads):
            fed = _by_day(last[index])
            row = one.phase if spare.shape[0] > 1 else 0
            taken[index] = take(spare[row], soc[row], one, np.clip(one.need_kwh - fed, 0, None))
            spare[row] = spare[row] - taken[index]
            if one.top_up:
                mains[index] = _topped(one, _by_day(taken[index]))
    extra = np.zeros((phases, steps))
    for index, load in enumerate(loads):
        extra[load.phase] += taken[index]
    return replace(run(first + taken), surplus_kw=extra, taken_kw=first + taken)


def _by_day(kw: Floats) -> Floats:
    return np.asarray(kw.reshape(-1, STEPS_PER_DAY).sum(axis=1) * STEP_H)


def _topped(load: SurplusLoad, got_kwh: Floats) -> Floats:
    """The mains' part: each day what is missing, in the shape of the timetable, never above the running
    power."""
    usual = load.usual_kw.reshape(-1, STEPS_PER_DAY)
    of_day = usual.sum(axis=1) * STEP_H
    missing = np.clip(load.need_kwh - got_kwh, 0, None)
    scale = np.divide(missing, of_day, out=np.zeros_like(missing), where=of_day > 0)
    return np.asarray(np.minimum(usual * scale[:, None], load.running_kw).ravel())
