"""A year of dispatch of which only sums are wanted: what each cell of a map is shaded by.

Plain Python that numba compiles; the year itself is the loop of `kernels.py`.
"""

from typing import NamedTuple

import numpy as np

from lodestaff.energy.calendar import Floats, Ints
from lodestaff.energy.compiled import njit
from lodestaff.energy.kernels import ac_from, dc_for, dispatch_into
from lodestaff.energy.records import ControlArrays, Forecast, OrderArrays, UnitArrays

ROUNDING = 1e-12  # kW: what a sum of floats leaves of nothing


class Meter(NamedTuple):
    """What a meter counts and what that costs."""

    netted: bool  # whether it counts the sum of its phases
    price: Floats  # of import, a kWh, shape (step,)
    export_price: Floats
    paid_kw: float  # of all export so much is paid
    month: Ints  # of each step, 0 to 11


class Sums(NamedTuple):
    """A year's import and lost sun, kWh, money, and the sum of the months' highest imports, kW."""

    import_kwh: float
    curtailed_kwh: float
    import_cost: float
    export_income: float
    highest_kw: float


class Feeding(NamedTuple):
    """How units feed phases: what part of a unit's power goes to each, shape (phase, unit), and what one that
    can feed them unequally gives to one of them at most, kW, shape (unit,); 0 for all others."""

    part: Floats
    unequal_kw: Floats


@njit(cache=True, nogil=True, error_model="numpy")
def grid_into(drawn: Floats, feeding: Feeding, pv_ac: Floats, battery_ac: Floats, grid: Floats) -> None:
    """What each phase takes of the grid, kW, into `grid` of shape (phase, step): what is drawn there, own use
    with it, less what the units give, as `onto_phases` has it."""
    phases, steps = drawn.shape
    part, unequal_kw = feeding.part, feeding.unequal_kw
    grid[:] = drawn
    for u in range(part.shape[1]):
        if unequal_kw[u] == 0.0:
            for phase in range(phases):
                if part[phase, u] > 0.0:
                    for t in range(steps):
                        grid[phase, t] -= (pv_ac[u, t] + battery_ac[u, t]) * part[phase, u]
            continue
        for t in range(steps):
            out, asked = pv_ac[u, t] + battery_ac[u, t], 0.0
            for phase in range(phases):
                if part[phase, u] > 0.0:
                    asked += min(max(drawn[phase, t], 0.0), unequal_kw[u])
            met = min(1.0, out / asked) if out > 0.0 and asked > 0.0 else 0.0
            for phase in range(phases):
                if part[phase, u] > 0.0:
                    first = min(max(drawn[phase, t], 0.0), unequal_kw[u]) * met
                    grid[phase, t] -= first + (out - asked * met) * part[phase, u]
    for phase in range(phases):
        for t in range(steps):
            if abs(grid[phase, t]) < ROUNDING:
                grid[phase, t] = 0.0


@njit(cache=True, nogil=True, error_model="numpy")
def counted(
    meter: Meter, grid: Floats, curtailed: Floats, dt: float
) -> tuple[float, float, float, float, float]:
    """The year's Sums of what phases take, shape (phase, step), and of lost sun, shape (unit, step)."""
    imported, cost, income = 0.0, 0.0, 0.0
    highest = np.zeros(12)
    for t in range(grid.shape[1]):
        bought, sold, net = 0.0, 0.0, 0.0
        for phase in range(grid.shape[0]):
            net += grid[phase, t]
            bought += max(0.0, grid[phase, t])
            sold += max(0.0, -grid[phase, t])
        if meter.netted:
            bought, sold = max(0.0, net), max(0.0, -net)
        imported += bought
        cost += bought * meter.price[t]
        income += min(sold, meter.paid_kw) * meter.export_price[t]
        highest[meter.month[t]] = max(highest[meter.month[t]], bought)
    return imported * dt, curtailed.sum() * dt, cost * dt, income * dt, highest.sum()


class Losing(NamedTuple):
    """Units whose curtailed sun is somebody's: their losses, what part of each goes to a row, shape (row,
    unit), on which row each battery is looked at, and what it holds, kWh."""

    k1: Floats
    k2: Floats
    part: Floats
    row: Ints
    capacity: Floats


@njit(cache=True, nogil=True, error_model="numpy")
def over_into(
    units: Losing, grid: Floats, pv_ac: Floats, curtailed: Floats, energy: Floats, spare: Floats, soc: Floats
) -> None:
    """What each row exports or loses by curtailment, as AC power, kW, and how full its batteries are at the
    step's end (1 where there is none), into `spare` and `soc` of shape (row, step). A row is a phase, or
    there is one where the meter sums them; `grid` of the same shape."""
    rows, steps = spare.shape
    for row in range(rows):
        holds = 0.0
        for u in range(units.row.size):
            holds += units.capacity[u] if units.row[u] == row else 0.0
        for t in range(steps):
            spare[row, t] = max(0.0, -grid[row, t])
            soc[row, t] = 0.0 if holds > 0.0 else 1.0
        for u in range(units.row.size):
            k1, k2, part = units.k1[u], units.k2[u], units.part[row, u]
            if part > 0.0:
                for t in range(steps):
                    if curtailed[u, t] > 0.0:
                        made = pv_ac[u, t]
                        able = ac_from(dc_for(made, k1, k2) + curtailed[u, t], k1, k2)
                        spare[row, t] += max(0.0, able - made) * part
            if units.row[u] == row and units.capacity[u] > 0.0:
                for t in range(steps):
                    soc[row, t] += energy[u, t] / holds


@njit(cache=True, nogil=True, error_model="numpy")
def year_sums(
    units: UnitArrays,
    controls: ControlArrays,
    pv_dc: Floats,
    orders: OrderArrays,
    ahead: Forecast,
    e_start: Floats,
    dt: float,
    meter: Meter,
    drawn: Floats,
    feeding: Feeding,
    series: Floats,
    grid: Floats,
) -> tuple[float, float, float, float, float]:
    """The Sums of a year of units on their controllers; `series` and `grid` are filled on the way, as
    `dispatch_into` and `grid_into` have it."""
    dispatch_into(units, controls, pv_dc, orders, ahead, e_start, dt, series)
    grid_into(drawn, feeding, series[0], series[1], grid)
    return counted(meter, grid, series[5], dt)
