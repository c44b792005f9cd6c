"""The calendar is read by a library of its own: every day, the hours without power, what is expected.
Source: RFC 5545, as vobject reads it."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
import vobject

from lodestaff.exchange.calendar import calendar
from lodestaff.job import load_job
from lodestaff.reckoning.visiting import programme
from lodestaff.samples import sample_path

WITH_DAYS = ("larkmoor", "ocotillo-wash-centre", "skerry-light-cottage")


@pytest.mark.parametrize("name", WITH_DAYS)
def test_another_library_reads_every_day(name, reckoner):
    job = load_job(sample_path(name))
    found = programme(reckoner, job)
    raw = calendar(job, found, date(2026, 11, 28)).decode()
    assert all(len(line.encode()) <= 75 for line in raw.split("\r\n"))
    events = {event.uid.value: event for event in vobject.readOne(raw).vevent_list}
    zone = ZoneInfo(job.time_zone)
    for day in found.days:
        event = events[f"{day.visit.id}-{job.id}@lodestaff.invalid"]
        midnight = datetime.fromisoformat(day.visit.date).replace(tzinfo=zone)
        assert event.dtstart.value == midnight.astimezone(UTC) + timedelta(hours=day.visit.from_h)
        assert event.dtend.value == midnight.astimezone(UTC) + timedelta(hours=day.visit.to_h)
        for span in day.spans:
            assert span.task.name in event.description.value
        off = events.get(f"off-{day.visit.id}-{job.id}@lodestaff.invalid")
        assert (off is not None) == (day.dark_h > 0)
        if off is not None:
            assert off.dtend.value - off.dtstart.value == timedelta(hours=day.dark_h)
    waits = [wait for wait in job.visits.waits if wait.due and not wait.came]
    assert {f"wait-{wait.id}-{job.id}@lodestaff.invalid" for wait in waits} <= set(events)
    assert len(events) == len(found.days) + sum(day.dark_h > 0 for day in found.days) + len(waits)
