"""The meter's log of a job, and how far the circuits' timetables explain it."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from lodestaff.energy.calendar import STEPS_PER_HOUR, Floats, is_weekend, month_of_step, standard_hour
from lodestaff.energy.metering import Logged, read_intervals
from lodestaff.job import Change, Circuit, Job, Role
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner

UNLISTED = "not-listed"


def logged_of(reckoner: Reckoner, job: Job) -> Logged | None:
    """The job's interval data by its shape; None where it has none.

    Raises JobError where the file is missing or can't be read.
    """
    metered = job.site.metered
    if metered is None:
        return None
    zone, offset = job.time_zone, job.site.utc_offset_h

    def read() -> Logged:
        raw = reckoner.attachment(metered.sha256)
        return read_intervals(raw, metered.name or metered.sha256[:12], metered.shape, zone, offset)

    return reckoner.memo.get(("logged", metered.sha256, metered.shape, zone, offset), read)


def usable_log(reckoner: Reckoner, job: Job) -> tuple[Logged | None, str]:
    """The log where it may be counted on, and in words why not."""
    metered = job.site.metered
    if metered is None:
        return None, "no interval data of the meter is there"
    if not metered.confirmed:
        return None, f"the shape of {metered.name or 'the file'} isn't confirmed"
    try:
        return logged_of(reckoner, job), ""
    except JobError as trouble:
        return None, str(trouble)


@dataclass(frozen=True)
class Reconciled:
    """Mean power by month, kind of day and hour, shape (12, 2, 24), kW: logged (NaN where nothing was) and
    circuits.

    Energies are for a year: of the months and hours that were logged, brought to 365 days.
    """

    logged_kw: Floats
    circuits_kw: Floats
    measured_kwh: float
    circuits_kwh: float
    unexplained_kwh: float
    over_kwh: float
    base_kw: float
    base_circuits_kw: float


def reconcile(reckoner: Reckoner, job: Job, log: Logged) -> Reconciled:
    """The log against the circuits that were there when it was taken."""
    key = ("reconciled", id(log), tuple(_key(job, c) for c in _there(job)))
    _, explained = reckoner.memo.get(
        key, lambda: (log, _reconcile(reckoner, job, log))
    )  # the log is kept with its id
    return explained


def _there(job: Job) -> list[Circuit]:
    return [c for c in job.circuits if not c.added and c.role is not Role.SURPLUS]


def _reconcile(reckoner: Reckoner, job: Job, log: Logged) -> Reconciled:
    circuits = _there(job)
    place = (month_of_step() * 2 + is_weekend()) * 24 + standard_hour().astype(int)
    count = np.bincount(place, minlength=12 * 48)
    total = np.zeros(12 * 48)
    for c in circuits:

        def summed(circuit: Circuit = c) -> Floats:
            return np.bincount(place, reckoner.circuit_kw(job, circuit), minlength=12 * 48).astype(float)

        total += reckoner.memo.get(("mean day", c.id, _key(job, c)), summed)
    mean = np.divide(total, count, out=np.zeros(total.shape), where=count > 0).reshape(12, 2, 24)
    hours = count.reshape(12, 2, 24) / STEPS_PER_HOUR
    logged, _ = log.by_month_and_hour()
    seen = np.isfinite(logged)
    scale = 8760 / hours[seen].sum() if seen.any() else 0.0

    def kwh(power: Floats) -> float:
        return float((power[seen] * hours[seen]).sum() * scale)

    gap = np.where(seen, logged - mean, 0.0)
    always = [c for c in circuits if c.event_minutes is None and c.climate is None]
    return Reconciled(
        logged,
        mean,
        measured_kwh=kwh(np.where(seen, logged, 0.0)),
        circuits_kwh=kwh(mean),
        unexplained_kwh=kwh(np.clip(gap, 0, None)),
        over_kwh=kwh(np.clip(-gap, 0, None)),
        base_kw=log.base_kw(),
        base_circuits_kw=sum(c.kwh_year for c in always) / 8760,
    )


def _key(job: Job, circuit: Circuit) -> object:
    from lodestaff.reckoning.selectors import timetable

    return timetable(job, circuit), job.site.weather if circuit.climate else None


def unlisted_change(job: Job, explained: Reconciled) -> Change | None:
    """A circuit that draws, by month and hour, what no listed circuit explains; replaces an earlier one of
    its kind."""
    gap = np.clip(
        np.where(np.isfinite(explained.logged_kw), explained.logged_kw - explained.circuits_kw, 0.0), 0, None
    )
    if explained.unexplained_kwh < 1 or gap.max() <= 0:
        return None
    circuit: dict[str, Any] = {
        "id": UNLISTED, "name": "Not listed (from the "
                                "meter)", "phase": job.site.phases[0], "role": str(Role.GRID),
        "running_w": round(float(np.percentile(gap[gap > 0], 98)) * 1000 + 1, 0),
        "kwh_year": round(explained.unexplained_kwh, 1),
        "weekday": _weights(gap[:, 0].mean(axis=0)),
        "weekend": _weights(gap[:, 1].mean(axis=0)),
        "months": _weights(gap.mean(axis=(1, 2))),
        "known": {"value": "yes", "known": "measured", "note": "the meter's log less the listed "
                                                               "circuits", "date": ""},
    }  # fmt: skip
    circuit["kwh_year"] = min(circuit["kwh_year"], circuit["running_w"] * 8.76)
    rest = [c.model_dump(mode="json") for c in job.circuits if c.id != UNLISTED]
    return Change("circuits", [*rest, circuit])


def _weights(power: Floats) -> list[float]:
    """Powers as the weights of a timetable; nothing at all is written as next to nothing, for runs need an
    hour."""
    return [round(max(float(kw), 1e-4), 4) for kw in power]


def scaled_changes(job: Job, explained: Reconciled) -> tuple[Change, ...]:
    """Yearly energies of what nobody measured, brought down until the circuits come to what was logged."""
    free = [c for c in job.circuits if not c.added and c.role is not Role.SURPLUS and not c.measured_w.firm]
    spare = sum(c.kwh_year for c in free)
    over = explained.circuits_kwh - explained.measured_kwh
    if spare <= 0 or over <= 0:
        return ()
    share = max(0.05, 1 - over / spare)
    return tuple(
        Change(f"circuits/{c.id}/kwh_year", round(c.kwh_year * share, 1)) for c in free if c.kwh_year > 0
    )
