"""The best that one battery can do with everything known beforehand: a dynamic programme over its energy.

Plain Python that numba compiles, on the physics of the year's loop. Powers in kW, energies in kWh, money in
currency units. Between levels of energy the value of what is stored is a straight line (Bellman's
recursion; derived).
"""

from typing import NamedTuple

import numpy as np

from lodestaff.energy.calendar import Floats
from lodestaff.energy.compiled import njit
from lodestaff.energy.kernels import NOTHING, ac_from, charge_limit, dc_for

NEVER = 1e12  # what can't be done costs so much
BEYOND = 1e3  # a kWh beyond what is to be kept below
BY_STEP = ("load", "spared", "sun_dc", "sun_ac", "price", "export_price", "beside", "most")  # of what is seen


class Seen(NamedTuple):
    """What a controller's transformer sees in each step, shape (T,), and what it keeps."""

    load: Floats
    spared: Floats  # of the load what the battery never serves
    sun_dc: Floats  # of the battery's own unit, not above what it takes
    sun_ac: Floats  # of all others, as far as they could give
    price: Floats  # of import, a kWh
    export_price: Floats
    beside: Floats  # drawn on its row of the meter besides what it sees
    most: Floats  # what its row's import is kept below where it can be
    export_kw: float
    import_kw: float


class Store(NamedTuple):
    """The battery and its unit."""

    rated_kw: float
    k1: float
    k2: float
    floor: float
    top: float
    charge_kw: float
    discharge_kw: float
    eta_in: float
    eta_out: float
    taper: float
    taper_end: float
    gives: float  # 1: the battery may feed the grid


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def grid_of(seen: Seen, store: Store, t: int, flow: float) -> float:
    """Grid power of a step if the battery gives `flow` at the DC bus (negative: takes); NEVER if it can't."""
    sun, load = seen.sun_dc[t], seen.load[t] - seen.sun_ac[t]
    if flow >= 0.0:
        alone = min(store.rated_kw, ac_from(sun, store.k1, store.k2))
        out = min(store.rated_kw, ac_from(sun + flow, store.k1, store.k2))
        served = load - (seen.spared[t] if seen.spared[t] > 0.0 else 0.0)
        if store.gives == 0.0 and out - alone > max(0.0, served - alone) + 1e-9:
            return NEVER
        if store.gives > 0.0 and load - out < -seen.export_kw - 1e-9 and out > alone:
            return NEVER
        return max(load - out, -seen.export_kw)  # type: ignore[no-any-return]
    from_sun = min(sun, -flow)
    from_ac = -flow - from_sun
    if from_ac > NOTHING:
        taken = dc_for(from_ac, store.k1, store.k2)
        grid = load + taken
        if taken > store.rated_kw + 1e-9 or (grid > seen.import_kw + 1e-9 and grid > load):
            return NEVER
        return max(grid, -seen.export_kw)  # type: ignore[no-any-return]
    out = min(store.rated_kw, ac_from(sun - from_sun, store.k1, store.k2))
    return max(load - out, -seen.export_kw)  # type: ignore[no-any-return]


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def paid(seen: Seen, t: int, grid: float) -> float:
    """What a grid power, as the transformer sees it, costs in an hour at the meter."""
    grid += seen.beside[t]
    price: float = seen.price[t] if grid > 0.0 else seen.export_price[t]
    beyond: float = BEYOND * (grid - seen.most[t]) if grid > seen.most[t] else 0.0
    return grid * price + beyond


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def worth(values: Floats, store: Store, e: float) -> float:
    """Cost to come of an energy, between levels on a straight line."""
    count = values.size
    width = max(store.top - store.floor, NOTHING)
    place = min(max((e - store.floor) / width, 0.0), 1.0) * (count - 1)
    low = min(int(place), count - 2)
    cost: float = values[low] + (values[low + 1] - values[low]) * (place - low)
    return cost


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def taking(seen: Seen, store: Store, t: int, kind: int, most_in: float) -> float:
    """What the battery may take in a step where that follows from powers, not from a level: `kind` 0 to 4."""
    sun, load = seen.sun_dc[t], seen.load[t] - seen.sun_ac[t]
    if kind == 0:  # all that would go out
        spare = max(0.0, sun - dc_for(min(max(0.0, load), store.rated_kw), store.k1, store.k2))
        flow = spare + ac_from(min(store.rated_kw, max(0.0, -load)), store.k1, store.k2)
    elif kind == 1:  # what would be lost past the limit
        room = max(0.0, load + seen.export_kw)
        spare = max(0.0, sun - dc_for(min(room, store.rated_kw), store.k1, store.k2))
        flow = spare + ac_from(min(store.rated_kw, max(0.0, -load - seen.export_kw)), store.k1, store.k2)
    elif kind == 2:  # the sun and the grid, as far as both go
        most = min(seen.import_kw, seen.most[t] - seen.beside[t])
        flow = sun + ac_from(min(store.rated_kw, max(0.0, most - load)), store.k1, store.k2)
    elif kind == 3:  # what goes out at the meter, though the transformer doesn't see it
        spare = min(store.rated_kw, max(0.0, -load - seen.beside[t]), max(0.0, seen.import_kw - load))
        flow = sun + ac_from(spare, store.k1, store.k2)
    else:  # the sun alone
        flow = sun
    return -min(most_in, flow)  # type: ignore[no-any-return]


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def giving(seen: Seen, store: Store, t: int, kind: int, most_out: float) -> float:
    """What the battery may give in a step where that follows from powers: `kind` 0 to 2."""
    load = seen.load[t] - seen.sun_ac[t]
    alone = min(store.rated_kw, ac_from(seen.sun_dc[t], store.k1, store.k2))
    if kind == 0:  # what is missing
        more = min(load - max(0.0, seen.spared[t]), store.rated_kw) - alone
    elif kind == 1:  # what would be beyond what is to be kept below
        more = min(load + seen.beside[t] - seen.most[t], store.rated_kw) - alone
    else:  # all that may go out
        more = min(load + seen.export_kw, store.rated_kw) - alone
    out = alone + max(0.0, more)
    return min(most_out, dc_for(out, store.k1, store.k2) - dc_for(alone, store.k1, store.k2))


TAKING, GIVING = 5, 3  # kinds of flows that follow from powers


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def best_flow(seen: Seen, store: Store, t: int, e: float, values: Floats, dt: float) -> tuple[float, float]:
    """The battery's best flow in a step and what it costs from there; `values` are those of the next step."""
    most_in = min(
        charge_limit(e, store.top, store.charge_kw, store.taper, store.taper_end),
        (store.top - e) / store.eta_in / dt,
    )
    most_out = min(store.discharge_kw, (e - store.floor) * store.eta_out / dt)
    best, least = 0.0, NEVER * 2
    count = values.size
    width = (store.top - store.floor) / max(1, count - 1)
    first = int(max(0.0, (e - most_out / store.eta_out * dt - store.floor) / max(width, 1e-12)))
    last = int(min(count - 1.0, (e + most_in * store.eta_in * dt - store.floor) / max(width, 1e-12))) + 1
    for k in range(first - TAKING - GIVING - 1, last + 1):
        kind = k - first + TAKING + GIVING + 1
        if kind == 0:
            flow = 0.0
        elif kind <= TAKING:
            flow = taking(seen, store, t, kind - 1, most_in)
        elif kind <= TAKING + GIVING:
            flow = giving(seen, store, t, kind - 1 - TAKING, most_out)
        else:
            change = store.floor + k * width - e
            flow = -change / store.eta_in / dt if change > 0.0 else -change * store.eta_out / dt
            if flow > most_out or flow < -most_in:
                continue
        grid = grid_of(seen, store, t, flow)
        if grid >= NEVER:
            continue
        after = e - flow / store.eta_out * dt if flow > 0.0 else e - flow * store.eta_in * dt
        cost = paid(seen, t, grid) * dt + worth(values, store, after)
        if cost < least - 1e-12:
            best, least = flow, cost
    return best, least


@njit(cache=True, nogil=True, error_model="numpy")
def backward(seen: Seen, store: Store, values: Floats, first: int, last: int, dt: float) -> None:
    """Fill the costs to come, `values` of shape (T + 1, levels), from step `last` - 1 down to `first`."""
    count = values.shape[1]
    width = (store.top - store.floor) / max(1, count - 1)
    for t in range(last - 1, first - 1, -1):
        for k in range(count):
            values[t, k] = best_flow(seen, store, t, store.floor + k * width, values[t + 1], dt)[1]


@njit(cache=True, nogil=True, error_model="numpy")
def forward(seen: Seen, store: Store, values: Floats, e_start: float, dt: float) -> tuple[Floats, Floats]:
    """The year that follows the values: battery flow at the DC bus and grid power, shape (T,)."""
    steps = values.shape[0] - 1
    flows, grid = np.zeros(steps), np.zeros(steps)
    e = e_start
    for t in range(steps):
        flow = best_flow(seen, store, t, e, values[t + 1], dt)[0]
        flows[t] = flow
        grid[t] = grid_of(seen, store, t, flow)
        e = e - flow / store.eta_out * dt if flow > 0.0 else e - flow * store.eta_in * dt
        e = min(max(e, store.floor), store.top)
    return flows, grid
