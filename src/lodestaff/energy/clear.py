"""Clear-sky light on several planes at once: how far the highest currents of unlike faces coincide."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.array import ALBEDO
from lodestaff.energy.kept import kept
from lodestaff.energy.sun import Place

TURBIDITY = 3.0  # Linke, a clear day of the middle latitudes; common practice
STEP = "10min"
YEAR = 2025
Facing = tuple[float, float]  # tilt from horizontal and azimuth clockwise from north, degrees


@dataclass(frozen=True)
class Together:
    """The year's highest clear-sky light on each plane, W/m², and the highest of the weighted sum, A."""

    peaks_w_m2: tuple[float, ...]
    sum_a: float

    def apart_a(self, isc_a: tuple[float, ...]) -> float:
        """The sum of the highest currents, each at its own time."""
        return sum(peak * isc / 1000 for peak, isc in zip(self.peaks_w_m2, isc_a, strict=True))


@kept
def together(place: Place, planes: tuple[Facing, ...], isc_a: tuple[float, ...]) -> Together:
    """Short-circuit currents of planes under a clear sky over a year in steps of ten minutes.

    I = Isc x G/1000. Source: pvlib, Ineichen clear sky and Hay-Davies transposition.
    """
    import pandas as pd
    import pvlib

    times = pd.date_range(f"{YEAR}-01-01", f"{YEAR}-12-31 23:50", freq=STEP, tz="UTC")
    sun = pvlib.solarposition.get_solarposition(
        times, place.latitude_deg, place.longitude_deg, altitude=place.altitude_m
    )
    zenith = sun["apparent_zenith"]
    mass = pvlib.atmosphere.get_absolute_airmass(
        pvlib.atmosphere.get_relative_airmass(zenith), pvlib.atmosphere.alt2pres(place.altitude_m)
    )
    extra = pvlib.irradiance.get_extra_radiation(times)
    sky = pvlib.clearsky.ineichen(zenith, mass, TURBIDITY, altitude=place.altitude_m, dni_extra=extra)
    lights = []
    for tilt, azimuth in planes:
        light = pvlib.irradiance.get_total_irradiance(
            tilt,
            azimuth,
            zenith,
            sun["azimuth"],
            sky["dni"],
            sky["ghi"],
            sky["dhi"],
            dni_extra=extra,
            albedo=ALBEDO,
            model="haydavies",
        )
        lights.append(np.nan_to_num(light["poa_global"].to_numpy()))
    amps = np.sum([light * isc / 1000 for light, isc in zip(lights, isc_a, strict=True)], axis=0)
    return Together(tuple(float(light.max()) for light in lights), float(amps.max()))
