"""Time zones by the IANA's names: when clocks change, and which zones lie near a place."""

import math
import re
from datetime import UTC, datetime, timedelta
from functools import cache
from importlib import resources
from zoneinfo import ZoneInfo, available_timezones

HOUR = timedelta(hours=1)
PLACE = re.compile(r"([+-])(\d{2})(\d{2})(\d{2})?([+-])(\d{3})(\d{2})(\d{2})?")


@cache
def zone_names() -> frozenset[str]:
    """All names of zones."""
    return frozenset(available_timezones())


@cache
def clock_changes(zone: str, year: int) -> tuple[datetime, datetime] | None:
    """When clocks go forward and back in a year, as moments of UTC; None where they don't. '' is a zone
    without.

    Source: the IANA's time zone database, by the package tzdata.
    """
    if not zone:
        return None
    where, forward, back = ZoneInfo(zone), None, None
    day, last = datetime(year, 1, 1, tzinfo=UTC), datetime(year + 1, 1, 1, tzinfo=UTC)
    while day < last:
        if _ahead(where, day + 24 * HOUR) != _ahead(where, day):
            steps = [day + step * HOUR / 2 for step in range(1, 49)]  # clocks change on the hour or the half
            at = next(step for step in steps if _ahead(where, step) != _ahead(where, day)).replace(
                tzinfo=None
            )
            more = _ahead(where, day + 24 * HOUR) > _ahead(where, day)
            forward, back = (at, back) if more else (forward, at)
        day += 24 * HOUR
    return None if forward is None or back is None else (forward, back)


def _ahead(where: ZoneInfo, moment: datetime) -> timedelta:
    """By how much clocks are ahead of UTC at a moment."""
    return moment.astimezone(where).utcoffset() or timedelta()


def standard_offset_h(zone: str, year: int) -> float:
    """Hours by which standard time is ahead of UTC."""
    where = ZoneInfo(zone)
    offsets = [where.utcoffset(datetime(year, month, 1)) for month in (1, 7)]
    return min(offset.total_seconds() for offset in offsets if offset is not None) / 3600


@cache
def _places() -> tuple[tuple[str, float, float], ...]:
    """The zones of zone1970.tab with the place that stands for each, degrees."""
    text = (resources.files("tzdata") / "zoneinfo" / "zone1970.tab").read_text(encoding="utf-8")
    rows = [line.split("\t") for line in text.splitlines() if line and not line.startswith("#")]
    return tuple((row[2], *_degrees(row[1])) for row in rows)


def _degrees(text: str) -> tuple[float, float]:
    match = PLACE.fullmatch(text)
    assert match is not None, text
    signs, parts = (match[1], match[5]), ((match[2], match[3], match[4]), (match[6], match[7], match[8]))
    both = [sum(int(part or 0) / 60**place for place, part in enumerate(angle)) for angle in parts]
    return (both[0] if signs[0] == "+" else -both[0]), (both[1] if signs[1] == "+" else -both[1])


def zones_near(latitude_deg: float, longitude_deg: float, count: int = 3) -> tuple[str, ...]:
    """The zones whose places lie nearest: proposals, for borders of zones are no circles."""

    def angle(place: tuple[str, float, float]) -> float:
        lat, other = math.radians(latitude_deg), math.radians(place[1])
        apart = math.radians(place[2] - longitude_deg)
        cosine = math.sin(lat) * math.sin(other) + math.cos(lat) * math.cos(other) * math.cos(apart)
        return math.acos(max(-1.0, min(1.0, cosine)))

    return tuple(name for name, *_ in sorted(_places(), key=angle)[:count])
