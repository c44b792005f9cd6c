"""Loads that take only what would be exported or lost: switched by thresholds, up to what they need in a
day."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS_PER_DAY, Floats
from lodestaff.energy.dispatch import Converter, Year

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


def losing(converters: tuple[Converter, ...], rows: int) -> Any:
    """The units of a year as what is over at them is summed, on so many rows: phases, or one."""
    from lodestaff.energy.sums import Losing

    part = np.zeros((rows, len(converters)))
    for index, converter in enumerate(converters):
        for phase in converter.phases:
            part[phase if rows > 1 else 0, index] += 1.0 / len(converter.phases)
    banks = [converter.battery for converter in converters]
    return Losing(
        k1=np.array([converter.k1 for converter in converters]),
        k2=np.array([converter.k2 for converter in converters]),
        part=part,
        row=np.array([converter.phase if rows > 1 else 0 for converter in converters], dtype=np.int64),
        capacity=np.array([0.0 if bank is None else bank.capacity_kwh for bank in banks]),
    )


def over(year: Year, converters: tuple[Converter, ...]) -> tuple[Floats, Floats]:
    """What each phase exports or loses by curtailment, as AC power, kW, and the state of charge of its
    batteries at the step's end (1 where there is none), shape (phase, step); (1, step) where the meter sums
    its phases."""
    from lodestaff.energy.sums import over_into

    series, grid = year.series, year.metered_kw
    spare, soc = np.empty_like(grid), np.empty_like(grid)
    units = losing(converters, grid.shape[0])
    over_into(units, grid, series.pv_ac_kw, series.curtailed_kw, series.energy_kwh, spare, soc)
    return spare, soc


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


def surplus_taken(
    loads: tuple[SurplusLoad, ...], steps: int, over_with: Callable[[Floats], tuple[Floats, Floats]]
) -> tuple[Floats, Floats]:
    """What surplus loads take from the mains, and of what is over, shape (surplus load, step) each, kW.

    `over_with` tells what is over, and how full batteries are, while they take so much from the mains. What a
    topped-up load doesn't get from the surplus of a day comes from the mains by its timetable.
    """
    mains = np.zeros((len(loads), steps))
    taken = np.zeros_like(mains)
    topped = any(load.top_up for load in loads)
    for _ in range(ROUNDS if topped else 1):
        spare, soc = over_with(mains)
        first = mains
        mains = np.zeros_like(mains)
        for index, load in enumerate(loads):
            fed = _by_day(first[index])
            row = load.phase if spare.shape[0] > 1 else 0
            taken[index] = take(spare[row], soc[row], load, np.clip(load.need_kwh - fed, 0, None))
            spare[row] -= taken[index]
            if load.top_up:
                mains[index] = _topped(load, _by_day(taken[index]))
    return first, taken


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
    without.
    """
    mains, taken = surplus_taken(loads, steps, lambda mains: over(run(mains), converters))
    extra = np.zeros((phases, steps))
    for index, load in enumerate(loads):
        extra[load.phase] += taken[index]
    return replace(run(mains + taken), surplus_kw=extra, taken_kw=mains + taken)


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
