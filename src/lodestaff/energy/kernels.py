"""The two loops over time that must be fast: a year of dispatch, and outages from many starts.

Both are plain Python that numba compiles; `.py_func` is the same rule uncompiled. Arrays are float64
and contiguous; powers in kW, energies in kWh. A unit's DC-to-AC loss is k1 x P + k2 x P² of its AC
power P; its battery path loses by eta_charge and eta_discharge.
"""

import math

import numpy as np

from lodestaff.energy.calendar import Floats, Ints
from lodestaff.energy.compiled import njit
from lodestaff.energy.records import ENERGY, HELD, OVERLOAD, START, Island, OutageArrays, Series, UnitArrays

NOTHING = 1e-12  # kW


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def dc_for(ac: float, k1: float, k2: float) -> float:
    """DC power that gives this AC power."""
    return ac + k1 * ac + k2 * ac * ac


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def ac_from(dc: float, k1: float, k2: float) -> float:
    """AC power that this DC power gives (the root of dc_for, written so that k2 = 0 is no special case)."""
    b = 1.0 + k1
    return 2.0 * dc / (b + math.sqrt(b * b + 4.0 * k2 * dc))


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def charge_limit(e: float, top: float, limit: float, taper: float, end: float) -> float:
    """Charging power at the DC bus that the cells take at this energy: it falls from the taper to the top."""
    if e <= taper:
        return limit
    return limit * (1.0 - (1.0 - end) * (e - taper) / max(top - taper, 1e-12))


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def taken_in(e: float, top: float, left: float, limit: float, eta: float, dt: float) -> float:
    """DC power of what is left that goes into the cells in a step."""
    return max(0.0, min(left, limit, (top - e) / eta / dt))


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def given_out(e: float, floor: float, limit: float, eta: float, dt: float) -> float:
    """DC power that the cells can give in a step, down to their floor."""
    return max(0.0, min(limit, (e - floor) * eta / dt))


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def lost_above(ac: float, most: float, left: float, k1: float, k2: float) -> float:
    """DC power that the inverter, giving `ac`, can't turn into more than `most`."""
    return max(0.0, left - (dc_for(most, k1, k2) - dc_for(ac, k1, k2)))


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def part_of(asked: float, able: float, together: float) -> float:
    """What one of several gives or takes of what is asked: in proportion to what each is able to; all where
    it is alone."""
    if together <= asked:
        return able
    if able == together:
        return asked
    return asked * able / together


@njit(cache=True, nogil=True, error_model="numpy")
def dispatch(  # noqa: C901  (one loop that numba compiles; its parts are named in comments)
    units: UnitArrays,
    pv_dc: Floats,
    load: Floats,
    target_e: Floats,
    window_kw: Floats,
    e_start: Floats,
    export_kw: float,
    import_kw: float,
    dt: float,
) -> Series:
    """Self-consumption with charge windows. pv_dc (U, T), load (P, T), target_e and window_kw (U, T).

    Each step: sun to loads, then into the own battery, then to AC-coupled batteries, then to the grid
    (units of a phase share in proportion to what each could give or take, so that their order is nothing).
    What units give that keep no limit is exported whole; the others share what the export limit leaves
    in proportion, and what is left over is curtailed. A deficit comes from the battery down to its
    floor, then from the grid. Inside a window (window_kw > 0) the battery is not discharged and is
    charged from the grid up to target_e as far as the import limit leaves room.
    """
    n_units, n_steps = pv_dc.shape
    n_phases = load.shape[0]
    pv_ac = np.zeros((n_units, n_steps))
    bat_ac = np.zeros((n_units, n_steps))
    pv_used = np.zeros((n_units, n_steps))
    bat_dc = np.zeros((n_units, n_steps))
    clipped = np.zeros((n_units, n_steps))
    curtailed = np.zeros((n_units, n_steps))
    energy = np.zeros((n_units, n_steps))
    grid = np.zeros((n_phases, n_steps))
    e = e_start.copy()
    net = np.zeros(n_phases)
    pool = np.zeros(n_phases)
    direct = np.zeros(n_units)
    extra = np.zeros(n_units)
    sun_in = np.zeros(n_units)  # into the battery from its own array, from anywhere, and from the AC bus
    stored = np.zeros(n_units)
    limit = np.zeros(n_units)
    taken = np.zeros(n_units)
    able = np.zeros(n_units)  # what each unit could give or take, and all of a phase together
    together = np.zeros(n_phases)
    surplus = np.zeros(
        n_phases
    )  # all that a phase's units could still give, and what of the rest of it nothing holds
    loose = np.zeros(n_phases)
    for t in range(n_steps):
        for p in range(n_phases):
            net[p] = load[p, t]
            pool[p] = 0.0
            together[p] = 0.0
        for u in range(n_units):
            available = min(pv_dc[u, t], units.pv_max_kw[u])
            able[u] = min(units.rated_kw[u], ac_from(available, units.k1[u], units.k2[u]))
            if window_kw[u, t] > 0.0 and e[u] < target_e[u, t]:
                able[u] = 0.0  # the unit charges: its sun goes into the battery first
            together[units.phase[u]] += able[u]
        for u in range(n_units):
            p = units.phase[u]
            k1, k2 = units.k1[u], units.k2[u]
            available = min(pv_dc[u, t], units.pv_max_kw[u])
            ac = part_of(load[p, t], able[u], together[p])
            left = available - dc_for(ac, k1, k2)
            if left < NOTHING:  # what rounding leaves is no surplus
                left = 0.0
            net[p] -= ac
            limit[u] = charge_limit(
                e[u], units.e_top[u], units.charge_kw[u], units.e_taper[u], units.taper_end[u]
            )
            charge = taken_in(e[u], units.e_top[u], left, limit[u], units.eta_charge[u], dt)
            sun_in[u] = charge
            stored[u] = charge
            taken[u] = 0.0
            left -= charge
            most = min(units.rated_kw[u], ac_from(dc_for(ac, k1, k2) + left, k1, k2))
            direct[u] = ac
            extra[u] = max(0.0, most - ac)
            pool[p] += extra[u]
            clipped[u, t] = pv_dc[u, t] - available + lost_above(ac, most, left, k1, k2)
        for p in range(n_phases):
            together[p] = 0.0
        for u in range(n_units):  # AC-coupled batteries take what is over on their phase
            able[u] = 0.0
            if units.ac_charge[u] == 1 and direct[u] == 0.0 and extra[u] == 0.0:
                k1, k2 = units.k1[u], units.k2[u]
                room = min(limit[u], (units.e_top[u] - e[u]) / units.eta_charge[u] / dt) - stored[u]
                able[u] = min(units.rated_kw[u], dc_for(max(0.0, room), k1, k2))
            together[units.phase[u]] += able[u]
        for p in range(n_phases):
            net[p] = max(net[p], 0.0)  # what rounding leaves of a load that the sun covers is none
            before = pool[p]
            for u in range(n_units):
                if units.phase[u] == p and able[u] > 0.0 and before > 0.0:
                    ac = part_of(before, able[u], together[p])
                    stored[u] += ac_from(ac, units.k1[u], units.k2[u])
                    taken[u] += ac
                    pool[p] -= ac
            pool[p] = max(pool[p], 0.0)
        for p in range(n_phases):
            surplus[p] = 0.0
            loose[p] = 0.0
        for u in range(n_units):
            surplus[units.phase[u]] += extra[u]
            if units.keeps_limit[u] == 0:
                loose[units.phase[u]] += extra[u]
        total = 0.0
        room = export_kw
        for p in range(n_phases):
            loose[p] = pool[p] * loose[p] / surplus[p] if surplus[p] > 0.0 else 0.0
            total += pool[p] - loose[p]
            room -= loose[p]
        room = max(0.0, room)
        keep = 1.0 if total <= room else room / total
        for u in range(n_units):
            p = units.phase[u]
            k1, k2 = units.k1[u], units.k2[u]
            made = direct[u]
            if extra[u] > 0.0:
                kept = keep if units.keeps_limit[u] == 1 else 1.0
                share = (surplus[p] - pool[p] + pool[p] * kept) / surplus[p]  # exported or charged elsewhere
                made += extra[u] * share
            pv_ac[u, t] = made
            pv_used[u, t] = dc_for(made, k1, k2) + sun_in[u]
            curtailed[u, t] = max(0.0, dc_for(direct[u] + extra[u], k1, k2) - dc_for(made, k1, k2))
            e[u] += stored[u] * units.eta_charge[u] * dt
            bat_dc[u, t] = -stored[u]
            bat_ac[u, t] = -taken[u]
        for p in range(n_phases):
            grid[p, t] = net[p] - loose[p] - (pool[p] - loose[p]) * keep
        bought = 0.0
        for p in range(n_phases):
            bought += max(0.0, grid[p, t])
            together[p] = 0.0
        charging = 0.0
        for u in range(n_units):  # what each could take in its window, else give to its phase
            p = units.phase[u]
            k1, k2 = units.k1[u], units.k2[u]
            able[u] = 0.0
            if window_kw[u, t] > 0.0:
                if e[u] < target_e[u, t] and pv_ac[u, t] == 0.0:
                    room = min(limit[u] - stored[u], (target_e[u, t] - e[u]) / units.eta_charge[u] / dt)
                    able[u] = max(
                        0.0,
                        min(window_kw[u, t], units.rated_kw[u] - taken[u], dc_for(max(0.0, room), k1, k2)),
                    )
                    charging += able[u]
            elif grid[p, t] > 0.0 and stored[u] == 0.0:
                most = given_out(e[u], units.e_floor[u], units.discharge_kw[u], units.eta_discharge[u], dt)
                base = dc_for(pv_ac[u, t], k1, k2)
                if most > 0.0:
                    able[u] = max(
                        0.0, min(units.rated_kw[u] - pv_ac[u, t], ac_from(base + most, k1, k2) - pv_ac[u, t])
                    )
                    together[p] += able[u]
        for p in range(n_phases):
            pool[p] = grid[p, t]
        for u in range(n_units):
            p = units.phase[u]
            k1, k2 = units.k1[u], units.k2[u]
            if able[u] > 0.0 and window_kw[u, t] > 0.0:
                ac = part_of(max(0.0, import_kw - bought), able[u], charging)
                dc = ac_from(ac, k1, k2)
                e[u] += dc * units.eta_charge[u] * dt
                bat_dc[u, t] -= dc
                bat_ac[u, t] -= ac
                grid[p, t] += ac
            elif able[u] > 0.0:
                ac = part_of(pool[p], able[u], together[p])
                dc = dc_for(pv_ac[u, t] + ac, k1, k2) - dc_for(pv_ac[u, t], k1, k2)
                e[u] -= dc / units.eta_discharge[u] * dt
                bat_dc[u, t] = dc
                bat_ac[u, t] = ac
                grid[p, t] -= ac
            energy[u, t] = e[u]
    return Series(pv_ac, bat_ac, pv_used, bat_dc, clipped, curtailed, energy, grid)


@njit(cache=True, nogil=True, error_model="numpy")
def outage(
    arrays: OutageArrays, island: Island, start: int, e_start: float, horizon: int, dt: float, trace: Floats
) -> tuple[float, int]:
    """One outage: hours it lasts and why it ends. Steps run on over the year's end.

    `trace` of shape (horizon, 4) is filled with battery energy at the step's end, AC power to the circuits,
    sun taken (DC) and how many tiers of shed-first circuits are on; of shape (0, 4) it is left alone.
    """
    n = arrays.pv_dc.size
    tiers = arrays.shed_soc.size
    e = e_start
    on = 0  # how many tiers of shed-first circuits are on; those with the lowest level stay longest
    while on < tiers and e > arrays.shed_soc[on] * island.capacity_kwh:
        on += 1
    back = 0.1 * (island.e_top - island.e_floor)
    for i in range(horizon):
        t = (start + i) % n
        while on > 0 and e <= arrays.shed_soc[on - 1] * island.capacity_kwh:
            on -= 1
        while on < tiers and e > arrays.shed_soc[on] * island.capacity_kwh + back:
            on += 1
        sun = min(arrays.pv_dc[t], island.pv_max_kw)
        k = on
        while k > 0 and (  # an overload drops shed-first circuits for the step
            arrays.running[k, t] > island.rated_kva
            or arrays.kw[k, t] > island.rated_kw
            or arrays.peak[k, t] > island.surge_kva
            or dc_for(arrays.kw[k, t], island.k1, island.k2) - sun > island.discharge_kw
        ):
            k -= 1
        need = arrays.kw[k, t]
        running = arrays.running[k, t]
        peak = arrays.peak[k, t]
        if running > island.rated_kva or need > island.rated_kw:
            return i * dt, OVERLOAD
        if peak > island.surge_kva:
            return i * dt, START
        dc_need = dc_for(need, island.k1, island.k2)
        if sun >= dc_need:
            charge = min(
                sun - dc_need,
                charge_limit(e, island.e_top, island.charge_kw, island.e_taper, island.taper_end),
                (island.e_top - e) / island.eta_charge / dt,
            )
            e += charge * island.eta_charge * dt
            sun = dc_need + charge
        else:
            missing = dc_need - sun
            if missing > island.discharge_kw * (1 + 1e-12):
                return i * dt, OVERLOAD
            drain = missing / island.eta_discharge * dt
            if drain > e - island.e_floor:
                return (i + max(0.0, e - island.e_floor) / drain) * dt, ENERGY
            e -= drain
        if trace.shape[0] > 0:
            trace[i, 0] = e
            trace[i, 1] = need
            trace[i, 2] = sun
            trace[i, 3] = k
    return horizon * dt, HELD


@njit(cache=True, nogil=True, error_model="numpy")
def ride_through(
    arrays: OutageArrays, island: Island, starts: Ints, e_starts: Floats, horizon: int, dt: float
) -> Floats:
    """Hours that each of many outages lasts, shape of `starts`."""
    hours = np.zeros(starts.size)
    nothing = np.zeros((0, 4))
    for i in range(starts.size):
        hours[i] = outage(arrays, island, starts[i], e_starts[i], horizon, dt, nothing)[0]
    return hours


@njit(cache=True, nogil=True, error_model="numpy")
def energy_needed(arrays: OutageArrays, island: Island, starts: Ints, horizon: int, dt: float) -> Floats:
    """Least energy that each of many outages must begin with to last the horizon, shape of `starts`, kWh.

    Reckoned backwards with the held circuits only. Infinite where no battery of this size is enough.
    """
    n = arrays.pv_dc.size
    result = np.zeros(starts.size)
    for i in range(starts.size):
        need = island.e_floor
        for back in range(horizon - 1, -1, -1):
            t = (starts[i] + back) % n
            dc_need = dc_for(arrays.kw[0, t], island.k1, island.k2)
            sun = min(arrays.pv_dc[t], island.pv_max_kw)
            if sun >= dc_need:
                need = max(
                    island.e_floor, need - min(sun - dc_need, island.charge_kw) * island.eta_charge * dt
                )
            else:
                need += (dc_need - sun) / island.eta_discharge * dt
            if need > island.e_top:
                need = np.inf
                break
        result[i] = need
    return result
