"""The sun over the roof: its paths, the far horizon and what stands before the sky of a module; and the
shadows at a moment."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from lodestaff.energy.calendar import STEPS_PER_DAY, STEPS_PER_HOUR
from lodestaff.energy.sun import Place, sun_over_year
from lodestaff.job import Face, Job
from lodestaff.reckoning.moment import Moment
from lodestaff.reckoning.selectors import place
from lodestaff.roof.frame import frame_of
from lodestaff.roof.solids import RAISED_M, prisms
from lodestaff.roof.views import Outline, before_the_sky, shadow_on

DAYS = {12: 354, 3: 79, 6: 171}  # days of the year, counted from 0: solstices, and an equinox for both
MIDDLE_OF_MONTH = (15, 45, 74, 105, 135, 166, 196, 227, 258, 288, 319, 349)


@dataclass(frozen=True)
class Path:
    """The sun's way over one day: azimuths from the middle of the picture, elevations, degrees; and the
    points of full hours of standard time."""

    month: int
    points: Outline
    hours: tuple[tuple[int, float, float], ...]


@dataclass(frozen=True)
class SunView:
    """The sky as a module sees it. Azimuths count from `middle_deg`, the side on which the sun stands at
    noon."""

    middle_deg: float
    paths: tuple[Path, ...]
    now: tuple[float, float] | None  # the sun at the moment; None while it is down
    horizon: Outline
    things: tuple[tuple[str, Outline], ...]
    behind: Outline  # elevations below which the sun is behind the plane, over all azimuths


def middle_of(job: Job) -> float:
    """The azimuth of the noon sun."""
    return 180.0 if job.site.latitude_deg >= 0 else 0.0


def sun_now(job: Job, moment: Moment) -> tuple[float, float]:
    """Azimuth and elevation of the sun at a moment, degrees."""
    step = MIDDLE_OF_MONTH[moment.month - 1] * STEPS_PER_DAY + round(moment.hour * STEPS_PER_HOUR)
    return _sun_at(place(job), step)


def _sun_at(where: Place, step: int) -> tuple[float, float]:
    """Where the sun stands as a step begins: between the middles of that step and the one before."""
    sun = sun_over_year(where)
    two = [step - 1, step % sun.azimuth_deg.size]
    before, after = sun.azimuth_deg[two]
    azimuth = before + ((after - before + 180) % 360 - 180) / 2
    return float(azimuth % 360), float(90 - sun.apparent_zenith_deg[two].mean())


def shadows(job: Job, face: Face, moment: Moment) -> tuple[Outline, ...]:
    """The shadows on a face at a moment, in its own metres."""
    azimuth, elevation = sun_now(job, moment)
    outlines = (shadow_on(face, prism, azimuth, elevation) for prism in prisms(job, face))
    return tuple(outline for outline in outlines if outline)


def in_the_sun(job: Job, face: Face, moment: Moment) -> bool:
    """Whether the sun is up and before a face."""
    azimuth, elevation = sun_now(job, moment)
    tilt = np.radians(face.tilt_deg)
    away = np.radians(azimuth - face.azimuth_deg)
    high = np.radians(elevation)
    return bool(
        elevation > 0 and np.sin(high) * np.cos(tilt) + np.cos(high) * np.sin(tilt) * np.cos(away) > 0
    )


def sun_view(job: Job, face: Face, module: str, moment: Moment) -> SunView:
    """The sky from the middle of a module of a face; from the face's own middle where it has none of that
    id."""
    middle, frame = middle_of(job), frame_of(face)
    x, y = face.width_m / 2, face.height_m / 2
    for each in face.modules:
        if each.id == module:
            w, h = face.size_of(each, job.sheets.modules[face.module])
            x, y = each.x_m + w / 2, each.y_m + h / 2
    point = frame.at(x, y) + RAISED_M * frame.out
    months = [*DAYS, *([moment.month] if moment.month not in DAYS else [])]
    azimuth, elevation = sun_now(job, moment)
    return SunView(
        middle,
        tuple(_path(place(job), month, middle) for month in months),
        now=(_turned(azimuth, middle), elevation) if elevation > 0 else None,
        horizon=tuple(sorted((_turned(p.azimuth_deg, middle), p.elevation_deg) for p in job.site.horizon)),
        things=tuple(
            (prism.name, outline)
            for prism in prisms(job, face)
            if (outline := before_the_sky(prism, point, middle))
        ),
        behind=_behind(face, middle),
    )


def _turned(azimuth_deg: float, middle_deg: float) -> float:
    return (azimuth_deg - middle_deg + 180) % 360 - 180


@lru_cache(maxsize=64)
def _path(where: Place, month: int, middle: float) -> Path:
    first = DAYS.get(month, MIDDLE_OF_MONTH[month - 1]) * STEPS_PER_DAY
    points = [
        (_turned(azimuth, middle), elevation)
        for azimuth, elevation in (_sun_at(where, first + step) for step in range(STEPS_PER_DAY))
    ]
    hours = ((step // STEPS_PER_HOUR, *points[step]) for step in range(0, STEPS_PER_DAY, STEPS_PER_HOUR))
    return Path(
        month,
        tuple(point for point in points if point[1] > 0),
        tuple((hour, x, high) for hour, x, high in hours if high > 0),
    )


def _behind(face: Face, middle: float) -> Outline:
    """For each azimuth the elevation at which the sun comes before the plane: tan e = −tan tilt x cos
    away."""
    away = np.arange(-180, 181, 5)
    facing = np.cos(np.radians(away + middle - face.azimuth_deg))
    edge = np.degrees(np.arctan(-np.tan(np.radians(min(face.tilt_deg, 89.9))) * facing))
    return tuple((float(a), float(max(0.0, e))) for a, e in zip(away, edge, strict=True))
