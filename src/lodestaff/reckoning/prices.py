"""What a kWh costs and earns in each step of the year, by the tariff of a job."""

import csv
import io
from collections.abc import Callable
from typing import Protocol

import numpy as np

from lodestaff.energy.calendar import STEPS, STEPS_PER_HOUR, Bools, Floats, within
from lodestaff.energy.tariff import price_steps
from lodestaff.job import Band, Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.controlling import on_days
from lodestaff.reckoning.memo import Memo

HOURS = STEPS // STEPS_PER_HOUR
DEAR = 5.0  # currency units a kWh: hourly prices above it are of another unit
LOW_SHARE = 0.25  # of the way from the least price to the most: what counts as low where prices are many


class Whole(Protocol):
    """What prices need of the reckoner that they belong to."""

    attachment: Callable[[str], bytes]
    memo: Memo

    def hours_by(self, job: Job, clock: str) -> Floats: ...

    def import_price(self, job: Job) -> Floats: ...


def hourly_prices(data: bytes, name: str) -> Floats:
    """Prices of 8,760 hours of standard time from a CSV file, the last number of each row; shape (35040,).

    Raises JobError for another count of rows, or prices that are of another unit.
    """
    read = []
    for row in csv.reader(io.StringIO(data.decode("utf-8-sig", errors="replace"))):
        cells = [cell for cell in row if cell.strip()]
        try:
            read.append(float(cells[-1]))
        except (ValueError, IndexError):
            if read:  # only what stands above the numbers may be words
                raise JobError(
                    f"row {len(read) + 1} ends in no number", name, "a price in each row"
                ) from None
    if len(read) == STEPS:
        prices = np.array(read)
    elif len(read) == HOURS:
        prices = np.repeat(np.array(read), STEPS_PER_HOUR)
    else:
        raise JobError(f"{len(read)} prices", name, f"one for each of {HOURS} hours, or of {STEPS} quarters")
    if not np.isfinite(prices).all() or np.abs(prices).mean() > DEAR:
        raise JobError(
            f"prices of {np.abs(prices).mean():.0f} on the mean", name, "currency units a kWh, not a MWh"
        )
    return prices


def import_price(reckoner: Whole, job: Job) -> Floats:
    """Price of import in each step, shape (step,): hourly prices or the two bands, then the further bands."""
    tariff = job.tariff
    if tariff.hourly is not None:
        file = tariff.hourly
        price = reckoner.memo.get(
            ("hourly prices", file), lambda: hourly_prices(reckoner.attachment(file.sha256), file.name)
        ).copy()
    else:
        price = price_steps(tariff.import_high, tariff.import_low, _two_bands(reckoner, job))
    return _banded(reckoner, job, "import", price)


def export_price(reckoner: Whole, job: Job) -> Floats:
    """What export earns in each step, shape (step,)."""
    return _banded(reckoner, job, "export", np.full(STEPS, job.tariff.export))


def low_band(reckoner: Whole, job: Job) -> Bools:
    """Whether import is cheap in each step: the low band, or where prices are many, their lowest quarter."""
    if job.tariff.hourly is None and not any(band.of == "import" for band in job.tariff.bands):
        return _two_bands(reckoner, job)
    price = reckoner.import_price(job)
    return np.asarray(price <= price.min() + LOW_SHARE * (price.max() - price.min()))


def low_hours(reckoner: Whole, job: Job) -> tuple[float, float] | None:
    """The hours of the day, by the tariff's clock, in which import is mostly cheap: the longest such span.

    None where it never is, or always.
    """
    per_day = round(24 * STEPS_PER_HOUR)
    quarter = (reckoner.hours_by(job, job.tariff.clock) * STEPS_PER_HOUR).astype(int) % per_day
    share = np.bincount(quarter, weights=low_band(reckoner, job), minlength=per_day) / np.bincount(quarter)
    low = share > 0.5
    if not low.any() or low.all():
        return None
    best, length = 0, 0
    for start in np.flatnonzero(low & ~np.roll(low, 1)):
        run = int(np.argmin(np.roll(low, -start)))  # until it is dear again
        if run > length:
            best, length = int(start), run
    return best / STEPS_PER_HOUR, (best + length) % per_day / STEPS_PER_HOUR


def _two_bands(reckoner: Whole, job: Job) -> Bools:
    tariff = job.tariff
    return within(reckoner.hours_by(job, tariff.clock), tariff.low_start_h, tariff.low_end_h)


def _banded(reckoner: Whole, job: Job, of: str, price: Floats) -> Floats:
    """Prices with the further bands laid over them, later ones above earlier."""
    bands: tuple[Band, ...] = tuple(band for band in job.tariff.bands if band.of == of)
    hours = reckoner.hours_by(job, job.tariff.clock) if bands else None
    for band in bands:
        assert hours is not None
        price[within(hours, band.start_h, band.end_h) & on_days(band.months, band.days, ())] = band.price
    return price
