"""A year of dispatch with the grid there: one of the loops over time that must be fast.

It is plain Python that numba compiles; `.py_func` is the same rule uncompiled. Arrays are float64
and contiguous; powers in kW, energies in kWh. A unit's DC-to-AC loss is k1 x P + k2 x P² of its AC
power P; its battery path loses by eta_charge and eta_discharge.
"""

import math

import numpy as np

from lodestaff.energy.calendar import Floats
from lodestaff.energy.compiled import njit
from lodestaff.energy.records import (
    CHARGE,
    GIVE,
    HOLD,
    SHAVE,
    ControlArrays,
    Forecast,
    OrderArrays,
    Series,
    UnitArrays,
)

NOTHING = 1e-12  # kW
SURE = 1.2  # a forecast must bring so much more than fits before a battery waits


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def dc_for(ac: float, k1: float, k2: float) -> float:
    """DC power that gives this AC power."""
    return ac + k1 * ac + k2 * ac * ac


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def ac_from(dc: float, k1: float, k2: float) -> float:
    """AC power that this DC power gives (the root of dc_for, written so that k2 = 0 is no special case)."""
    if dc == 0.0:  # half of all steps are nights
        return 0.0
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
    if left <= 0.0:
        return 0.0
    return max(0.0, min(left, limit, (top - e) / eta / dt))


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def given_out(e: float, floor: float, limit: float, eta: float, dt: float) -> float:
    """DC power that the cells can give in a step, down to their floor."""
    if e <= floor:
        return 0.0
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
def room_level(ahead: Forecast, u: int, t: int, room: float, dt: float) -> float:
    """Surplus above which a battery with so much room (kWh, as charged) takes it, so that the rest of the day
    fills it; 0 where the rest is hardly enough."""
    end = (t // int(24 / dt) + 1) * int(24 / dt)
    total, high = 0.0, 0.0
    for i in range(t, end):
        spare = ahead.ratio[u, t] * ahead.clear_kw[u, i] - ahead.usual_kw[u, i]
        total += max(0.0, spare)
        high = max(high, spare)
    if total * dt <= room * SURE:
        return 0.0
    low, high = 0.0, min(high, ahead.most_kw[u])
    for _ in range(12):
        level, above = (low + high) / 2, 0.0
        for i in range(t, end):
            above += max(0.0, ahead.ratio[u, t] * ahead.clear_kw[u, i] - ahead.usual_kw[u, i] - level)
        if above * dt >= room * SURE:
            low = level
        else:
            high = level
    return low


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def rule(  # noqa: C901  (one loop that numba compiles; its parts are named in comments)
    few: int,
    units: UnitArrays,
    controls: ControlArrays,
    pv_dc: Floats,
    orders: OrderArrays,
    ahead: Forecast,
    e_start: Floats,
    dt: float,
    series: Floats,
) -> None:
    """A year of units on their controllers. pv_dc (U, T); orders say what each battery is told in each step.
    `series` of shape (7, U, T) is filled, in the order of Series. `few`, a constant to the compiler: so many
    units, each led by itself, so that nothing need be counted; 0: any.

    Controllers act in the order of their ranks: each meets the load that its transformer sees, less what
    units of earlier ranks give there. Within one: sun to loads, then into the own battery, then to batteries
    that charge from AC, then out past the transformer as far as its limit leaves room (units share in
    proportion to what each could give or take, so that their order is nothing); the rest is curtailed. A
    deficit comes from batteries down to their floor, then from the grid. Told to charge, a battery takes from
    the grid up to its target as far as the import limit leaves room; told to hold, it waits; told to give, it
    gives to the grid as well; told to shave, it gives what is above the peak and else charges below it.
    """
    n_steps = pv_dc.shape[1]
    n_units = few if few > 0 else pv_dc.shape[0]
    n_ranks = 1 if few > 0 else controls.first.size - 1
    n_controls, n_limits = (few, few) if few > 0 else (controls.limit.size, controls.export_kw.size)
    pv_ac, bat_ac, pv_used, bat_dc = series[0], series[1], series[2], series[3]
    clipped, curtailed, energy = series[4], series[5], series[6]
    e = e_start.copy()
    need = np.zeros(n_controls)  # what the transformer sees drawn, and what it sees given by others
    others = np.zeros(n_controls)
    pool = np.zeros(n_controls)  # what would go out past it
    surplus = np.zeros(n_controls)  # of that, what its own units could hold back
    cut = np.zeros(n_controls)
    grid = np.zeros(n_controls)
    together = np.zeros(n_controls)
    over = np.zeros(n_limits)
    held_back = np.zeros(n_limits)
    bought = np.zeros(n_limits)
    sold = np.zeros(n_limits)
    charging = np.zeros(n_limits)
    selling = np.zeros(n_limits)
    direct = np.zeros(n_units)
    extra = np.zeros(n_units)
    sun_in = np.zeros(n_units)  # into the battery from its own array, from anywhere, and from the AC bus
    stored = np.zeros(n_units)
    limit = np.zeros(n_units)
    taken = np.zeros(n_units)
    able = np.zeros(n_units)  # what each unit could give or take, and all of a controller together
    out = np.zeros(n_units)
    keeps_room = ahead.clear_kw.shape[1] > 1
    wait = np.zeros(n_units)
    for t in range(n_steps):
        for rank in range(n_ranks):
            first = 0 if few > 0 else controls.first[rank]
            last = few if few > 0 else controls.first[rank + 1]
            for c in range(first, last):
                net = controls.load[c, t]
                if rank > 0:
                    for u in range(n_units):
                        net -= controls.sees[c, u] * out[u]
                need[c] = max(0.0, net)
                others[c] = max(0.0, -net)
                pool[c] = 0.0
                together[c] = 0.0
            for u in range(n_units):
                c = u if few > 0 else units.control[u]
                if c < first or c >= last:
                    continue
                available = min(pv_dc[u, t], units.pv_max_kw[u])
                able[u] = min(units.rated_kw[u], ac_from(available, units.k1[u], units.k2[u]))
                if orders.what[u, t] == CHARGE and e[u] < orders.target_e[u, t]:
                    able[u] = 0.0  # the unit charges: its sun goes into the battery first
                together[c] += able[u]
            for u in range(n_units):
                c = u if few > 0 else units.control[u]
                if c < first or c >= last:
                    continue
                k1, k2 = units.k1[u], units.k2[u]
                available = min(pv_dc[u, t], units.pv_max_kw[u])
                ac = part_of(need[c], able[u], together[c])
                left = available - dc_for(ac, k1, k2)
                if left < NOTHING:  # what rounding leaves is no surplus
                    left = 0.0
                limit[u] = charge_limit(
                    e[u], units.e_top[u], units.charge_kw[u], units.e_taper[u], units.taper_end[u]
                )
                most_in = limit[u]
                if keeps_room:  # for the sun that is to come
                    if t % int(1 / dt) == 0:
                        room = max(0.0, units.e_top[u] - e[u]) / units.eta_charge[u]
                        wait[u] = room_level(ahead, u, t, room, dt)
                    most_in = min(most_in, max(0.0, left - wait[u]) if wait[u] > 0.0 else most_in)
                if orders.what[u, t] == GIVE and e[u] > orders.target_e[u, t]:
                    limit[u], most_in = 0.0, 0.0  # what gives takes nothing in
                charge = taken_in(e[u], units.e_top[u], left, most_in, units.eta_charge[u], dt)
                sun_in[u] = charge
                stored[u] = charge
                taken[u] = 0.0
                left -= charge
                most = ac
                if left > 0.0:  # roots are what a year's time goes to
                    most = min(units.rated_kw[u], ac_from(dc_for(ac, k1, k2) + left, k1, k2))
                direct[u] = ac
                extra[u] = max(0.0, most - ac)
                pool[c] += extra[u]
                clipped[u, t] = pv_dc[u, t] - available + lost_above(ac, most, left, k1, k2)
            for c in range(first, last):
                surplus[c] = pool[c]
                pool[c] += others[c]
                grid[c] = need[c] - together[c] if together[c] < need[c] else 0.0
                together[c] = 0.0
            for u in range(n_units):  # batteries that charge from AC take what is over at their transformer
                c = u if few > 0 else units.control[u]
                if c < first or c >= last:
                    continue
                able[u] = 0.0
                if units.ac_charge[u] == 1 and direct[u] == 0.0 and extra[u] == 0.0 and pool[c] > 0.0:
                    k1, k2 = units.k1[u], units.k2[u]
                    room = min(limit[u], (units.e_top[u] - e[u]) / units.eta_charge[u] / dt) - stored[u]
                    able[u] = min(units.rated_kw[u], dc_for(max(0.0, room), k1, k2))
                    if keeps_room and wait[u] > 0.0:
                        able[u] = min(able[u], max(0.0, pool[c] - wait[u]))
                together[c] += able[u]
            for u in range(n_units):
                c = u if few > 0 else units.control[u]
                if able[u] > 0.0 and first <= c < last and together[c] > 0.0:
                    ac = part_of(surplus[c] + others[c], able[u], together[c])
                    stored[u] += ac_from(ac, units.k1[u], units.k2[u])
                    taken[u] += ac
                    pool[c] = max(0.0, pool[c] - ac)
            for c in range(first, last):  # what goes out past the limit is held back, in proportion
                at = c if few > 0 else controls.limit[c]
                over[at], held_back[at] = 0.0, 0.0
            for c in range(first, last):
                at = c if few > 0 else controls.limit[c]
                over[at] += pool[c]
                held_back[at] += min(pool[c], surplus[c])
            for c in range(first, last):
                at = c if few > 0 else controls.limit[c]
                too_much = max(0.0, over[at] - controls.export_kw[at])
                share = min(1.0, too_much / held_back[at]) if held_back[at] > 0.0 else 0.0
                cut[c] = min(pool[c], surplus[c]) * share
                grid[c] += cut[c] - pool[c]
            for u in range(n_units):
                c = u if few > 0 else units.control[u]
                if c < first or c >= last:
                    continue
                k1, k2 = units.k1[u], units.k2[u]
                made = direct[u]
                if extra[u] > 0.0:
                    made += extra[u] * (surplus[c] - cut[c]) / surplus[c]
                pv_ac[u, t] = made
                pv_used[u, t] = dc_for(made, k1, k2) + sun_in[u]
                curtailed[u, t] = max(0.0, dc_for(direct[u] + extra[u], k1, k2) - dc_for(made, k1, k2))
                e[u] += stored[u] * units.eta_charge[u] * dt
                bat_dc[u, t] = -stored[u]
                bat_ac[u, t] = -taken[u]
            for c in range(first, last):
                at = c if few > 0 else controls.limit[c]
                bought[at] = 0.0
                sold[at] = 0.0
                charging[at] = 0.0
                selling[at] = 0.0
                together[c] = 0.0
            for c in range(first, last):
                at = c if few > 0 else controls.limit[c]
                bought[at] += max(0.0, grid[c])
                sold[at] += max(0.0, -grid[c])
                pool[c] = max(0.0, grid[c] - controls.spared[c, t if controls.spared.shape[1] > 1 else 0])
            for u in range(n_units):  # what each could take where it is told to charge, else give
                c = u if few > 0 else units.control[u]
                if c < first or c >= last:
                    continue
                k1, k2 = units.k1[u], units.k2[u]
                able[u] = 0.0
                what = orders.what[u, t]
                if what == SHAVE:
                    what = HOLD if pool[c] > controls.peak_kw[c] else CHARGE
                if what == CHARGE:
                    if e[u] < orders.target_e[u, t] and pv_ac[u, t] == 0.0:
                        room = min(
                            limit[u] - stored[u], (orders.target_e[u, t] - e[u]) / units.eta_charge[u] / dt
                        )
                        able[u] = max(
                            0.0,
                            min(
                                orders.power_kw[u, t],
                                units.rated_kw[u] - taken[u],
                                dc_for(max(0.0, room), k1, k2),
                            ),
                        )
                        charging[c if few > 0 else controls.limit[c]] += able[u]
                elif stored[u] == 0.0 and (pool[c] > 0.0 or what == GIVE):
                    floor = max(units.e_floor[u], orders.target_e[u, t]) if what == GIVE else units.e_floor[u]
                    most = given_out(e[u], floor, units.discharge_kw[u], units.eta_discharge[u], dt)
                    base = dc_for(pv_ac[u, t], k1, k2)
                    if most > 0.0:
                        able[u] = max(
                            0.0,
                            min(units.rated_kw[u] - pv_ac[u, t], ac_from(base + most, k1, k2) - pv_ac[u, t]),
                        )
                        together[c] += able[u]
            for u in range(n_units):
                c = u if few > 0 else units.control[u]
                if c < first or c >= last:
                    continue
                k1, k2 = units.k1[u], units.k2[u]
                at = c if few > 0 else controls.limit[c]
                what = orders.what[u, t]
                most = controls.import_kw[at]
                if what == SHAVE:
                    most = min(most, controls.peak_kw[c])
                    what = HOLD if pool[c] > controls.peak_kw[c] else CHARGE
                if able[u] > 0.0 and what == CHARGE:
                    ac = part_of(max(0.0, most - bought[at]), able[u], charging[at])
                    dc = ac_from(ac, k1, k2)
                    e[u] += dc * units.eta_charge[u] * dt
                    bat_dc[u, t] -= dc
                    bat_ac[u, t] -= ac
                    grid[c] += ac
                elif able[u] > 0.0:
                    asked = pool[c]
                    if what == HOLD:
                        asked = max(0.0, asked - controls.peak_kw[c])
                    ac = part_of(asked, able[u], together[c])
                    dc = dc_for(pv_ac[u, t] + ac, k1, k2) - dc_for(pv_ac[u, t], k1, k2)
                    e[u] -= dc / units.eta_discharge[u] * dt
                    bat_dc[u, t] = dc
                    bat_ac[u, t] = ac
                    grid[c] -= ac
                    able[u] = max(0.0, min(able[u] - ac, orders.power_kw[u, t])) if what == GIVE else 0.0
                    selling[at] += able[u]
            for u in range(n_units):  # and to the grid, as far as the limit leaves room
                c = u if few > 0 else units.control[u]
                if c < first or c >= last:
                    continue
                if able[u] > 0.0 and orders.what[u, t] == GIVE:
                    k1, k2 = units.k1[u], units.k2[u]
                    at = c if few > 0 else controls.limit[c]
                    ac = part_of(max(0.0, controls.export_kw[at] - sold[at]), able[u], selling[at])
                    made = pv_ac[u, t] + bat_ac[u, t]
                    dc = dc_for(made + ac, k1, k2) - dc_for(made, k1, k2)
                    e[u] -= dc / units.eta_discharge[u] * dt
                    bat_dc[u, t] += dc
                    bat_ac[u, t] += ac
                out[u] = pv_ac[u, t] + bat_ac[u, t]
                energy[u, t] = e[u]


@njit(cache=True, nogil=True, error_model="numpy")
def dispatch_into(
    units: UnitArrays,
    controls: ControlArrays,
    pv_dc: Floats,
    orders: OrderArrays,
    ahead: Forecast,
    e_start: Floats,
    dt: float,
    series: Floats,
) -> None:
    """The rule, for any units or for one or two each led by itself; arguments as `rule` has them."""
    count = pv_dc.shape[0]
    itself = controls.first.size == 2 and controls.limit.size == controls.export_kw.size == count
    for u in range(count):
        itself = itself and units.control[u] == u and controls.limit[u] == u
    if itself and count == 1:
        rule(1, units, controls, pv_dc, orders, ahead, e_start, dt, series)
    elif itself and count == 2:
        rule(2, units, controls, pv_dc, orders, ahead, e_start, dt, series)
    else:
        rule(0, units, controls, pv_dc, orders, ahead, e_start, dt, series)


@njit(cache=True, nogil=True, error_model="numpy")
def dispatch(
    units: UnitArrays,
    controls: ControlArrays,
    pv_dc: Floats,
    orders: OrderArrays,
    ahead: Forecast,
    e_start: Floats,
    dt: float,
) -> Series:
    """A year of units on their controllers, as `rule` has it."""
    room = np.zeros((7, *pv_dc.shape))
    dispatch_into(units, controls, pv_dc, orders, ahead, e_start, dt, room)
    return Series(room[0], room[1], room[2], room[3], room[4], room[5], room[6], pv_dc[:0])
