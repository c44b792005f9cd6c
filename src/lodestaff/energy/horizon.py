"""The far horizon: what stands so far away that all faces see it alike. It takes the beam while the sun is
below it; that it also hides a little of the sky's own light is left out (common practice, no source)."""

import re
from dataclasses import replace
from typing import Literal

import numpy as np

from lodestaff.energy.calendar import Floats
from lodestaff.energy.metering.text import lines_of
from lodestaff.energy.sun import Sun
from lodestaff.energy.weather import Weather
from lodestaff.quantities.errors import JobError

Points = tuple[tuple[float, float], ...]  # azimuth clockwise from north and elevation, degrees
FULL = 360.0
COUNTED_BELOW = "counts azimuths below 0: from north or from south?"
MOST_POINTS = 400
HIGHEST_DEG = 85.0
_SPLIT = re.compile(r"[;,\t ]+")
_NUMBER = re.compile(r"^-?\d+(\.\d+)?$")


def read_horizon(raw: bytes, name: str, zero: Literal["", "north", "south"] = "") -> Points:
    """The points of a CSV file: azimuth and elevation in degrees in its first two columns, headed or not.

    Azimuths from 0 to 360 count clockwise from north. Where some are below 0 it counts from -180 to 180,
    from north or from south, which `zero` says. Raises JobError that names the line.
    """
    rows: dict[float, float] = {}
    begun = below = False
    for number, line in enumerate(lines_of(raw, name), start=1):
        cells = [cell for cell in _SPLIT.split(line.strip()) if cell]
        if len(cells) < 2 or not (_NUMBER.match(cells[0]) and _NUMBER.match(cells[1])):
            if begun or number > 30:
                what = f"has no azimuth and elevation: {line[:40]!r}"
                raise JobError(what, f"{name} line {number}", "two numbers")
            continue
        begun = True
        azimuth, elevation = float(cells[0]), float(cells[1])
        below = below or azimuth < 0
        if not -180 <= azimuth <= FULL or not 0 <= elevation <= HIGHEST_DEG:
            right = f"an azimuth from 0 to 360 and an elevation from 0 to {HIGHEST_DEG:g} degrees"
            raise JobError(f"has {azimuth:g} and {elevation:g}", f"{name} line {number}", right)
        rows[azimuth] = max(elevation, rows.get(azimuth, 0.0))
    if below and not zero:
        raise JobError(COUNTED_BELOW, name, "say which (--zero)")
    turn = 180.0 if zero == "south" else 0.0
    points = {round((azimuth + turn) % FULL, 3): elevation for azimuth, elevation in rows.items()}
    if not 2 <= len(points) <= MOST_POINTS:
        raise JobError(
            f"holds {len(points)} points", name, f"from 2 to {MOST_POINTS}, around the whole horizon"
        )
    return tuple(sorted(points.items()))


def elevation_deg(points: Points, azimuth_deg: Floats) -> Floats:
    """How high the horizon stands at azimuths, straight between its points, shape as given."""
    azimuths, heights = np.array(points, dtype=float).T
    return np.asarray(np.interp(azimuth_deg, azimuths, heights, period=FULL))


def seen_from(points: Points, sun: Sun, weather: Weather) -> Weather:
    """The weather as a place behind a horizon has it: no beam while the sun is below it."""
    if not points:
        return weather
    hidden = 90.0 - sun.apparent_zenith_deg < elevation_deg(points, sun.azimuth_deg)
    beam = np.where(hidden, 0.0, weather.dni_w_m2)
    lost = (weather.dni_w_m2 - beam) * sun.cos_zenith
    return replace(weather, dni_w_m2=beam, ghi_w_m2=np.clip(weather.ghi_w_m2 - lost, weather.dhi_w_m2, None))
