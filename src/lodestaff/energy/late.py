"""What a device knows of the day's surplus beforehand: clear sky as of late, and how clear it was so far."""

import numpy as np

from lodestaff.energy.calendar import STEPS_PER_DAY, Floats
from lodestaff.energy.records import Forecast

CLEAR_DAYS, USUAL_DAYS = 10, 7
YESTERDAY = 0.2  # of a day's sun: so much counts what yesterday was like


def forecast(sun_kw: Floats, load_kw: Floats, most_kw: Floats) -> Forecast:
    """Forecasts without foresight for the units of a system, shape (unit, step) each; `most_kw` by unit.

    Clear sky is the most of the last ten days at each hour, the usual load the mean of the last seven; how
    clear a day will be goes by its own sun so far and, the less of it is over, by yesterday. Common practice,
    no source.
    """
    units = [_of_unit(sun, load) for sun, load in zip(sun_kw, load_kw, strict=True)]
    clear, usual, ratio = (np.ascontiguousarray([series[at] for series in units]) for at in range(3))
    return Forecast(clear, usual, ratio, np.ascontiguousarray(most_kw, dtype=float))


def _of_unit(sun_kw: Floats, load_kw: Floats) -> tuple[Floats, Floats, Floats]:
    sun, load = sun_kw.reshape(-1, STEPS_PER_DAY), load_kw.reshape(-1, STEPS_PER_DAY)
    clear, usual = np.zeros_like(sun), np.zeros_like(load)
    for day in range(1, len(sun)):
        clear[day] = sun[max(0, day - CLEAR_DAYS) : day].max(axis=0)
        usual[day] = load[max(0, day - USUAL_DAYS) : day].mean(axis=0)
    whole = clear.sum(axis=1, keepdims=True)
    so_far, of_clear = np.cumsum(sun, axis=1) - sun, np.cumsum(clear, axis=1) - clear
    was = np.divide(sun.sum(axis=1), whole[:, 0], out=np.ones(len(sun)), where=whole[:, 0] > 0)
    yesterday = np.clip(np.concatenate([[1.0], was[:-1]]), 0, 1)[:, None]
    weight = YESTERDAY * whole + of_clear
    ratio = np.divide(
        YESTERDAY * whole * yesterday + so_far, weight, out=np.ones_like(weight), where=weight > 0
    )
    return clear.ravel(), usual.ravel(), np.clip(ratio, 0, 1).ravel()
