"""The visits as a calendar (iCalendar, RFC 5545): an event for each day, one for its hours without power, one
for what is waited for."""

from datetime import UTC, date, datetime, timedelta, timezone, tzinfo
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event, vText

from lodestaff.job import Job
from lodestaff.quantities.units import clock
from lodestaff.reckoning.visiting import Day, Programme

DOMAIN = "lodestaff.invalid"  # RFC 2606: nobody's


def calendar(job: Job, programme: Programme, printed: date) -> bytes:
    """The calendar of a job. Source: RFC 5545."""
    days = Calendar()
    days.add("prodid", "-//Lodestaff//Visits//EN")
    days.add("version", "2.0")
    days.add("x-wr-calname", f"{job.title}: visits")
    zone = _zone(job)
    stamp = datetime(printed.year, printed.month, printed.day, tzinfo=UTC)
    for day in programme.days:
        days.add_component(_visit(job, day, zone, stamp))
        offs = [span for span in day.spans if span.task.building]
        if offs:
            days.add_component(_off(job, day, zone, stamp))
    for wait in job.visits.waits:
        if wait.due and not wait.came:
            event = _event(f"wait-{wait.id}", job, f"{wait.name} expected, {job.title}", stamp)
            event.add("dtstart", date.fromisoformat(wait.due))
            event.add("dtend", date.fromisoformat(wait.due) + timedelta(days=1))
            days.add_component(event)
    return bytes(days.to_ical())


def _zone(job: Job) -> tzinfo:
    if job.time_zone:
        return ZoneInfo(job.time_zone)
    return timezone(timedelta(hours=job.site.utc_offset_h))


def _event(id: str, job: Job, words: str, stamp: datetime) -> Event:
    event = Event()
    event.add("uid", f"{id}-{job.id}@{DOMAIN}")
    event.add("dtstamp", stamp)
    event.add("summary", words)
    if job.site.place:
        event["location"] = vText(job.site.place)
    return event


def _at(day: Day, hour: float, zone: tzinfo) -> datetime:
    midnight = datetime.fromisoformat(day.visit.date)
    return (midnight + timedelta(hours=hour)).replace(tzinfo=zone).astimezone(UTC)


def _visit(job: Job, day: Day, zone: tzinfo, stamp: datetime) -> Event:
    hands = [hand.name for hand in job.visits.hands if hand.id in day.visit.hands]
    event = _event(day.visit.id, job, f"{job.title}: {', '.join(hands) or 'nobody yet'}", stamp)
    event.add("dtstart", _at(day, day.visit.from_h, zone))
    event.add("dtend", _at(day, day.visit.to_h, zone))
    event.add("description", "\n".join(day_lines(job, day)))
    return event


def _off(job: Job, day: Day, zone: tzinfo, stamp: datetime) -> Event:
    event = _event(f"off-{day.visit.id}", job, f"{job.title}: the building is without power", stamp)
    event.add("dtstart", _at(day, min(s.from_h for s in day.spans if s.task.building), zone))
    event.add("dtend", _at(day, max(s.to_h for s in day.spans if s.task.building), zone))
    return event


def day_lines(job: Job, day: Day) -> list[str]:
    """A day in lines: tasks with their hours and hands, what is missing, the evening."""
    names = {hand.id: hand.name for hand in job.visits.hands}
    rows = [
        f"{clock(span.from_h)} to {clock(span.to_h)}: {span.task.name}"
        f" ({', '.join(names[hand] for hand in span.laid.hands) or 'nobody yet'})"
        for span in day.spans
    ]
    rows += [f"Missing: {stock.item.words}, {stock.item.amount(stock.missing)}" for stock in day.missing]
    rows.append(f"Evening: {day.evening.feeds}")
    rows += [
        f"Left: {leftover.name}, {leftover.words}. {leftover.safe}".strip() for leftover in day.evening.left
    ]
    return rows
