"""How long islands last without the grid: one outage, and many of them.

Plain Python that numba compiles, on the arrays and steps of `islanding.py`.
"""

import numpy as np

from lodestaff.energy.calendar import Floats, Ints
from lodestaff.energy.calling import runs
from lodestaff.energy.columns import CAPACITY, FLOOR, K1, K2, RATED_KW, TOP
from lodestaff.energy.compiled import bare, njit
from lodestaff.energy.islanding import RELEASE, powers, shed_by, step, sum_of
from lodestaff.energy.kernels import NOTHING, dc_for
from lodestaff.energy.records import ENERGY, FULL, HELD, OVERLOAD, START, Generator, OutageArrays


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def any_empty(units: Floats, e: Floats) -> bool:
    """Whether one of the batteries is at its floor."""
    empty = False
    for u in range(e.size):
        empty = empty or e[u] <= units[u, FLOOR]
    return empty


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def all_full(units: Floats, e: Floats) -> bool:
    """Whether all batteries are at their top."""
    full = True
    for u in range(e.size):
        full = full and e[u] >= units[u, TOP] - NOTHING * 1e3
    return full


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def full_would_do(arrays: OutageArrays, ac_sun: float, units: Floats, t: int, k: int, dt: float) -> bool:
    """Whether full batteries would carry what is on in a step."""
    kw, kva, surge, _ = powers(units, units[:, TOP], arrays.pv_dc, t, False, dt)
    running, peak, need = arrays.running[k, t], arrays.peak[k, t], arrays.kw[k, t]
    would: bool = running <= kva and need <= kw + ac_sun and peak <= surge
    return would


@njit(cache=True, nogil=True, error_model="numpy")
def outage(
    arrays: OutageArrays,
    ac_sun: Floats,
    units: Floats,
    generator: Generator,
    start: int,
    e_start: Floats,
    horizon: int,
    dt: float,
    trace: Floats,
) -> tuple[float, int]:
    """One outage: hours it lasts and why it ends. Steps run on over the year's end.

    `trace` of shape (horizon, 5) is filled with battery energy at the step's end, AC power to the circuits,
    sun taken (as DC), how many tiers of shed-first circuits are on, and the generator's power; of shape (0,
    5) it is left alone.
    """
    room = np.zeros((10, units.shape[0]))
    room[8] = e_start
    return follow(arrays, ac_sun, units, generator, start, room, horizon, dt, trace, False)


@bare
def follow(  # noqa: C901  (one loop that numba compiles)
    arrays: OutageArrays,
    ac_sun: Floats,
    units: Floats,
    generator: Generator,
    start: int,
    room: Floats,
    horizon: int,
    dt: float,
    trace: Floats,
    until_full: bool,
) -> tuple[float, int]:
    """The same in given room: rows of it for `step`, then the energy that the batteries have, then what each
    gives, DC kW.

    `until_full`: it is followed until all batteries are full again, with all on and no generator running;
    what comes after is the same for every outage.
    """
    n = arrays.pv_dc.shape[1]
    count = units.shape[0]
    tiers = arrays.shed_soc.size
    capacity = sum_of(units, CAPACITY)
    row, e, flow = room[:8], room[8], room[9]
    flow[:] = 0.0
    on = 0  # how many tiers of shed-first circuits are on; those with the lowest level stay longest
    on = shed_by(on, e, arrays.shed_soc, capacity, 0.0)
    back = RELEASE * (sum_of(units, TOP) - sum_of(units, FLOOR))
    running, low = False, 0
    bounded = False  # else their energy alone decides
    for u in range(count):
        bounded = bounded or units[u, RATED_KW] < np.inf
    for i in range(horizon):
        t = (start + i) % n
        on = shed_by(on, e, arrays.shed_soc, capacity, back)
        if until_full and i > 0 and on == tiers and not running and low == 0 and all_full(units, e):
            return i * dt, FULL
        if generator.power_kw > 0.0:
            running, low = runs(running, low, units, e, generator, flow, t)
        from_generator = generator.power_kw if running else 0.0
        k = on
        kw, kva, surge, cells = np.inf, np.inf, np.inf, 0.0
        if bounded:
            kw, kva, surge, cells = powers(units, e, arrays.pv_dc, t, False, dt)
            kw += from_generator + ac_sun[t]
        if running:
            kva += generator.rated_kva
            surge += generator.rated_kva
        while k > 0 and (  # an overload drops shed-first circuits for the step
            arrays.running[k, t] > kva or arrays.kw[k, t] > kw * (1 + 1e-12) or arrays.peak[k, t] > surge
        ):
            k -= 1
        need = arrays.kw[k, t]
        if arrays.running[k, t] > kva or need > kw * (1 + 1e-12) or arrays.peak[k, t] > surge:
            if (cells <= 0.0 or any_empty(units, e)) and full_would_do(arrays, ac_sun[t], units, t, k, dt):
                return i * dt, ENERGY
            if arrays.running[k, t] > kva or need > kw * (1 + 1e-12):
                return i * dt, OVERLOAD
            return i * dt, START
        unserved, given, followed = step(
            units, e, arrays.pv_dc, t, ac_sun[t], need, from_generator, generator.charger_kw, dt, row
        )
        for u in range(count):
            flow[u] = row[4, u] - row[3, u]
        if unserved > NOTHING * 1e3:
            had = row[4].sum()
            wanted = had
            for u in range(count):  # what the missing rest would have drawn, as the first unit gives it
                wanted += (
                    0.0
                    if u > 0
                    else (
                        dc_for(row[0, u] + row[1, u] + unserved, units[u, K1], units[u, K2])
                        - dc_for(row[0, u] + row[1, u], units[u, K1], units[u, K2])
                    )
                )
            return (i + (had / wanted if wanted > 0.0 else 0.0)) * dt, ENERGY
        if trace.shape[0] > 0:
            trace[i, 0] = e.sum()
            trace[i, 1] = need
            trace[i, 2] = row[5].sum() + followed
            trace[i, 3] = k
            trace[i, 4] = given
    return horizon * dt, HELD


@njit(cache=True, nogil=True, error_model="numpy")
def ride_through(
    arrays: OutageArrays,
    ac_sun: Floats,
    units: Floats,
    generator: Generator,
    starts: Ints,
    e_starts: Floats,
    horizon: int,
    dt: float,
) -> Floats:
    """Hours that each of many outages lasts, shape of `starts`; e_starts of shape (starts, U).

    Whatever an outage began with, once its batteries are full all that comes is the same: how long a full
    island goes from a step until it is full again is reckoned once.
    """
    n = arrays.pv_dc.shape[1]
    hours = np.zeros(starts.size)
    nothing = np.zeros((0, 5))
    room = np.zeros((10, units.shape[0]))
    goes = np.zeros(n)  # hours from full to full again, or to the end
    ends = np.full(n, -1)  # why it ends there; -1: not yet reckoned
    for i in range(starts.size):
        at = starts[i]
        room[8] = e_starts[i]
        lasts, why = follow(arrays, ac_sun, units, generator, at, room, horizon, dt, nothing, True)
        while why == FULL and lasts < horizon * dt:
            at = (starts[i] + round(lasts / dt)) % n
            if ends[at] < 0:
                room[8] = units[:, TOP]
                goes[at], ends[at] = follow(
                    arrays, ac_sun, units, generator, at, room, horizon, dt, nothing, True
                )
            lasts, why = lasts + goes[at], ends[at]
        hours[i] = min(lasts, horizon * dt)
    return hours
