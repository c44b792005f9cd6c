"""How far a year may be from the typical one: ten seeded years of weather and load."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lodestaff.job import Job, SyntheticWeather
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.figures import YearFigures
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.yearly import year_of

YEARS = 10
SEED = 20_000
MONTH_SHARE, LOAD_SHARE = 0.08, 0.06  # standard deviations of a month's clearness and a circuit's energy:
# months of sun vary by 5 to 12 % from year to year, a household's energy as much; common practice, no source
CLEAREST, DULLEST = 0.74, 0.16
HOURS = 8760
OF_YEAR = ("bill", "pv_kwh", "load_kwh", "import_kwh", "export_kwh", "curtailed_kwh", "cycles",
           "self_sufficiency", "self_consumption", "unserved_kwh", "generator_h")  # fmt: skip


@dataclass(frozen=True)
class Range:
    """The least, the middle and the most of ten years."""

    low: float
    middle: float
    high: float

    @property
    def step(self) -> float:
        """What a figure with this range is rounded to: a power of ten, at most a tenth of the range."""
        width = self.high - self.low
        return float(10 ** np.floor(np.log10(width / 10))) if width > 1e-9 else 0.0

    def rounded(self, value: float) -> float:
        """A value with no more digits than the range allows."""
        return round(value / self.step) * self.step if self.step else value


def seeded(job: Job, number: int, other_sun: bool = True) -> Job:
    """The job in another year: other weather where it is made, other runs and energies of its circuits.

    Without `other_sun` months are as clear as in the job, their days others.
    """
    dice = np.random.default_rng([SEED, number])
    kinds = job.site.weather
    months = 1 + MONTH_SHARE * dice.standard_normal(12)
    loads = np.clip(1 + LOAD_SHARE * dice.standard_normal(len(job.circuits)), 0.7, 1.3)
    changes: dict[str, object] = {
        "circuits": tuple(
            circuit.model_copy(
                update={"kwh_year": min(circuit.kwh_year * share, circuit.running_w * HOURS / 1000)}
            )
            for circuit, share in zip(job.circuits, map(float, loads), strict=True)
        )
    }
    if isinstance(kinds, SyntheticWeather):
        clearness = (
            kinds.clearness
            if not other_sun
            else tuple(
                float(np.clip(clear * share, DULLEST, max(clear, CLEAREST)))
                for clear, share in zip(kinds.clearness, months, strict=True)
            )
        )
        weather = kinds.model_copy(update={"clearness": clearness, "seed": SEED + number})
        changes["site"] = job.site.model_copy(update={"weather": weather})
    return job.model_copy(update=changes)


def spread(
    reckoner: Reckoner, job: Job, progress: Callable[[float], bool] = lambda share: True
) -> dict[str, Range] | None:
    """Ranges of the yearly figures by name. None where stopped.

    Weather from a file stays as it is: then the loads alone vary. Where a month can't be so clear, months
    are as in the job.
    """
    years: list[YearFigures] = []
    for number in range(YEARS):
        if not progress(number / YEARS):
            return None
        try:
            years.append(_figures(reckoner, seeded(job, number)))
        except JobError:
            years.append(_figures(reckoner, seeded(job, number, other_sun=False)))
    progress(1.0)
    ranges = {}
    for name in OF_YEAR:
        values = [float(getattr(figures, name)) for figures in years]
        ranges[name] = Range(min(values), float(np.median(values)), max(values))
    return ranges


def _figures(reckoner: Reckoner, job: Job) -> YearFigures:
    """A year's figures without keeping its series: ten of them would put out what all settings share."""
    parts = reckoner.parts(job)
    return reckoner.figures_of(job, year_of(reckoner, job, parts), parts.converters)
