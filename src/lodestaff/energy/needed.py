"""What a battery must hold for an outage, reckoned backwards.

Plain Python that numba compiles, on the arrays of `islanding.py`.
"""

import numpy as np

from lodestaff.energy.calendar import Floats, Ints
from lodestaff.energy.columns import CHARGE, ETA_IN, ETA_OUT, FLOOR, K1, K2, PV_MAX, TOP
from lodestaff.energy.compiled import njit
from lodestaff.energy.kernels import dc_for


@njit(cache=True, nogil=True, error_model="numpy")
def energy_needed(
    need_kw: Floats, sun_kw: Floats, unit: Floats, starts: Ints, horizon: int, dt: float
) -> Floats:
    """Least energy that each of many outages must begin with to last the horizon, shape of `starts`, kWh.

    Reckoned backwards with the held circuits only, for units that are one. Infinite where no battery of this
    size is enough.
    """
    n = need_kw.size
    result = np.zeros(starts.size)
    for i in range(starts.size):
        need = unit[FLOOR]
        for back in range(horizon - 1, -1, -1):
            t = (starts[i] + back) % n
            dc_need = dc_for(need_kw[t], unit[K1], unit[K2])
            sun = min(sun_kw[t], unit[PV_MAX])
            if sun >= dc_need:
                need = max(unit[FLOOR], need - min(sun - dc_need, unit[CHARGE]) * unit[ETA_IN] * dt)
            else:
                need += (dc_need - sun) / unit[ETA_OUT] * dt
            if need > unit[TOP]:
                need = np.inf
                break
        result[i] = need
    return result
