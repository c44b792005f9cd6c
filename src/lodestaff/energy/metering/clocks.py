"""Times by a household clock, and the minutes of UTC that they stand for."""

from datetime import UTC, datetime, timedelta
from functools import lru_cache

from lodestaff.quantities.zones import clock_changes

EPOCH = datetime(1970, 1, 1)


def minutes_of(moment: datetime) -> int:
    """Minutes since 1970 of a moment without a zone."""
    since = moment - EPOCH
    return since.days * 1440 + since.seconds // 60


def moment_at(minutes: int) -> datetime:
    return EPOCH + timedelta(minutes=minutes)


@lru_cache(maxsize=64)
def changes_utc(zone: str, utc_offset_h: float, year: int) -> tuple[int, int] | None:
    """Minutes of UTC at which clocks go forward and back in a year; None without daylight saving."""
    changes = clock_changes(zone, year)
    return None if changes is None else (minutes_of(changes[0]), minutes_of(changes[1]))


def summer_at(utc_min: int, zone: str, utc_offset_h: float) -> bool:
    """Whether household clocks are an hour ahead at a moment of UTC."""
    if not zone:
        return False
    changes = _changes_of((utc_min + round(utc_offset_h * 60)) // 1440, zone, utc_offset_h)
    if changes is None:
        return False
    forward, back = changes
    return forward <= utc_min < back if forward < back else not back <= utc_min < forward


@lru_cache(maxsize=16_384)
def _changes_of(day: int, zone: str, utc_offset_h: float) -> tuple[int, int] | None:
    """The two changes of the year that a day since 1970 lies in, in minutes of UTC, if it has any."""
    return changes_utc(zone, utc_offset_h, moment_at(day * 1440).year)


def utc_candidates(local_min: int, zone: str, utc_offset_h: float) -> tuple[int, ...]:
    """The moments of UTC that a household clock's time may stand for: none in the hour that is left out in
    spring, two in the hour that comes twice in autumn, in their order."""
    standard = local_min - round(utc_offset_h * 60)
    changes = []
    if summer_at(standard - 60, zone, utc_offset_h):
        changes.append(standard - 60)
    if not summer_at(standard, zone, utc_offset_h):
        changes.append(standard)
    return tuple(changes)


def spoken(utc_min: int, zone: str, utc_offset_h: float) -> str:
    """A moment of UTC as a household clock shows it."""
    ahead = 60 if summer_at(utc_min, zone, utc_offset_h) else 0
    return (
        moment_at(utc_min + round(utc_offset_h * 60) + ahead).replace(tzinfo=UTC).strftime("%Y-%m-%d %H:%M")
    )
