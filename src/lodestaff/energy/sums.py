"""A year of dispatch of which only sums are wanted: what each cell of a map is shaded by.

Plain Python that numba compiles; the year itself is the loop of `kernels.py`.
"""

from typing import NamedTuple

import numpy as np

from lodestaff.energy.calendar import Floats, Ints
from lodestaff.energy.compiled import njit
from lodestaff.energy.kernels import dispatch_into
from lodestaff.energy.records import ControlArrays, Forecast, OrderArrays, UnitArrays

ROUNDING = 1e-12  # kW: what a sum of floats leaves of nothing


class Meter(NamedTuple):
    """What a meter counts and what that costs. `drawn` of shape (phase, step) is the load with the units' own
    use; `part` of shape (phase, unit) is how much of a unit's power goes to a phase."""

    drawn: Floats
    part: Floats
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
    room: Floats,
) -> tuple[float, float, float, float, float]:
    """The sums of a year of units on their controllers; arguments as for `dispatch_into`."""
    dispatch_into(units, controls, pv_dc, orders, ahead, e_start, dt, room)
    pv_ac, battery_ac, curtailed = room[0], room[1], room[5]
    phases, steps = meter.drawn.shape
    count = pv_dc.shape[0]
    imported, lost, cost, income = 0.0, 0.0, 0.0, 0.0
    highest = np.zeros(12)
    for t in range(steps):
        bought, sold, net = 0.0, 0.0, 0.0
        for phase in range(phases):
            grid = meter.drawn[phase, t]
            given = 0.0
            for u in range(count):
                if meter.part[phase, u] > 0.0:
                    given += (pv_ac[u, t] + battery_ac[u, t]) * meter.part[phase, u]
            grid -= given
            if abs(grid) < ROUNDING:
                grid = 0.0
            net += grid
            bought += max(0.0, grid)
            sold += max(0.0, -grid)
        if meter.netted:
            bought, sold = max(0.0, net), max(0.0, -net)
        imported += bought
        cost += bought * meter.price[t]
        income += min(sold, meter.paid_kw) * meter.export_price[t]
        highest[meter.month[t]] = max(highest[meter.month[t]], bought)
        for u in range(count):
            lost += curtailed[u, t]
    return imported * dt, lost * dt, cost * dt, income * dt, highest.sum()
