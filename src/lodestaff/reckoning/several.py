"""The best bill of several controllers with batteries: the linear programme of its year by the hour."""

from collections.abc import Callable

import numpy as np

from lodestaff.energy.bound import Leading, Metered, Storing, least_cost
from lodestaff.energy.calendar import STEPS, STEPS_PER_DAY, STEPS_PER_HOUR, Floats, month_of_step
from lodestaff.energy.control import Controller
from lodestaff.energy.dispatch import Converter, Year, most_ac_kw
from lodestaff.job import Job
from lodestaff.reckoning.leading import Group, store_of
from lodestaff.reckoning.reckoner import Reckoner


def bound_of(
    reckoner: Reckoner, job: Job, groups: list[Group], progress: Callable[[float], bool] = lambda share: True
) -> float | None:
    """A bill that no settings go below, a year, in the tariff's currency. None where stopped.

    Surplus loads, circuits and units that no controller with a battery sees stay as the year has them.
    """
    metered = metered_of(reckoner, job, groups)
    months = month_of_step()[::STEPS_PER_HOUR]
    bounds = [int(np.searchsorted(months, month)) for month in range(13)]
    least = least_cost(metered, bounds, progress)
    return None if least is None else least + job.tariff.standing_per_day * STEPS / STEPS_PER_DAY


def metered_of(reckoner: Reckoner, job: Job, groups: list[Group]) -> Metered:
    """What the programme is made of, by the hour: means of powers, the best price of each hour."""
    year, parts = reckoner.year(job), reckoner.parts(job)
    units, sun = parts.converters, parts.sun_kw
    storing = sorted({at for group in groups for at in group.members})
    shining = sorted({at for group in groups for at in group.others})
    rows = _joined(year, units, [*storing, *shining])
    base = np.zeros((max(rows) + 1, STEPS))
    for phase, grid in zip(rows, year.metered_kw, strict=True):
        base[phase] += grid
    out = year.series.pv_ac_kw + year.series.battery_ac_kw
    where = {at: _row_of(rows, units[at]) for at in (*storing, *shining)}
    for at, row in where.items():
        base[row] += out[at]
    return Metered(
        base=_hourly(base),
        sun_ac=_hourly(np.array([most_ac_kw(units[at], sun[at]) for at in shining]).reshape(-1, STEPS)),
        sun_row=tuple(where[at] for at in shining),
        storing=tuple(_storing(units[at], sun[at], where[at]) for at in storing),
        leading=tuple(_leading(group, units, sun, storing, shining) for group in groups),
        price=reckoner.import_price(job).reshape(-1, STEPS_PER_HOUR).min(axis=1),
        export_price=np.broadcast_to(reckoner.export_price(job), (STEPS,))
        .reshape(-1, STEPS_PER_HOUR)
        .max(axis=1),
        paid_kw=float(min(job.limits.export_kw, 1e6)),
        demand=job.tariff.demand_per_kw_month,
        step_h=1.0,
    )


def _joined(year: Year, units: tuple[Converter, ...], acting: list[int]) -> list[int]:
    """By metered phase the row of the programme: phases that one unit stands on are one row."""
    rows = list(range(len(year.metered_kw)))
    if len(rows) > 1:
        for at in acting:
            together = {rows[phase] for phase in units[at].phases}
            rows = [min(together) if row in together else row for row in rows]
    kept = sorted(set(rows))
    return [kept.index(row) for row in rows]


def _row_of(rows: list[int], unit: Converter) -> int:
    return rows[unit.phase] if len(rows) > 1 else 0


def _hourly(powers: Floats) -> Floats:
    """Means of hours of powers of shape (row, step)."""
    return np.asarray(powers.reshape(len(powers), STEPS // STEPS_PER_HOUR, STEPS_PER_HOUR).mean(axis=2))


def _storing(unit: Converter, sun: Floats, row: int) -> Storing:
    return Storing(row, _hourly(np.minimum(sun, unit.pv_max_kw)[None])[0], store_of(unit))


def _leading(
    group: Group, units: tuple[Converter, ...], sun: Floats, storing: list[int], shining: list[int]
) -> Leading:
    """A controller's powers: together its units give no more than sun or load, where they may not sell."""
    led: Controller = group.led
    load = led.load_kw + sum(units[at].own_use_kw for at in (*led.units, *led.sees))
    other = sum((most_ac_kw(units[at], sun[at]) for at in group.others), np.zeros(STEPS))
    alone = sum((most_ac_kw(units[at], sun[at]) for at in group.members), np.zeros(STEPS))
    rated = sum(units[at].rated_kw for at in group.members)
    spared = 0.0 if led.spared_kw is None else np.maximum(led.spared_kw, 0.0)
    most = (
        np.full(STEPS, rated) if group.sells else np.minimum(rated, np.maximum(alone, load - other - spared))
    )
    series = np.array([load, most, np.clip(min(led.import_kw, 1e6) - (load - other), 0.0, None)])
    hourly = _hourly(series)
    return Leading(
        storing=tuple(storing.index(at) for at in group.members),
        shining=tuple(shining.index(at) for at in group.others),
        load=hourly[0],
        most_kw=hourly[1],
        free_kw=hourly[2],
        export_kw=led.export_kw,
    )
