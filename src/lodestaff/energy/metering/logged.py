"""What a meter logged, on one clock: energies by interval, gaps, the highest demand, the mean day of each
month."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import Floats, Ints
from lodestaff.energy.metering.clocks import moment_at, spoken


@dataclass(frozen=True)
class Logged:
    """Intervals in their order: start in minutes of UTC since 1970, energy in kWh, NaN where the meter gave
    none.

    `gaps` are runs that are missing or blank, as (first, last start in UTC minutes); `notes` is what was met.
    """

    start_utc_min: Ints
    kwh: Floats
    interval_min: int
    zone: str
    utc_offset_h: float
    gaps: tuple[tuple[int, int], ...]
    notes: tuple[str, ...]

    @property
    def days(self) -> float:
        """Days from the first interval to the end of the last."""
        return float(self.start_utc_min[-1] - self.start_utc_min[0] + self.interval_min) / 1440

    @property
    def covered(self) -> float:
        """Share of these days that has values."""
        return float(np.isfinite(self.kwh).sum()) * self.interval_min / 1440 / self.days

    @property
    def total_kwh(self) -> float:
        return float(np.nansum(self.kwh))

    @property
    def kw(self) -> Floats:
        """Mean power of each interval in kW."""
        return np.asarray(self.kwh * 60 / self.interval_min)

    def highest(self) -> tuple[float, str]:
        """The highest mean power of an interval in kW, and when by the household clock."""
        index = int(np.nanargmax(self.kwh))
        return float(self.kw[index]), spoken(int(self.start_utc_min[index]), self.zone, self.utc_offset_h)

    def span(self) -> tuple[str, str]:
        """First and last interval by the household clock."""
        first, last = int(self.start_utc_min[0]), int(self.start_utc_min[-1])
        return spoken(first, self.zone, self.utc_offset_h), spoken(last, self.zone, self.utc_offset_h)

    def by_month_and_hour(self) -> tuple[Floats, Ints]:
        """Mean power by month, kind of day (weekday, weekend) and hour of standard time, shape (12, 2, 24),
        in kW, NaN where nothing was logged; and how many intervals each mean has."""
        standard = self.start_utc_min + round(self.utc_offset_h * 60)
        days = standard // 1440
        month = np.array([moment_at(int(day) * 1440).month - 1 for day in np.unique(days)])
        of_day = np.searchsorted(np.unique(days), days)
        weekend = ((days + 3) % 7 >= 5).astype(int)  # 1970 began on a Thursday
        hour = standard % 1440 // 60
        place = (month[of_day] * 2 + weekend) * 24 + hour
        good = np.isfinite(self.kwh)
        count = np.bincount(place[good], minlength=12 * 48)
        total = np.bincount(place[good], self.kw[good], minlength=12 * 48)
        mean = np.divide(total, count, out=np.full(total.shape, np.nan), where=count > 0)
        return mean.reshape(12, 2, 24), count.reshape(12, 2, 24)

    def base_kw(self) -> float:
        """What is always drawn: the twentieth part of the quarter hours that draws least, in kW."""
        return float(np.nanpercentile(self.kw, 5))
