"""From a circuit's timetable to a year of its power: seeded runs, scaled to its yearly energy.

A smooth timetable flatters self-consumption: a kettle of 2 kW for four minutes is not 130 W for an
hour. So runs are drawn at their real power, and their lengths are scaled to the energy.
"""

import zlib
from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, Floats, household_hour, is_weekend, month_of_step

STEP_MIN = 15.0


@dataclass(frozen=True)
class Timetable:
    """What is needed to draw a circuit's year. `climate` is (kind, balance in °C, share of the energy)."""

    id: str
    running_kw: float
    kwh_year: float
    event_minutes: float | None
    weekday: tuple[float, ...]
    weekend: tuple[float, ...]
    months: tuple[float, ...]
    daylight_saving: str
    utc_offset_h: float
    seed: int
    climate: tuple[str, float, float] | None = None


def circuit_kw(timetable: Timetable, air_c: Floats | None = None) -> Floats:
    """Mean power of the circuit in each step in kW, shape (35040,); sums to its yearly energy.

    The power never exceeds the running power. `air_c` is the outdoor temperature in each step in °C; a
    circuit that follows the weather needs it, and raises ValueError without.
    """
    if timetable.kwh_year == 0:
        return np.zeros(STEPS)
    weights = _weights(timetable, air_c)
    most = timetable.running_kw * STEP_H
    if timetable.event_minutes is None:
        return np.asarray(_fill(weights, timetable.kwh_year, most) / STEP_H)
    random = np.random.default_rng([timetable.seed, zlib.crc32(timetable.id.encode())])
    minutes = _runs(weights, timetable, random)
    minutes *= timetable.kwh_year / (timetable.running_kw / 60) / minutes.sum()
    return np.asarray(_queued(minutes) / STEP_MIN * timetable.running_kw)


def _weights(timetable: Timetable, air_c: Floats | None) -> Floats:
    """How likely a run begins in each step, summing to 1: by the timetable, and a share of it by degrees as
    well."""
    hour = household_hour(timetable.daylight_saving, timetable.utc_offset_h).astype(int)
    by_hour = np.where(is_weekend(), np.array(timetable.weekend)[hour], np.array(timetable.weekday)[hour])
    weights = by_hour * np.array(timetable.months)[month_of_step()]
    usual = np.asarray(weights / weights.sum())
    if timetable.climate is None:
        return usual
    if air_c is None:
        raise ValueError(f"{timetable.id}: follows the weather, and no temperature is given")
    kind, balance, share = timetable.climate
    degrees = np.clip(balance - air_c if kind == "heating" else air_c - balance, 0, None)
    by_degrees = degrees * usual
    if by_degrees.sum() <= 0:  # a year that never gets so cold, or so warm
        return usual
    return np.asarray((1 - share) * usual + share * by_degrees / by_degrees.sum())


def _fill(weights: Floats, kwh: float, most_kwh: float) -> Floats:
    """Energy per step in proportion to the weights, none above the most; the rest goes to the others."""
    energy = np.minimum(weights * kwh, most_kwh)
    for _ in range(100):
        spare = kwh - energy.sum()
        if spare <= 1e-9 * kwh:
            break
        free = most_kwh - energy
        room = np.where(free > 0, weights, 0)
        shares = room / room.sum() if room.sum() > 0 else free / free.sum()
        energy = np.minimum(energy + spare * shares, most_kwh)
    return energy


def _runs(weights: Floats, timetable: Timetable, random: np.random.Generator) -> Floats:
    """Minutes of run that begin in each step: whole runs, evenly drawn, each of its own length."""
    length = timetable.event_minutes or STEP_MIN
    count = max(1, round(timetable.kwh_year / (timetable.running_kw * length / 60)))
    quantiles = (np.arange(count) + random.random(count)) / count
    begins = np.searchsorted(np.cumsum(weights), quantiles * (1 - 1e-12))
    lengths = length * random.uniform(0.6, 1.4, count)
    return np.asarray(
        np.bincount(begins.clip(max=STEPS - 1), weights=lengths, minlength=STEPS), dtype=np.float64
    )


def _queued(minutes: Floats) -> Floats:
    """Runs served one after another, fifteen minutes a step; the year's end runs on into its beginning."""
    twice = np.concatenate([minutes, minutes])
    walk = np.cumsum(twice - STEP_MIN)
    waiting = walk - np.minimum(np.minimum.accumulate(walk), 0)
    before = np.concatenate([[0.0], waiting[:-1]])
    return np.asarray((twice + before - waiting)[STEPS:])
