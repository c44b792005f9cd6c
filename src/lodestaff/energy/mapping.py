"""The year of many candidates in one loop: time outside, candidates inside. The rule is dispatch's, for one
unit."""

from typing import NamedTuple

import numpy as np

from lodestaff.energy.calendar import Bools, Floats
from lodestaff.energy.compiled import njit
from lodestaff.energy.kernels import NOTHING, ac_from, charge_limit, dc_for, given_out, lost_above, taken_in


class Candidates(NamedTuple):
    """Candidate systems, shape (C,) each; the same meanings as UnitArrays, with own use and tracker
    efficiency."""

    rated_kw: Floats
    k1: Floats
    k2: Floats
    pv_max_kw: Floats
    pv_share: Floats
    own_use_kw: Floats
    e_floor: Floats
    e_top: Floats
    charge_kw: Floats
    discharge_kw: Floats
    eta_charge: Floats
    eta_discharge: Floats
    e_taper: Floats
    taper_end: Floats
    target_e: Floats
    window_kw: Floats


IMPORT_HIGH, IMPORT_LOW, EXPORT, CURTAILED, CLIPPED, OUT = range(6)


@njit(cache=True, nogil=True, error_model="numpy")
def map_year(
    c: Candidates,
    pv: Floats,
    load: Floats,
    window: Bools,
    low: Bools,
    export_kw: float,
    import_kw: float,
    dt: float,
) -> Floats:
    """Yearly sums in kWh, shape (C, 6): import in the high and low band, export, curtailed, clipped,
    battery out."""
    n, steps = c.rated_kw.size, pv.size
    sums = np.zeros((n, 6))
    e = c.e_floor.copy()
    for t in range(steps):
        for i in range(n):
            k1, k2 = c.k1[i], c.k2[i]
            sun = pv[t] * c.pv_share[i]
            net = load[t] + c.own_use_kw[i]
            available = min(sun, c.pv_max_kw[i])
            in_window = window[t] and c.window_kw[i] > 0.0
            ac = min(net, c.rated_kw[i], ac_from(available, k1, k2))
            if in_window and e[i] < c.target_e[i]:
                ac = 0.0
            left = available - dc_for(ac, k1, k2)
            if left < NOTHING:
                left = 0.0
            net -= ac
            limit = charge_limit(e[i], c.e_top[i], c.charge_kw[i], c.e_taper[i], c.taper_end[i])
            stored = taken_in(e[i], c.e_top[i], left, limit, c.eta_charge[i], dt)
            left -= stored
            most = min(c.rated_kw[i], ac_from(dc_for(ac, k1, k2) + left, k1, k2))
            sums[i, CLIPPED] += sun - available + lost_above(ac, most, left, k1, k2)
            extra = max(0.0, most - ac)
            exported = min(extra, export_kw)
            sums[i, CURTAILED] += max(0.0, dc_for(ac + extra, k1, k2) - dc_for(ac + exported, k1, k2))
            made = ac + exported
            e[i] += stored * c.eta_charge[i] * dt
            grid = net - exported
            if in_window:
                if e[i] < c.target_e[i] and made == 0.0:
                    room = min(limit - stored, (c.target_e[i] - e[i]) / c.eta_charge[i] / dt)
                    taken = min(
                        c.window_kw[i],
                        c.rated_kw[i],
                        max(0.0, import_kw - max(0.0, grid)),
                        dc_for(max(0.0, room), k1, k2),
                    )
                    if taken > 0.0:
                        e[i] += ac_from(taken, k1, k2) * c.eta_charge[i] * dt
                        grid += taken
            elif grid > 0.0 and stored == 0.0:
                give = given_out(e[i], c.e_floor[i], c.discharge_kw[i], c.eta_discharge[i], dt)
                base = dc_for(made, k1, k2)
                out = min(grid, c.rated_kw[i] - made, ac_from(base + give, k1, k2) - made)
                if out > 0.0 and give > 0.0:
                    drawn = dc_for(made + out, k1, k2) - base
                    e[i] -= drawn / c.eta_discharge[i] * dt
                    sums[i, OUT] += drawn
                    grid -= out
            if grid > 0.0:
                sums[i, IMPORT_LOW if low[t] else IMPORT_HIGH] += grid
            else:
                sums[i, EXPORT] -= grid
    return sums * dt
