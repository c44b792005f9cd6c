"""Whether a typical year can be: its place, the order of its hours, its sun against the place's own."""

from typing import Any

import numpy as np

from lodestaff.energy.calendar import STEPS_PER_HOUR, Floats
from lodestaff.energy.sun import Place, sun_over_year
from lodestaff.quantities.errors import JobError

HOURS = 8760
BOUNDS = {"latitude": (-90, 90), "longitude": (-180, 180), "altitude": (-430, 9000), "TZ": (-12, 14)}
MOST_ZONE_OFF_H = 3.5  # between a zone and the sun's own time; common practice, no source
MOST_IN_THE_DARK = 0.02  # of the year's irradiation; twilight and a file's rounding stay far below
MOST_TOO_BRIGHT = 0.02  # of the hours above what reaches the top of the air, and a bright cloud's edge more
CLOUD_EDGE_W_M2 = 60.0


def check_place(place: dict[str, float], name: str) -> None:
    """Raises JobError for a place that isn't on the earth, or a zone that isn't the place's."""
    for key, (low, high) in BOUNDS.items():
        if not low <= place[key] <= high:
            raise JobError(f"{key} is {place[key]:g}", f"{name} head", f"from {low} to {high}")
    off = abs((place["TZ"] - place["longitude"] / 15 + 12) % 24 - 12)
    if off > MOST_ZONE_OFF_H:
        what = f"its zone (UTC{place['TZ']:+g}) is {off:.1f} h from its longitude ({place['longitude']:g})"
        raise JobError(what, f"{name} head", "the sign of both: east of Greenwich counts above 0")


def check_order(moments: Any, name: str) -> None:
    """Raises JobError where an hour doesn't follow the one before; `moments` is a DatetimeIndex of 8760."""
    days = np.cumsum([0, 31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30])[moments.month - 1] + moments.day - 1
    hours = np.asarray(days * 24 + moments.hour)
    wanted = (np.arange(HOURS) + hours[0]) % HOURS
    wrong = hours % HOURS != wanted
    if hours[0] > 1 or wrong.any():
        row = int(np.argmax(wrong)) if hours[0] <= 1 else 0
        said = f"{moments[row]:%d %B %H:%M}"
        right = "hours follow each other from 1 January on: none doubled, left out or turned round"
        raise JobError(f"row {row + 1} is of {said}", name, right)


def check_sun(ghi_w_m2: Floats, place: Place, name: str, whose: str) -> None:
    """Raises JobError where the sun shines in the dark of a place, or brighter than it can. Shape (8760,)."""
    sun = sun_over_year(place)
    outside = (sun.extra_normal_w_m2 * sun.cos_zenith).reshape(HOURS, STEPS_PER_HOUR).mean(axis=1)
    total = float(ghi_w_m2.sum())
    dark = float(ghi_w_m2[outside <= 0].sum()) / total if total > 0 else 0.0
    bright = float((ghi_w_m2 > outside + CLOUD_EDGE_W_M2).mean())
    if dark > MOST_IN_THE_DARK or bright > MOST_TOO_BRIGHT:
        how = f"{dark:.0%} of its sun in the dark, {bright:.0%} of its hours brighter than can be"
        right = "check latitude, longitude and time zone, or the file's rows"
        raise JobError(f"its sun is not that of {whose}: {how}", name, right)
