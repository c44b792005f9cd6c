"""Where the sun stands in each step of the nominal year, taken at the middle of the step."""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from lodestaff.energy.calendar import STEP_H, STEPS, YEAR, Floats
from lodestaff.energy.kept import kept


@dataclass(frozen=True)
class Place:
    """A place on the earth; offset of local standard time from UTC in hours."""

    latitude_deg: float
    longitude_deg: float
    altitude_m: float
    utc_offset_h: float


@dataclass(frozen=True)
class Sun:
    """Solar position per step: angles in degrees, extraterrestrial normal irradiance in W/m²."""

    apparent_zenith_deg: Floats
    azimuth_deg: Floats
    extra_normal_w_m2: Floats

    @cached_property
    def directions(self) -> Floats:
        """Unit vectors to the sun, east, north and up, shape (step, 3)."""
        zenith, azimuth = np.radians(self.apparent_zenith_deg), np.radians(self.azimuth_deg)
        flat = np.sin(zenith)
        return np.column_stack((flat * np.sin(azimuth), flat * np.cos(azimuth), np.cos(zenith)))

    @property
    def cos_zenith(self) -> Floats:
        """Cosine of the zenith, 0 below the horizon."""
        return np.clip(np.cos(np.radians(self.apparent_zenith_deg)), 0, None)


@lru_cache(maxsize=4)
@kept
def sun_over_year(place: Place) -> Sun:
    """The sun over the nominal year, shape (35040,) each.

    Source: pvlib's `ephemeris`, within 0.01 degree of its NREL algorithm, sixteen times as fast.
    """
    import pandas as pd

    hours = (np.arange(STEPS) + 0.5) * STEP_H - place.utc_offset_h
    times = pd.DatetimeIndex(
        np.datetime64(f"{YEAR}-01-01") + (hours * 3600).astype("timedelta64[s]"), tz="UTC"
    )
    return sun_at(times, place)


def sun_at(times: object, place: Place) -> Sun:
    """The sun at given instants (a time-zone-aware pandas DatetimeIndex)."""
    import pvlib

    pressure = pvlib.atmosphere.alt2pres(place.altitude_m)
    position = pvlib.solarposition.ephemeris(
        times, place.latitude_deg, place.longitude_deg, pressure=pressure, temperature=12
    )
    return Sun(
        position["apparent_zenith"].to_numpy(),
        position["azimuth"].to_numpy(),
        np.asarray(pvlib.irradiance.get_extra_radiation(times), dtype=float),
    )
