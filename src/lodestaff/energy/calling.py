"""When a generator runs that starts by itself: by the charge of a battery, or by its volts.

Plain Python that numba compiles, on the arrays of `islanding.py`.
"""

import math

from lodestaff.energy.calendar import Floats
from lodestaff.energy.columns import CAPACITY
from lodestaff.energy.compiled import njit
from lodestaff.energy.kernels import NOTHING
from lodestaff.energy.records import Generator


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def volts_of(at: Floats, curve: Floats, ohm: float, soc: float, kw: float) -> float:
    """Volts of a battery at a charge while it gives so much (negative: takes), DC kW; `curve` are its volts
    at rest at the charges `at`.

    U = rest(soc) - R I and P = U I, so U = (rest + sqrt(rest² - 4 R P)) / 2. Derived.
    """
    rest = curve[0]
    for k in range(1, at.size):
        if soc > at[k - 1]:
            along = min(1.0, (soc - at[k - 1]) / (at[k] - at[k - 1]))
            rest = curve[k - 1] + (curve[k] - curve[k - 1]) * along
    volts: float = 0.5 * (rest + math.sqrt(max(0.0, rest * rest - 4000.0 * ohm * kw)))
    return volts


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def runs(
    on: bool, low: int, units: Floats, e: Floats, generator: Generator, flow: Floats, t: int
) -> tuple[bool, int]:
    """Whether the generator runs in a step: started at or below the one charge, stopped at the other; or by
    volts, after so many low steps. `flow` is what each battery gave in the step before, DC kW.

    Returns the count of low steps too.
    """
    if generator.power_kw <= 0.0:
        return False, 0
    if generator.start_v > 0.0:
        lead = generator.lead
        soc = e[lead] / max(units[lead, CAPACITY], NOTHING)
        volts = volts_of(generator.rest_soc, generator.rest_v, generator.ohm, soc, flow[lead])
        low = low + 1 if volts <= generator.start_v + NOTHING else 0
        if generator.exercise[t] > 0.0:
            return True, low
        if generator.allowed[t] == 0.0 or volts >= generator.stop_v - NOTHING:
            return False, low
        return on or low >= generator.low_steps, low
    return _by_charge(on, units, e, generator, t), 0


@njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _by_charge(on: bool, units: Floats, e: Floats, generator: Generator, t: int) -> bool:
    if generator.exercise[t] > 0.0:
        return True
    if generator.lead >= 0:
        soc = e[generator.lead] / max(units[generator.lead, CAPACITY], NOTHING)
    else:
        held, whole = 0.0, 0.0
        for u in range(e.size):
            held += e[u]
            whole += units[u, CAPACITY]
        soc = held / max(whole, NOTHING)
    if generator.allowed[t] == 0.0 or soc >= generator.stop_soc - NOTHING:
        return False
    return on or soc <= generator.start_soc + NOTHING
