"""The day of a month as it is used: mean power of each circuit by household hour against the sun, and
blocks moved."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import Floats, household_hour, is_weekend, month_of_step
from lodestaff.job import Change, Circuit, Job, Role
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.selectors import timetable

HOURS = 24


@dataclass(frozen=True)
class DayStack:
    """Mean power by household hour in a month, shape (24,) each, in kW; on weekdays or at weekends.

    `layers` are circuits in drawing order, from below; `sun_kw` is DC at the trackers. `low` marks cheap
    hours.
    """

    month: int
    weekend: bool
    layers: tuple[tuple[str, Floats], ...]
    sun_kw: Floats
    low: tuple[bool, ...]

    @property
    def total_kw(self) -> Floats:
        return np.asarray(np.sum([kw for _, kw in self.layers], axis=0)) if self.layers else np.zeros(HOURS)

    def under_sun_kwh(self) -> float:
        """Energy of a mean day that the sun of its hour could carry."""
        return float(np.minimum(self.total_kw, self.sun_kw).sum())


ORDER = (Role.HELD, Role.SHED, Role.GRID, Role.LOCKED)


def day_stack(reckoner: Reckoner, job: Job, month: int, weekend: bool = False) -> DayStack:
    """The mean day of a month (1 to 12). Surplus loads are left out: they follow the sun, not the clock."""
    zone, offset = job.time_zone, job.site.utc_offset_h
    steps = (month_of_step() == month - 1) & (is_weekend() == weekend)
    hour = household_hour(zone, offset)[steps].astype(int)
    count = np.bincount(hour, minlength=HOURS)

    def by_hour(kw: Floats) -> Floats:
        return np.asarray(np.bincount(hour, kw[steps], minlength=HOURS) / count)

    layers = []
    for role in ORDER:
        for c in job.with_role(role):
            key = ("day", month, weekend, timetable(job, c), job.site.weather if c.climate else None)
            layers.append((c.id, reckoner.memo.get(key, lambda c=c: by_hour(reckoner.circuit_kw(job, c)))))  # type: ignore[misc]
    sun = by_hour(reckoner.pv_dc_kw(job).sum(axis=0))
    low = by_hour(reckoner.low_band(job).astype(float)) > 0.5
    return DayStack(month, weekend, tuple(layers), sun, tuple(bool(cheap) for cheap in low))


def can_move(circuit: Circuit) -> bool:
    """Whether a circuit's runs have hours: one that is always there, or runs at any hour alike, has none to
    move."""
    return circuit.event_minutes is not None and (
        len(set(circuit.weekday)) > 1 or len(set(circuit.weekend)) > 1
    )


def moved_changes(circuit: Circuit, hours: int, weekend: bool | None = None) -> tuple[Change, ...]:
    """A circuit's runs begun so many hours later (negative: earlier), on weekdays and weekends alike or on
    one only."""
    hours %= HOURS
    if hours == 0 or not can_move(circuit):
        return ()

    def rolled(weights: tuple[float, ...]) -> list[float]:
        return [*weights[-hours:], *weights[:-hours]]

    path = f"circuits/{circuit.id}"
    both = (
        Change(f"{path}/weekday", rolled(circuit.weekday)),
        Change(f"{path}/weekend", rolled(circuit.weekend)),
    )
    return both if weekend is None else both[1:] if weekend else both[:1]
