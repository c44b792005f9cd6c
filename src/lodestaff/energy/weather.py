"""A weather year on the fifteen-minute grid, from a typical-year file.

A typical year is no record: its lowest temperature is not the record low, and a single bad week of
one real year may be worse than any week in it.
"""

import io
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np

from lodestaff.energy.calendar import STEPS, STEPS_PER_HOUR, Floats
from lodestaff.energy.kept import kept
from lodestaff.energy.plausible import HOURS, check_order, check_place, check_sun
from lodestaff.energy.sun import Place, Sun, sun_over_year
from lodestaff.quantities.errors import JobError

UNREADABLE = (ValueError, KeyError, IndexError, TypeError, AttributeError, OverflowError, StopIteration)
COLUMNS = ("ghi", "dni", "dhi", "temp_air", "wind_speed")
# What a value may be; outside is a gap or a fault. The formats mark gaps with 9999, 99.9, 999, -9900.
LIMITS = {"ghi": (0, 1500), "dni": (0, 1500), "dhi": (0, 1200), "temp_air": (-75, 60), "wind_speed": (0, 75)}
UNITS = {"ghi": "W/m²", "dni": "W/m²", "dhi": "W/m²", "temp_air": "°C", "wind_speed": "m/s"}


@dataclass(frozen=True)
class Weather:
    """A year of weather, shape (35040,) each: irradiance in W/m², air temperature in °C, wind in m/s."""

    ghi_w_m2: Floats
    dni_w_m2: Floats
    dhi_w_m2: Floats
    temp_air_c: Floats
    wind_m_s: Floats
    source: str


@dataclass(frozen=True)
class HourlyFile:
    """What a typical-year file holds, in its order: hour 0 of 1 January first, shape (8760,) each."""

    columns: dict[str, Floats]
    place: Place


@lru_cache(maxsize=4)
@kept
def read_file(raw: bytes, form: Literal["tmy3", "epw"], name: str) -> HourlyFile:
    """Read a TMY3 or EPW file. Raises JobError for gaps and damage, naming the first place."""
    import pvlib

    reader: Callable[..., Any] = {"tmy3": _read_tmy3, "epw": pvlib.iotools.read_epw}[form]
    try:
        frame, meta = reader(io.StringIO(raw.decode("utf-8", errors="replace")))
        columns = {column: frame[column].to_numpy(dtype=float) for column in COLUMNS}
        place = {key: float(meta[key]) for key in ("latitude", "longitude", "altitude", "TZ")}
    except UNREADABLE as trouble:
        raise JobError(
            f"cannot be read as {form.upper()}: {trouble}",
            name,
            "choose the file's real format or another file",
        ) from trouble
    check_place(place, name)
    _check_rows(columns, name)
    check_order(frame.index, name)
    own = Place(place["latitude"], place["longitude"], place["altitude"], place["TZ"])
    check_sun(columns["ghi"], own, name, whose="the place that it names")
    return HourlyFile(columns, own)


def _read_tmy3(stream: io.StringIO) -> Any:
    import pvlib

    return pvlib.iotools.read_tmy3(stream, coerce_year=1990, map_variables=True)


def _check_rows(columns: dict[str, Floats], name: str) -> None:
    rows = len(columns["ghi"])
    if rows != HOURS:
        raise JobError(
            f"holds {rows} hours; a year has {HOURS}",
            name,
            "hours are missing or doubled: get the whole file",
        )
    for column, values in columns.items():
        low, high = LIMITS[column]
        wrong = ~((values >= low) & (values <= high))
        if wrong.any():
            first = int(np.argmax(wrong))
            length = int(np.argmin(wrong[first:])) if not wrong[first:].all() else HOURS - first
            raise JobError(
                f"{column} has no usable value ({values[first]:g} {UNITS[column]}) for {length} h, "
                f"{int(wrong.sum())} h in all",
                f"{name} hour {first % 24} of day {first // 24 + 1}",
                "fill the gap from another source, or use the synthetic year",
            )


def spread(hourly: HourlyFile, place: Place, source: str) -> Weather:
    """Spread hourly values over fifteen-minute steps, keeping each hour's mean irradiance.

    Within an hour global and diffuse follow the height of the sun, beam is even while it is up;
    temperature and wind run straight between the middles of the hours. What an hourly file cannot
    know is lost: clouds that pass within the hour. Raises JobError where the file's sun isn't the place's.
    """
    check_sun(hourly.columns["ghi"], place, source, whose="this job's place")
    sun = sun_over_year(place)
    steps = {
        "ghi": _share_out(hourly.columns["ghi"], sun.cos_zenith),
        "dhi": _share_out(hourly.columns["dhi"], sun.cos_zenith),
        "dni": _share_out(hourly.columns["dni"], (sun.cos_zenith > 0).astype(float)),
    }
    middles = np.arange(HOURS) + 0.5
    at = (np.arange(STEPS) + 0.5) / STEPS_PER_HOUR
    return Weather(
        steps["ghi"],
        steps["dni"],
        dhi_w_m2=steps["dhi"],
        temp_air_c=np.interp(at, middles, hourly.columns["temp_air"]),
        wind_m_s=np.interp(at, middles, hourly.columns["wind_speed"]),
        source=source,
    )


def _share_out(hourly: Floats, weights: Floats) -> Floats:
    by_hour = weights.reshape(HOURS, STEPS_PER_HOUR)
    total = by_hour.sum(axis=1, keepdims=True)
    shares = np.divide(by_hour, total, out=np.full_like(by_hour, 1 / STEPS_PER_HOUR), where=total > 0)
    return np.asarray((hourly[:, None] * shares * STEPS_PER_HOUR).ravel())


def extraterrestrial_horizontal(sun: Sun) -> Floats:
    """Irradiance on a horizontal plane outside the atmosphere, W/m²."""
    return sun.extra_normal_w_m2 * sun.cos_zenith
