"""The best year of one controller's battery, by a dynamic programme; a demand charge is searched over its
threshold."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from scipy.optimize import minimize_scalar

from lodestaff.energy import foresight
from lodestaff.energy.calendar import STEP_H, STEPS, Floats, month_of_step
from lodestaff.energy.dispatch import Converter, most_ac_kw
from lodestaff.energy.together import together
from lodestaff.job import Job
from lodestaff.reckoning.leading import Group, store_of
from lodestaff.reckoning.reckoner import Reckoner

LEVELS = 33  # of a battery's energy
FEWER = 17  # while a threshold is searched
TRIED, REFINED = 7, 5  # thresholds of a month, and how often the best is made finer
SEARCHING = 0.6  # of the time, where there is a demand charge
Progress = Callable[[float], bool]


@dataclass(frozen=True)
class _Case:
    """The battery as one, what it sees, and what is imported on other rows of the meter, shape (step,)."""

    seen: foresight.Seen
    store: foresight.Store
    elsewhere: Floats


def best_grid(
    reckoner: Reckoner, job: Job, group: Group, progress: Progress = lambda share: True
) -> Floats | None:
    """Grid power at best by metered phase, shape (row, step), import positive. None where stopped.

    Phases that the battery stands on are one row: none does better apart.
    """
    year, converters = reckoner.year(job), reckoner.converters(job)
    grid = year.metered_kw.copy()
    rows = [0]
    if len(grid) > 1:
        rows = sorted({row for at in group.members for row in converters[at].phases})
    acting = [*group.members, *group.others]
    grid[rows[0]] = grid[rows].sum(axis=0) + (
        year.series.pv_ac_kw[acting] + year.series.battery_ac_kw[acting]
    ).sum(axis=0)
    grid[rows[1:]] = 0.0
    seen, store = _seen(reckoner, job, group)
    others = np.delete(grid, rows[0], axis=0)
    case = _Case(seen._replace(beside=grid[rows[0]] - seen.load), store, np.clip(others, 0, None).sum(axis=0))
    rate = job.tariff.demand_per_kw_month
    if rate > 0:
        kept = _thresholds(case, rate, lambda share: progress(share * SEARCHING))
        if kept is None:
            return None
        case = _kept_below(case, kept)
    begin = SEARCHING if rate > 0 else 0.0
    out = _forward(case, lambda share: progress(begin + (0.95 - begin) * share))
    if out is None:
        return None
    grid[rows[0]] = case.seen.beside + out
    return grid


def _seen(reckoner: Reckoner, job: Job, group: Group) -> tuple[foresight.Seen, foresight.Store]:
    parts, led = reckoner.parts(job), group.led
    unit: Converter = together(tuple(parts.converters[at] for at in group.members))
    other = [most_ac_kw(parts.converters[at], parts.sun_kw[at]) for at in group.others]
    own = sum(parts.converters[at].own_use_kw for at in (*led.units, *led.sees))
    seen = foresight.Seen(
        load=led.load_kw + own,
        spared=np.zeros(STEPS) if led.spared_kw is None else led.spared_kw,
        sun_dc=np.minimum(parts.sun_kw[list(group.members)].sum(axis=0), unit.pv_max_kw),
        sun_ac=np.sum(other, axis=0) if other else np.zeros(STEPS),
        price=reckoner.import_price(job),
        export_price=reckoner.export_price(job),
        beside=np.zeros(STEPS),
        most=np.full(STEPS, np.inf),
        export_kw=float(min(led.export_kw, 1e6)),
        import_kw=float(min(led.import_kw, 1e6)),
    )
    return seen, store_of(unit, group.sells)


def _forward(case: _Case, progress: Progress) -> Floats | None:
    """The battery's best grid power as its transformer sees it, shape (step,), from its floor."""
    values = np.zeros((STEPS + 1, LEVELS))
    ends = _months()
    for month in reversed(range(12)):
        if not progress((11 - month) / 12):
            return None
        foresight.backward(case.seen, case.store, values, ends[month], ends[month + 1], STEP_H)
    return foresight.forward(case.seen, case.store, values, case.store.floor, STEP_H)[1]


def _months() -> list[int]:
    """The first step of each month, and the count of steps."""
    return [int(at) for at in np.searchsorted(month_of_step(), np.arange(13))]


def _kept_below(case: _Case, thresholds: Floats) -> _Case:
    """The same with the meter's import kept below a threshold in each step, where that can be."""
    return _Case(case.seen._replace(most=thresholds - case.elsewhere), case.store, case.elsewhere)


def _thresholds(case: _Case, rate: float, progress: Progress) -> Floats | None:
    """What the import of each month is best kept below, shape (step,): from the last month on.

    What is stored at a month's end is worth what the month after it makes of it.
    """
    ends, after = _months(), np.zeros(FEWER)
    thresholds = np.empty(STEPS)
    for month in reversed(range(12)):
        if not progress((11 - month) / 12):
            return None
        cut = slice(ends[month], ends[month + 1])
        thresholds[cut], after = _threshold(_cut(case, cut), after, rate)
    return thresholds


def _threshold(part: _Case, after: Floats, rate: float) -> tuple[float, Floats]:
    """A month's best threshold, and the values at its start: of a few below the highest import of the best
    month without one, and then between the best one's neighbours.
    """
    free = _month_at(part, np.inf, after, rate)
    tried = {np.inf: free}

    def cost(threshold: float) -> float:
        tried[threshold] = _month_at(part, float(threshold), after, rate)
        return tried[threshold].cost

    few = np.linspace(0.0, free.highest, TRIED + 1)[:-1]
    best = float(min(few, key=cost))
    near = (max(0.0, best - few[1]), best + few[1])
    minimize_scalar(cost, bounds=near, method="bounded", options={"maxiter": REFINED})
    best = min(tried, key=lambda threshold: tried[threshold].cost)
    return best, tried[best].values


def _cut(case: _Case, cut: slice) -> _Case:
    seen = case.seen
    return _Case(
        seen._replace(**{name: getattr(seen, name)[cut] for name in foresight.BY_STEP}),
        case.store,
        case.elsewhere[cut],
    )


class _Month(NamedTuple):
    """What a month costs, the values at its start, shape (level,), and its highest import, kW."""

    cost: float
    values: Floats
    highest: float


def _month_at(part: _Case, threshold: float, after: Floats, rate: float) -> _Month:
    """A month from a half full battery with its import kept below a threshold."""
    kept = _kept_below(part, np.full(part.elsewhere.size, threshold))
    values = np.zeros((part.elsewhere.size + 1, after.size))
    values[-1] = after
    foresight.backward(kept.seen, kept.store, values, 0, part.elsewhere.size, STEP_H)
    half = 0.5 * (part.store.floor + part.store.top)
    flows, grid = foresight.forward(kept.seen, kept.store, values, half, STEP_H)
    eta = np.where(flows > 0, 1 / part.store.eta_out, part.store.eta_in)
    left = min(max(half - float((flows * eta).sum() * STEP_H), part.store.floor), part.store.top)
    grid = grid + part.seen.beside
    price = np.where(grid > 0, part.seen.price, part.seen.export_price)
    highest = float((np.clip(grid, 0, None) + part.elsewhere).max())
    cost = float((grid * price).sum() * STEP_H) + rate * highest + foresight.worth(after, part.store, left)
    return _Month(cost, values[0], highest)
