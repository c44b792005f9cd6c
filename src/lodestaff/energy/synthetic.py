"""A seeded synthetic weather year for any place, from monthly clearness, temperatures and wind.

It has persistent days (a dull day follows a dull one more often than not) and passing clouds, and
each month's global irradiation is what its clearness says. It can't do: records of heat and cold,
storms, fog that follows the valley, snow on modules, or the link between wind, cloud and warmth.
"""

from dataclasses import dataclass
from functools import lru_cache
from itertools import accumulate

import numpy as np

from lodestaff.energy.calendar import MONTH_NAMES, STEPS_PER_DAY, Floats, month_of_step, standard_hour
from lodestaff.energy.kept import kept
from lodestaff.energy.sun import Place, sun_over_year
from lodestaff.energy.weather import Weather, extraterrestrial_horizontal
from lodestaff.quantities.errors import JobError

DAY_PERSISTENCE = 0.65  # correlation of one day's clearness with the next (common practice, no source)
STEP_PERSISTENCE = 0.8  # the same from step to step for passing clouds
HOT_HOUR = 15.0  # the warmest hour of the day, local standard time


@dataclass(frozen=True)
class Climate:
    """Twelve values each: clearness (GHI over extraterrestrial), mean daily low and high in °C, wind in
    m/s."""

    clearness: tuple[float, ...]
    temperature_low_c: tuple[float, ...]
    temperature_high_c: tuple[float, ...]
    wind_m_s: tuple[float, ...]
    seed: int


@lru_cache(maxsize=4)
@kept
def synthetic_year(place: Place, climate: Climate) -> Weather:
    """Make the year. Raises JobError where a month's clearness is above a clear sky's."""
    import pvlib

    random = np.random.default_rng(climate.seed)
    sun = sun_over_year(place)
    outside = extraterrestrial_horizontal(sun)
    clear = np.minimum(
        pvlib.clearsky.haurwitz(_frame(sun.apparent_zenith_deg))["ghi"].to_numpy(), 0.85 * outside
    )
    _check_reachable(climate, outside, clear)
    days = _daily_clearness(random, climate, outside, clear)
    ghi = _within_days(random, days, outside, clear)
    ghi = _to_monthly_sums(ghi, climate, outside, clear)
    day_of_year = np.repeat(np.arange(1, 366), STEPS_PER_DAY)
    split = pvlib.irradiance.erbs(ghi, sun.apparent_zenith_deg, day_of_year)
    dhi = np.clip(np.nan_to_num(np.asarray(split["dhi"])), 0, ghi)
    up = sun.cos_zenith > 0.02
    dni = np.where(up, (ghi - dhi) / np.maximum(sun.cos_zenith, 0.02), 0)
    dhi = np.where(up, dhi, ghi)
    return Weather(
        ghi,
        dni,
        dhi_w_m2=dhi,
        temp_air_c=_temperature(random, climate),
        wind_m_s=_wind(random, climate),
        source="synthetic year",
    )


def _frame(zenith_deg: Floats) -> object:
    import pandas as pd

    return pd.Series(zenith_deg)


def _check_reachable(climate: Climate, outside: Floats, clear: Floats) -> None:
    months = month_of_step()
    for month, wanted in enumerate(climate.clearness):
        here = months == month
        most = clear[here].sum() / max(outside[here].sum(), 1e-9)
        if wanted > most:
            raise JobError(
                f"clearness {wanted:g} is above a clear sky's {most:.2f}",
                f"weather {MONTH_NAMES[month]}",
                f"give at most {most * 0.97:.2f}",
            )


def _persistent(random: np.random.Generator, length: int, correlation: float) -> Floats:
    """Standard normal noise whose neighbours are correlated, shape (length,)."""
    own = float(np.sqrt(1 - correlation**2))
    noise = random.standard_normal(length)
    noise[0] /= own
    return np.array([*accumulate((own * noise).tolist(), lambda last, new: new + correlation * last)])


def _by_month(values: tuple[float, ...]) -> Floats:
    """Daily values that run smoothly through the months' middles, shape (365,)."""
    middles = np.array([15, 45, 74, 105, 135, 166, 196, 227, 258, 288, 319, 349], dtype=float)
    return np.asarray(np.interp(np.arange(365) + 0.5, middles, values, period=365))


def _daily_clearness(random: np.random.Generator, climate: Climate, outside: Floats, clear: Floats) -> Floats:
    """Clearness of each day, shape (365,): logistic in a persistent noise, shifted to the month's mean."""
    noise = _persistent(random, 365, DAY_PERSISTENCE)
    day_outside = outside.reshape(365, -1).sum(axis=1)
    ceiling = clear.reshape(365, -1).sum(axis=1) / np.maximum(day_outside, 1e-9)
    months = month_of_step()[::STEPS_PER_DAY]
    result = np.zeros(365)
    for month, wanted in enumerate(climate.clearness):
        here = months == month
        low, high = -8.0, 8.0
        for _ in range(50):
            shift = (low + high) / 2
            trial = ceiling[here] * (0.06 + 0.94 / (1 + np.exp(-(1.5 * noise[here] + shift))))
            mean = (trial * day_outside[here]).sum() / max(day_outside[here].sum(), 1e-9)
            low, high = (shift, high) if mean < wanted else (low, shift)
        result[here] = trial
    return result


def _within_days(random: np.random.Generator, days: Floats, outside: Floats, clear: Floats) -> Floats:
    """Passing clouds within each day: most on half-clear days, none on clear or overcast ones."""
    noise = _persistent(random, outside.size, STEP_PERSISTENCE)
    day_clear = clear.reshape(365, -1).sum(axis=1)
    share = np.repeat(
        days * outside.reshape(365, -1).sum(axis=1) / np.maximum(day_clear, 1e-9), STEPS_PER_DAY
    )
    share = np.clip(share, 0.02, 1)
    spread = 2.2 * share * (1 - share)
    return np.asarray(np.clip(clear * share * (1 + spread * noise), 0.03 * clear, clear))


def _to_monthly_sums(ghi: Floats, climate: Climate, outside: Floats, clear: Floats) -> Floats:
    """Scale each month to its clearness without going above the clear sky."""
    months = month_of_step()
    ghi = ghi.copy()
    for month, wanted in enumerate(climate.clearness):
        here = months == month
        target = wanted * outside[here].sum()
        for _ in range(60):
            total = ghi[here].sum()
            if abs(total - target) <= 1e-4 * target:
                break
            ghi[here] = np.minimum(ghi[here] * target / total, clear[here])
    return ghi


def _temperature(random: np.random.Generator, climate: Climate) -> Floats:
    """Air temperature with warm and cold spells; each month's mean daily low and high are as given."""
    low, high = _by_month(climate.temperature_low_c), _by_month(climate.temperature_high_c)
    spell = 2.5 * _persistent(random, 365, 0.75)
    phase = np.cos((standard_hour() - HOT_HOUR) / 24 * 2 * np.pi)
    middle = np.interp(
        (np.arange(phase.size) + 0.5) / STEPS_PER_DAY,
        np.arange(365) + 0.5,
        (low + high) / 2 + spell,
        period=365,
    )
    swing = np.repeat((high - low) / 2, STEPS_PER_DAY)
    temperature = middle + swing * phase
    months = month_of_step()
    for month in range(12):
        here = months == month
        by_day = temperature[here].reshape(-1, STEPS_PER_DAY)
        got_low, got_high = by_day.min(axis=1).mean(), by_day.max(axis=1).mean()
        want_low, want_high = climate.temperature_low_c[month], climate.temperature_high_c[month]
        stretch = (want_high - want_low) / max(got_high - got_low, 1e-9)
        temperature[here] = want_low + (temperature[here] - got_low) * stretch
    return temperature


def _wind(random: np.random.Generator, climate: Climate) -> Floats:
    """Wind speed, Rayleigh-distributed (common practice, no source), with each month's mean as given."""
    from scipy.special import ndtr

    hourly = _persistent(random, 8760, 0.9)
    quantile = np.clip(1 - ndtr(hourly), 1e-9, 1)
    speed = np.repeat(np.sqrt(-np.log(quantile)), 4)
    months = month_of_step()
    for month, mean in enumerate(climate.wind_m_s):
        here = months == month
        speed[here] *= mean / speed[here].mean()
    return speed
