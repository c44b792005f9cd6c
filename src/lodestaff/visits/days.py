"""Days as the solver takes them: hours in quarters, who is there, light, weather, agreed hours off."""

from dataclasses import dataclass
from datetime import date, timedelta

from lodestaff.job.visits import Hand, Visit

QUARTER = 0.25
PIECE_H = 4.0  # a longer task is done in pieces
USUAL_HANDS = (
    Hand(id="first", name="First installer", skills=("electrical", "roof", "general")),
    Hand(id="second", name="Second installer", skills=("roof", "general")),
)
FROST_C = 0.0


@dataclass(frozen=True)
class Daylight:
    """When the sun rises and sets on a date, by the clock of the place, hours."""

    rises_h: float
    sets_h: float


def quarters(hours: float) -> int:
    """Hours in quarters, rounded up; at least one."""
    return max(1, -int(-round(hours / QUARTER, 6) // 1))


def pieces(hours: float) -> tuple[int, ...]:
    """A task's pieces in quarters, none longer than half a day, as even as can be."""
    whole = quarters(hours)
    count = -(-whole // quarters(PIECE_H))
    return tuple(whole // count + (1 if number < whole % count else 0) for number in range(count))


def proposed_days(begin: date, count: int, hands: tuple[str, ...]) -> tuple[Visit, ...]:
    """Working days from a date on, Monday to Friday, everybody there."""
    visits: list[Visit] = []
    day = begin
    while len(visits) < count:
        if day.weekday() < 5:
            visits.append(Visit(id=f"day-{day.isoformat()}", date=day.isoformat(), hands=hands))
        day += timedelta(days=1)
    return tuple(visits)


def bad_weather(visit: Visit, wind_m_s: float | None, dry: bool, frost_free: bool) -> tuple[str, ...]:
    """What of the typed forecast forbids work that wants this; nothing where it isn't typed."""
    dates = []
    wind = visit.wind_m_s.value
    if wind_m_s is not None and wind is not None and wind > wind_m_s:
        dates.append(f"wind {wind:g} m/s, at most {wind_m_s:g}")
    if dry and visit.rain.value == "yes":
        dates.append("rain")
    low = visit.low_c.value
    if frost_free and low is not None and low < FROST_C:
        dates.append(f"frost, {low:g} °C")
    return tuple(dates)
