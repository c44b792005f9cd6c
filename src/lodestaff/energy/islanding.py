"""An island of units without the grid, step by step, and a whole year of it with a generator.

Plain Python that numba compiles. Powers in kW, energies in kWh; `units` is a table of the forming units, a
row of `Island`'s fields each.
"""

import numpy as np

from lodestaff.energy.calendar import Floats
from lodestaff.energy.calling import runs
from lodestaff.energy.columns import (
    CAPACITY,
    CHARGE,
    DISCHARGE,
    ETA_IN,
    ETA_OUT,
    FLOOR,
    K1,
    K2,
    PV_MAX,
    RATED_KVA,
    RATED_KW,
    SURGE_KVA,
    TAPER,
    TAPER_END,
    TOP,
)
from lodestaff.energy.compiled import bare, njit
from lodestaff.energy.kernels import (
    NOTHING,
    ac_from,
    charge_limit,
    dc_for,
    given_out,
    lost_above,
    part_of,
    taken_in,
)
from lodestaff.energy.records import Generator, IslandSeries, OutageArrays

RELEASE = 0.1  # of the usable energy: a circuit that was shed comes back so far above its level


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def powers(
    units: Floats, e: Floats, pv_dc: Floats, t: int, limited: bool, dt: float
) -> tuple[float, float, float, float]:
    """What the forming units can give in a step, kW, kVA, and for a start; and what their batteries have, DC
    kW.

    A unit whose battery is empty counts by its sun alone. `limited`: by what the cells still hold as well.
    """
    kw, kva, surge, cells = 0.0, 0.0, 0.0, 0.0
    for u in range(units.shape[0]):
        sun = min(pv_dc[u, t], units[u, PV_MAX])
        full = e[u] > units[u, FLOOR]
        most = units[u, DISCHARGE] if full else 0.0
        if limited:
            most = given_out(e[u], units[u, FLOOR], units[u, DISCHARGE], units[u, ETA_OUT], dt)
        cells += given_out(e[u], units[u, FLOOR], units[u, DISCHARGE], units[u, ETA_OUT], dt)
        if full or sun > 0.0:
            kw += (
                min(units[u, RATED_KW], ac_from(sun + most, units[u, K1], units[u, K2]))
                if most < np.inf
                else (units[u, RATED_KW])
            )
            kva += units[u, RATED_KVA]
            surge += units[u, SURGE_KVA]
    return kw, kva, surge, cells


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def step(  # noqa: C901  (one step of one rule; its parts are named in comments)
    units: Floats,
    e: Floats,
    pv_dc: Floats,
    t: int,
    ac_sun: float,
    need: float,
    from_generator: float,
    charger_kw: Floats,
    dt: float,
    row: Floats,
) -> tuple[float, float, float]:
    """One step: e is moved on; row (8, U) is filled with direct, given, taken, stored, drawn, used, clipped,
    able.

    Returns what stays unserved, what the generator gives and what is used of the sun on AC. The generator
    carries the circuits while it runs, the sun then charges; else sun on AC, own sun and batteries in this
    order, units in proportion to what each can give. What is over goes into the batteries: of the own sun, of
    what follows on AC, of other units' sun, then of the generator.
    """
    count = units.shape[0]
    generator = min(need, from_generator)
    rest = need - generator
    followed = min(rest, ac_sun)
    rest -= followed
    together = 0.0
    for u in range(count):
        sun = min(pv_dc[u, t], units[u, PV_MAX])
        row[7, u] = min(units[u, RATED_KW], ac_from(sun, units[u, K1], units[u, K2]))
        together += row[7, u]
    pool = 0.0
    for u in range(count):
        k1, k2 = units[u, K1], units[u, K2]
        sun = min(pv_dc[u, t], units[u, PV_MAX])
        ac = part_of(rest, row[7, u], together)
        left = sun - dc_for(ac, k1, k2)
        if left < NOTHING:
            left = 0.0
        most_in = charge_limit(e[u], units[u, TOP], units[u, CHARGE], units[u, TAPER], units[u, TAPER_END])
        stored = taken_in(e[u], units[u, TOP], left, most_in, units[u, ETA_IN], dt)
        left -= stored
        most = ac
        if left > 0.0:
            most = min(units[u, RATED_KW], ac_from(dc_for(ac, k1, k2) + left, k1, k2))
        row[0, u], row[1, u], row[2, u], row[3, u], row[4, u] = ac, 0.0, 0.0, stored, 0.0
        row[5, u] = sun - left
        row[6, u] = pv_dc[u, t] - sun + lost_above(ac, most, left, k1, k2)
        row[7, u] = max(0.0, most - ac)  # what it could send to other units' batteries
        pool += row[7, u]
    rest = max(0.0, rest - together)
    unserved = 0.0
    if rest > 0.0:  # batteries give
        together = 0.0
        for u in range(count):
            k1, k2 = units[u, K1], units[u, K2]
            base = dc_for(row[0, u], k1, k2)
            most = given_out(e[u], units[u, FLOOR], units[u, DISCHARGE], units[u, ETA_OUT], dt)
            row[7, u] = 0.0
            if most > 0.0 and row[3, u] == 0.0:
                row[7, u] = max(
                    0.0, min(units[u, RATED_KW] - row[0, u], ac_from(base + most, k1, k2) - row[0, u])
                )
            together += row[7, u]
        unserved = max(0.0, rest - together)
        for u in range(count):
            if row[7, u] > 0.0:
                k1, k2 = units[u, K1], units[u, K2]
                row[1, u] = part_of(rest, row[7, u], together)
                row[4, u] = dc_for(row[0, u] + row[1, u], k1, k2) - dc_for(row[0, u], k1, k2)
    else:  # batteries take what is over: followers, then other units' sun
        spare = ac_sun - followed
        sent = pool
        together = 0.0
        for u in range(count):
            if row[7, u] == 0.0 and row[0, u] == 0.0 and spare + sent > 0.0:
                room = room_in(units, e, row, u, dt)
                row[7, u] = -min(units[u, RATED_KW], dc_for(room, units[u, K1], units[u, K2]))
                together -= row[7, u]
        taken_in_all = 0.0
        for u in range(count):
            if row[7, u] < 0.0:
                ac = part_of(spare + sent, -row[7, u], together)
                row[2, u] += ac
                row[3, u] += ac_from(ac, units[u, K1], units[u, K2])
                taken_in_all += ac
        more = min(spare, taken_in_all)
        followed += more
        share = (taken_in_all - more) / sent if sent > 0.0 else 0.0
        for u in range(count):
            if row[7, u] > 0.0 and share > 0.0:
                k1, k2 = units[u, K1], units[u, K2]
                ac = row[7, u] * min(1.0, share)
                row[5, u] += dc_for(row[0, u] + ac, k1, k2) - dc_for(row[0, u], k1, k2)
                row[0, u] += ac
    if from_generator > generator:  # and the generator fills what is left of them
        together = 0.0
        for u in range(count):
            row[7, u] = 0.0
            if row[1, u] == 0.0 and row[0, u] == 0.0:
                room = room_in(units, e, row, u, dt)
                row[7, u] = max(
                    0.0,
                    min(
                        charger_kw[u],
                        units[u, RATED_KW] - row[2, u],
                        dc_for(room, units[u, K1], units[u, K2]),
                    ),
                )
            together += row[7, u]
        spare = from_generator - generator
        for u in range(count):
            if row[7, u] > 0.0:
                ac = part_of(spare, row[7, u], together)
                row[2, u] += ac
                row[3, u] += ac_from(ac, units[u, K1], units[u, K2])
                generator += ac
    for u in range(count):
        e[u] += (row[3, u] * units[u, ETA_IN] - row[4, u] / units[u, ETA_OUT]) * dt
    return unserved, generator, followed


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def room_in(units: Floats, e: Floats, row: Floats, u: int, dt: float) -> float:
    """DC power that a battery still takes in this step beside what it was given."""
    most = charge_limit(e[u], units[u, TOP], units[u, CHARGE], units[u, TAPER], units[u, TAPER_END])
    room: float = max(0.0, min(most, (units[u, TOP] - e[u]) / units[u, ETA_IN] / dt) - row[3, u])
    return room


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def sum_of(units: Floats, column: int) -> float:
    """A column of the table of units, summed."""
    total = 0.0
    for u in range(units.shape[0]):
        total += units[u, column]
    return total


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def shed_by(on: int, e: Floats, shed_soc: Floats, capacity: float, back: float) -> int:
    """How many tiers of shed-first circuits are on in a step: dropped by the charge, back so far above it."""
    tiers = shed_soc.size
    if tiers > 0:
        held = 0.0
        for u in range(e.size):
            held += e[u]
        while on > 0 and held <= shed_soc[on - 1] * capacity:
            on -= 1
        while on < tiers and held > shed_soc[on] * capacity + back:
            on += 1
    return on


@bare
def year_into(
    arrays: OutageArrays,
    ac_sun: Floats,
    units: Floats,
    generator: Generator,
    dt: float,
    out: Floats,
    whole: Floats,
    room: Floats,
) -> None:
    """All steps of an island without a grid: what can't be served stays so and the next step begins anew.

    Filled are `out` of shape (8, U, T) and `whole` of shape (5, T), in the order of IslandSeries. `room` of
    shape (10, U): rows for `step`, then the energy that batteries begin with, then what each gives, DC kW.
    """
    count, steps = units.shape[0], arrays.pv_dc.shape[1]
    unserved, generated, followed, tiers_on, served = whole[0], whole[1], whole[2], whole[3], whole[4]
    row, e, flow = room[:8], room[8], room[9]
    tiers = arrays.shed_soc.size
    capacity = sum_of(units, CAPACITY)
    back = RELEASE * (sum_of(units, TOP) - sum_of(units, FLOOR))
    on = tiers
    running, low = False, 0
    for t in range(steps):
        on = shed_by(on, e, arrays.shed_soc, capacity, back)
        if generator.power_kw > 0.0:
            running, low = runs(running, low, units, e, generator, flow, t)
        from_generator = generator.power_kw if running else 0.0
        kw = powers(units, e, arrays.pv_dc, t, True, dt)[0] + from_generator + ac_sun[t]
        k = on
        while k > 0 and arrays.kw[k, t] > kw:
            k -= 1
        missing, generated[t], followed[t] = step(
            units,
            e,
            arrays.pv_dc,
            t,
            ac_sun[t],
            arrays.kw[k, t],
            from_generator,
            generator.charger_kw,
            dt,
            row,
        )
        for u in range(count):
            flow[u] = row[4, u] - row[3, u]
        unserved[t] = missing + arrays.kw[tiers, t] - arrays.kw[k, t]
        served[t] = arrays.kw[k, t] - missing
        tiers_on[t] = k
        for u in range(count):
            for what in range(7):
                out[what, u, t] = row[what, u]
            out[7, u, t] = e[u]


@njit(cache=True, nogil=True, error_model="numpy")
def island_year(
    arrays: OutageArrays, ac_sun: Floats, units: Floats, generator: Generator, e_start: Floats, dt: float
) -> IslandSeries:
    """The year of an island without a grid, as `year_into` has it, in arrays of its own."""
    count, steps = units.shape[0], arrays.pv_dc.shape[1]
    out, whole, room = np.zeros((8, count, steps)), np.zeros((5, steps)), np.zeros((10, count))
    room[8] = e_start
    year_into(arrays, ac_sun, units, generator, dt, out, whole, room)
    return IslandSeries(
        out[0],
        out[1],
        out[2],
        out[3],
        out[4],
        out[5],
        out[6],
        out[7],
        whole[0],
        whole[1],
        whole[2],
        whole[3],
        whole[4],
    )
