"""Money over years: what ages, what is replaced, against what stood there before."""

from dataclasses import dataclass, replace

import numpy as np

from lodestaff.catalogue import BatterySheet
from lodestaff.energy.tariff import Bill
from lodestaff.job import Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import years_of

MODULE_LOSS = 0.005  # of the sun's power a year; common practice, no source
AGED_SUN = 0.9  # the corner between which and new figures are straight
END_SHARE, END_YEARS = 0.7, 10.0  # of a battery whose sheet gives no warranty; common practice, no source


@dataclass(frozen=True)
class YearOf:
    """One year: the battery's health and the sun's share at its middle, bills in the money of then."""

    year: int
    health: float
    sun_share: float
    bill: float
    bill_before: float
    present: float  # what is saved, in today's money
    replaced: bool  # whether batteries are new in this year

    @property
    def saving(self) -> float:
        return self.bill_before - self.bill


@dataclass(frozen=True)
class OverYears:
    """All years. `assumed`: what no sheet says."""

    rows: tuple[YearOf, ...]
    assumed: tuple[str, ...]

    @property
    def saved(self) -> float:
        """All that is saved, in today's money."""
        return sum(row.present for row in self.rows)

    @property
    def replacements(self) -> int:
        return sum(row.replaced for row in self.rows)

    def pays_back(self, cost: float) -> float | None:
        """Years after which what was paid is saved, today's money; None where it never is."""
        total = 0.0
        for row in self.rows:
            if row.present > 0 and total + row.present >= cost:
                return row.year - 1 + (cost - total) / row.present
            total += row.present
        return None


def over_years(reckoner: Reckoner, job: Job) -> OverYears:
    """The years of a job's wishes. Raises JobError without a grid.

    Between new and aged corners of battery and array the bill is a straight line; prices drift, what is saved
    later counts less. Before: what already stands there, as it is, ageing alike.
    """
    if not job.mains.grid:
        raise JobError("no grid: there is no bill over years", job.id, "look at fuel and what stays unserved")
    corners, end = _corners(reckoner, job), _end_share(job)
    before = [_before(reckoner, job, share) for share in (1.0, AGED_SUN)]
    life = _life(reckoner, job)
    drift, discount = 1 + job.wishes.price_drift, 1 + job.wishes.discount
    rows, age = [], 0.0
    for year in range(1, job.wishes.years + 1):
        replaced = job.banks != () and age + 0.5 > life
        age = 0.0 if replaced else age
        health = 1.0 - (1.0 - end) * min(1.0, (age + 0.5) / life)
        sun = (1.0 - MODULE_LOSS) ** (year - 0.5)
        bill = _drifted(_between(corners, health, sun, end), drift ** (year - 1))
        was = _drifted(_line(before[0], before[1], (1 - sun) / (1 - AGED_SUN)), drift ** (year - 1))
        rows.append(
            YearOf(
                year,
                health,
                sun,
                bill,
                was,
                present=(was - bill) / discount ** (year - 0.5),
                replaced=replaced,
            )
        )
        age += 1.0
    return OverYears(tuple(rows), _assumed(job))


def _parts_of(money: Bill) -> np.ndarray:
    """What drifts, and what it is made of: import and demand, export, standing."""
    return np.array([money.import_cost + money.demand, money.export_income, money.standing])


def _drifted(parts: np.ndarray, drift: float) -> float:
    """A bill in the money of a later year; all its prices drift alike."""
    return float((parts[0] - parts[1] + parts[2]) * drift)


def _line(new: np.ndarray, aged: np.ndarray, share: float) -> np.ndarray:
    return np.asarray(new + (aged - new) * share)


def _between(
    corners: dict[tuple[bool, bool], np.ndarray], health: float, sun: float, end: float
) -> np.ndarray:
    """Between four corners: battery new or at its end, array new or aged."""
    by_sun = (1 - sun) / (1 - AGED_SUN)
    by_health = (1 - health) / (1 - end) if end < 1 else 0.0
    fresh = _line(corners[False, False], corners[False, True], by_sun)
    worn = _line(corners[True, False], corners[True, True], by_sun)
    return _line(fresh, worn, by_health)


def _corners(reckoner: Reckoner, job: Job) -> dict[tuple[bool, bool], np.ndarray]:
    parts, years = reckoner.parts(job), {}
    run, end = years_of(reckoner, job, parts.plans), _end_share(job)
    worn_banks = tuple(
        bank.model_copy(update={"state_of_health": bank.state_of_health * end}) for bank in job.banks
    )
    worn_units = reckoner.converters(job.model_copy(update={"banks": worn_banks}))
    for worn, units in ((False, parts.converters), (True, worn_units)):
        for aged in (False, True):
            year = run(units, parts.sun_kw * (AGED_SUN if aged else 1.0))
            years[worn, aged] = _parts_of(reckoner.figures_of(job, year, units).money)
    return years


def _before(reckoner: Reckoner, job: Job, sun_share: float) -> np.ndarray:
    """The bill's parts with what already stands there alone."""
    parts = reckoner.parts(job)
    stands = np.array([unit.existing for unit in job.units])
    units = tuple(
        converter if there else replace(converter, battery=None, ac_charge=False, own_use_kw=0.0)
        for converter, there in zip(parts.converters, stands, strict=True)
    )
    year = years_of(reckoner, job, parts.plans)(units, parts.sun_kw * stands[:, None] * sun_share)
    return _parts_of(reckoner.figures_of(job, year, units).money)


def _sheets(job: Job) -> list[BatterySheet]:
    return [job.sheets.batteries[bank.sheet] for bank in job.banks]


def _end_share(job: Job) -> float:
    """What is left of a battery's capacity at the end of its life: the least of its sheets."""
    ends = [sheet.warranty_end_share for sheet in _sheets(job)]
    return min((END_SHARE if end is None else end for end in ends), default=1.0)


def _life(reckoner: Reckoner, job: Job) -> float:
    """Years until then: by the calendar, or by cycles where these are used up sooner."""
    cycles, lives = reckoner.figures(job).cycles, []
    for sheet in _sheets(job):
        most = sheet.warranty_cycles
        by_cycles = most / cycles if most is not None and cycles > 0 else np.inf
        lives.append(min(sheet.warranty_years or END_YEARS, by_cycles))
    return float(min(lives, default=np.inf))


def _assumed(job: Job) -> tuple[str, ...]:
    words = [f"modules lose {100 * MODULE_LOSS:g} % a year"]
    if any(sheet.warranty_end_share is None for sheet in _sheets(job)):
        words.append(f"batteries have {100 * END_SHARE:g} % left after {END_YEARS:g} years")
    return tuple(words)
