"""The best settings that a device can be told: charge targets by month in the low band, and late charging."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import STEP_H, Floats, month_of_step
from lodestaff.job import Change, Job, edit
from lodestaff.job.decisions import Window
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.units import clock
from lodestaff.reckoning.prices import low_hours
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import years_of

TARGETS = 9  # between the reserve and full
ROUNDED = 0.05  # a target is told in such steps
MOST_WINDOWS = 4  # that devices commonly have (common practice, no source)
WORTH = 1.0  # currency units a year: for less no setting is changed
ID = "low-band"


@dataclass(frozen=True)
class BestSettings:
    """The changes that bring most in the chosen mode, and the bill with them; none where it is best as it
    is.
    """

    changes: tuple[Change, ...]
    bill: float
    words: tuple[str, ...]


def best_settings(
    reckoner: Reckoner, job: Job, progress: Callable[[float], bool] = lambda share: True
) -> BestSettings | None:
    """Search charge targets for each month, with and without late charging, in the mode that is set.

    Windows that charge are exchanged; those that hold or give stay. Months are taken one by one: what one
    month leaves in a battery is little against what it moves. None where stopped. Raises JobError without a
    grid.
    """
    if not job.mains.grid:
        raise JobError("no grid: there is no bill to make better", job.id, "look at what stays unserved")
    if not job.banks:
        raise JobError("no battery: nothing can be set better", job.id, "give a unit a bank of modules")
    now = reckoner.figures(job).bill
    best = BestSettings((), now, ())
    tried = list(_ways(job))
    for number, way in enumerate(tried):

        def told(share: float, number: int = number) -> bool:
            return progress((number + share) / len(tried))

        best_job = _by_month(reckoner, way, told)
        if best_job is None:
            return None
        changes = (
            Change("limits/windows", [window.model_dump(mode="json") for window in best_job.limits.windows]),
            Change("limits/keep_room", best_job.limits.keep_room),
            Change("limits/device_clock", best_job.limits.device_clock),
        )
        taken = edit(job, *changes)
        bill = reckoner.figures(taken).bill
        if bill < best.bill - (WORTH if best.changes else 0.0) and bill < now - WORTH:
            best = BestSettings(changes, bill, tuple(_said(job, taken)))
    progress(1.0)
    return best


def _ways(job: Job) -> Iterator[Job]:
    """The job with its clock that of the tariff, charging as it comes, and late."""
    for late in (False, True):
        limits = job.limits.model_copy(update={"keep_room": late, "device_clock": job.tariff.clock})
        yield job.model_copy(update={"limits": limits})


def _by_month(reckoner: Reckoner, job: Job, progress: Callable[[float], bool]) -> Job | None:
    """The job with the best charge target of each month; None where stopped."""
    limits, hours = job.limits, low_hours(reckoner, job)
    kept = tuple(window for window in limits.windows if window.kind != "charge")
    price = reckoner.import_price(job)
    if hours is None or price.max() <= price.min():
        return job.model_copy(update={"limits": limits.model_copy(update={"windows": kept})})
    start = round(limits.reserve_soc / ROUNDED) * ROUNDED
    targets = [None, *np.unique(np.round(np.linspace(start, 1.0, TARGETS) / ROUNDED) * ROUNDED)]
    parts = reckoner.parts(job)
    costs = []
    for number, target in enumerate(targets):
        if not progress(number / len(targets)):
            return None
        windows = kept if target is None else (*kept, _window(job, hours, float(target), ID))
        taken = job.model_copy(update={"limits": limits.model_copy(update={"windows": windows})})
        run = years_of(reckoner, taken, parts.plans)
        costs.append(_monthly(reckoner, taken, run(parts.converters, parts.sun_kw).metered_kw))
    chosen = [targets[at] for at in _few(np.array(costs))]
    made = []
    for number, target in enumerate(sorted({choice for choice in chosen if choice is not None})):
        months = tuple(month + 1 for month in range(12) if chosen[month] == target)
        made.append(
            _window(job, hours, float(target), f"{ID}-{number + 1}", months if len(months) < 12 else ())
        )
    return job.model_copy(update={"limits": limits.model_copy(update={"windows": (*kept, *made)})})


def _few(costs: Floats) -> list[int]:
    """Which target each month takes, of costs (target, month): as many unlike ones as a device has windows,
    those that are missed least left out one by one."""
    kept = list(range(len(costs)))
    while True:
        best = [kept[at] for at in np.argmin(costs[kept], axis=0)]
        if len(set(best) - {0}) <= MOST_WINDOWS:
            return best
        kept = sorted(set(best))
        without = {
            number: costs[[at for at in kept if at != number]].min(axis=0).sum() for number in kept if number
        }
        kept.remove(min(without, key=lambda number: float(without[number])))


def _window(
    job: Job, low: tuple[float, float], target: float, name: str, months: tuple[int, ...] = ()
) -> Window:
    """A charge window as long as the cheap hours, with as little power as fills the battery in them."""
    hours = (low[1] - low[0]) % 24 or 24.0
    kwh = [bank.modules * job.sheets.batteries[bank.sheet].module_kwh for bank in job.banks]
    power = min(job.limits.charge_kw, max(0.5, round(1.2 * max(kwh) / hours, 1)))
    return Window(
        id=name,
        start_h=low[0],
        end_h=low[1],
        target_soc=round(target, 2),
        power_kw=power or 0.5,
        months=months,
    )


def _monthly(reckoner: Reckoner, job: Job, grid: Floats) -> Floats:
    """What each month costs, shape (12,): import less paid export, and its demand."""
    sold = np.minimum(np.clip(-grid, 0, None).sum(axis=0), job.limits.export_kw)
    cost = (
        np.clip(grid, 0, None).sum(axis=0) * reckoner.import_price(job) - sold * reckoner.export_price(job)
    ) * STEP_H
    months, bought = month_of_step(), np.clip(grid, 0, None).sum(axis=0)
    highest = np.array([bought[months == month].max() for month in range(12)])
    energy = np.bincount(months, weights=cost, minlength=12)
    return np.asarray(energy + highest * job.tariff.demand_per_kw_month, dtype=float)


def _said(before: Job, job: Job) -> Iterator[str]:
    """The settings in words."""
    if job.limits.device_clock != before.limits.device_clock:
        yield f"the device goes by the {job.limits.device_clock} clock, as the tariff does"
    for window in job.limits.windows:
        when = f"months {', '.join(map(str, window.months))}" if window.months else "all year"
        if window.kind == "charge":
            yield (
                f"charge to {plain(window.target_soc * 100, 0)} % from {clock(window.start_h)} to "
                f"{clock(window.end_h)} with {plain(window.power_kw, 1)} kW, {when}"
            )
    yield (
        "charge late, so that room is left for the midday sun"
        if job.limits.keep_room
        else "charge as the sun comes"
    )
