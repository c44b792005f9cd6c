"""The generator that starts by itself: by what, when it may, and what charges its volts stand for."""

import math

import numpy as np

from lodestaff.energy import records
from lodestaff.energy.calendar import STEP_H, Floats, weekday_of_step, within
from lodestaff.job import Job, Unit
from lodestaff.job.plan import Generator

Curve = tuple[tuple[tuple[float, float], ...], float]  # volts at rest by charge, and ohms

SUNDAY = 6
EXERCISED_FROM_H = 12.0  # a generator's weekly run: Sundays at noon


def started(job: Job, members: tuple[Unit, ...]) -> Generator | None:
    """The generator that one of these units starts by its charge, or by volts that its battery's sheet
    tells."""
    names = {unit.id for unit in members}
    candidates = (part for part in job.parts if isinstance(part, Generator) and part.started_by in names)
    return next((part for part in candidates if reckoned(job, part)), None)


def reckoned(job: Job, part: Generator) -> bool:
    """Whether it is known when a generator's start comes: by charge, or by volts that its sheet tells."""
    return part.start_by == "charge" or volts_told(job, part) is not None


def volts_told(job: Job, part: Generator) -> Curve | None:
    """The curve of the battery that starts a generator by volts, and its ohms; None where it isn't known."""
    leader = next((unit for unit in job.units if unit.id == part.started_by), None)
    bank = None if leader is None else job.bank_of(leader)
    if bank is None or part.start_v is None or part.stop_v is None:
        return None
    return job.sheets.batteries[bank.sheet].rest_curve(bank.modules)


def generator_words(job: Job) -> str:
    """Whether years and outages here are with a generator."""
    by_itself = any(
        isinstance(part, Generator) and part.started_by and reckoned(job, part) for part in job.parts
    )
    return "with the generator" if by_itself else "without a generator"


def generator_of(job: Job, members: tuple[Unit, ...], hours: Floats) -> records.Generator | None:
    """That generator as the loops take it; `hours` is the hour of day of each step by the device's clock."""
    part = started(job, members)
    if part is None:
        return None
    allowed = np.ones(hours.size)
    if part.quiet_from_h is not None and part.quiet_to_h is not None and part.quiet_from_h != part.quiet_to_h:
        allowed[within(hours, part.quiet_from_h, part.quiet_to_h)] = 0.0
    exercise = np.zeros(hours.size)
    if part.exercise_h_week > 0:
        sunday = weekday_of_step() == SUNDAY
        exercise[sunday & (hours >= EXERCISED_FROM_H) & (hours < EXERCISED_FROM_H + part.exercise_h_week)] = (
            1.0
        )
    caps = [
        part.charger_kw if part.charger_kw is not None else job.sheet_of(unit).rated_kw for unit in members
    ]
    ids = [unit.id for unit in members]
    lead = ids.index(part.started_by) if job.bank_of(members[ids.index(part.started_by)]) is not None else -1
    curve, ohm = (volts_told(job, part) or ((), 0.0)) if part.start_by == "volts" else ((), 0.0)
    return records.Generator(
        power_kw=part.usable_kw,
        rated_kva=part.rated_kva,
        start_soc=part.start_soc,
        stop_soc=part.stop_soc,
        lead=lead,
        allowed=allowed,
        exercise=exercise,
        charger_kw=np.array(caps),
        start_v=(part.start_v or 0.0) if curve else 0.0,
        stop_v=part.stop_v or 0.0,
        low_steps=max(1, math.ceil(part.start_delay_min / 60 / STEP_H)),
        rest_soc=np.array([soc for soc, _ in curve]),
        rest_v=np.array([volts for _, volts in curve]),
        ohm=ohm,
    )


def charges_of(
    curve: Curve, start: tuple[float, float], stop: tuple[float, float]
) -> tuple[float | None, float | None]:
    """The charges at which a battery has the volts that start a generator and those that stop it.

    `start` and `stop` are volts and the DC kW that it gives then (negative: takes). None where it never has
    them.
    """
    from lodestaff.energy.calling import volts_of

    points, ohm = curve
    at, rest = np.array([soc for soc, _ in points]), np.array([volts for _, volts in points])
    socs = np.linspace(0.0, 1.0, 1001)

    def volts_at(kw: float) -> Floats:
        return np.array([volts_of(at, rest, ohm, soc, kw) for soc in socs])

    low, high = volts_at(start[1]) <= start[0], volts_at(stop[1]) >= stop[0]
    return (float(socs[low][-1]) if low.any() else None, float(socs[high][0]) if high.any() else None)
