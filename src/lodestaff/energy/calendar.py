"""The nominal year: 35,040 steps of fifteen minutes in local standard time, stamped at their start.

2025 is taken because it is not a leap year; it begins on a Wednesday. Daylight saving moves
household timetables, most device clocks and some tariffs, never the steps themselves.
"""

from datetime import date, datetime, timedelta
from functools import cache

import numpy as np
from numpy.typing import NDArray

from lodestaff.quantities.units import clock
from lodestaff.quantities.zones import clock_changes

YEAR = 2025
STEPS_PER_HOUR = 4
STEPS_PER_DAY = 96
STEPS = 35_040
STEP_H = 0.25

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]

MONTH_NAMES = ("January", "February", "March", "April", "May", "June", "July", "August",
               "September", "October", "November", "December")  # fmt: skip


@cache
def month_of_step() -> Ints:
    """Month 0 to 11 of each step, shape (35040,)."""
    months = [(date(YEAR, 1, 1) + timedelta(days=day)).month - 1 for day in range(365)]
    return np.repeat(np.array(months), STEPS_PER_DAY)


@cache
def standard_hour() -> Floats:
    """Hour of the day at the start of each step in local standard time, shape (35040,)."""
    return np.tile(np.arange(STEPS_PER_DAY) * STEP_H, 365)


def step_of(month: int, day: int, hour: float) -> int:
    """The step in which a moment of local standard time lies; month and day count from 1."""
    days = (date(YEAR, month, day) - date(YEAR, 1, 1)).days
    return int(days * STEPS_PER_DAY + hour * STEPS_PER_HOUR) % STEPS


def moment_of(step: int) -> tuple[date, float]:
    """Date and hour (standard time) of a step; steps beyond the year run on into it again."""
    step %= STEPS
    return date(YEAR, 1, 1) + timedelta(days=step // STEPS_PER_DAY), step % STEPS_PER_DAY * STEP_H


def moment_words(step: int) -> str:
    """Date and time of day of a step, as people say it."""
    day, hour = moment_of(step)
    return f"{day.day} {MONTH_NAMES[day.month - 1]} {clock(hour)}"


@cache
def daylight_saving(zone: str, utc_offset_h: float) -> Bools:
    """Whether household clocks of a time zone are an hour ahead in each step, shape (35040,)."""
    changes = clock_changes(zone, YEAR)
    if changes is None:
        return np.zeros(STEPS, dtype=bool)
    begin = datetime(YEAR, 1, 1) - timedelta(hours=utc_offset_h)
    forward, back = (round((moment - begin) / timedelta(hours=STEP_H)) for moment in changes)
    steps = np.arange(STEPS)
    if forward < back:
        return (steps >= forward) & (steps < back)
    return (steps >= forward) | (steps < back)


@cache
def household_hour(zone: str, utc_offset_h: float) -> Floats:
    """Hour of the day that household clocks show at each step, shape (35040,)."""
    return (standard_hour() + daylight_saving(zone, utc_offset_h)) % 24


@cache
def weekday_of_step() -> Ints:
    """Day of the week by standard time, 0 for Monday, shape (35040,)."""
    return np.repeat((np.arange(365) + date(YEAR, 1, 1).weekday()) % 7, STEPS_PER_DAY)


@cache
def is_weekend() -> Bools:
    """Saturday or Sunday by standard time, shape (35040,)."""
    return np.asarray(weekday_of_step() >= 5)


def within(hours: Floats, start_h: float, end_h: float) -> Bools:
    """Whether each hour of the day lies in a window; a window may run over midnight."""
    if start_h < end_h:
        return (hours >= start_h) & (hours < end_h)
    return (hours >= start_h) | (hours < end_h)
