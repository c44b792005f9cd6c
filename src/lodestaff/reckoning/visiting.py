"""The visits of a job: its tasks, light by date, what is laid, what is missing, how each evening is left."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from lodestaff.commissioning.procedure import procedure
from lodestaff.job import Job
from lodestaff.job.journal import Entry, standing
from lodestaff.job.visits import Hand, Laid, Visit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.runs import runs
from lodestaff.reckoning.schedules import label_schedule
from lodestaff.topology import Topology
from lodestaff.visits import (
    Conflict,
    Counts,
    Daylight,
    Evening,
    Library,
    Maker,
    OwnHours,
    Span,
    Stock,
    Task,
    conflicts,
    evening,
    same_day,
    spans,
    stock_of,
    unlaid,
    with_holds,
    with_items,
)
from lodestaff.visits.days import USUAL_HANDS, proposed_days
from lodestaff.visits.laying import MOST_WORK, Wanted
from lodestaff.visits.library import learnt

MOST_HOURS = 200.0
DEAD_STAGES = ("dead tests", "strings")
MOST_DAYS = 15


@dataclass(frozen=True)
class Day:
    """One visit: what is done, how the evening is left, what is taken along and what of that isn't there."""

    visit: Visit
    spans: tuple[Span, ...]
    evening: Evening
    load: tuple[Stock, ...]
    light: Daylight | None
    dark_h: float
    counted: bool  # whether anything was delivered: before, nothing is said to be missing

    @property
    def missing(self) -> tuple[Stock, ...]:
        return tuple(stock for stock in self.load if stock.missing > 0) if self.counted else ()

    @property
    def tools(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(tool for span in self.spans for tool in span.task.tools))


@dataclass(frozen=True)
class Booking:
    """What was booked on a task: hours, whether it is done, by which entry of the journal."""

    entry: str
    task: str
    hours: float
    done: bool
    by: str
    at: str


@dataclass(frozen=True)
class Programme:
    """All of it."""

    tasks: tuple[Task, ...]
    days: tuple[Day, ...]
    stock: tuple[Stock, ...]
    conflicts: tuple[Conflict, ...]
    unlaid: tuple[str, ...]
    done: frozenset[str]
    others: tuple[Task, ...]  # what others do

    def task(self, name: str) -> Task:
        return next(task for task in self.tasks if task.id == name)

    def hours_of(self, hand: str) -> float:
        """Hours that are laid for one of those who come, all days together."""
        mine = (span for day in self.days for span in day.spans if hand in span.laid.hands)
        return round(sum(span.to_h - span.from_h for span in mine), 2)

    @property
    def dark_h(self) -> float:
        """Hours without power for the building, all days together."""
        return sum(day.dark_h for day in self.days)


def counts(reckoner: Reckoner, job: Job) -> Counts:
    """What other parts of the program know of the work."""
    topology = reckoner.wiring(job).topology
    steps = procedure(job, topology)
    dead = sum(step.stage in DEAD_STAGES for step in steps)
    supply = job.site.supply
    known = [getattr(supply, name) for name in type(supply).model_fields]
    metres = 0.0
    for run in runs(reckoner, job, False):
        if run.cable is not None:
            metres += 0.0 if run.cable.existing or run.kind == "array" else run.cable.length_m
        elif run.use != "service" and run.use in job.pack.usual_runs.runs and run.kind != "array":
            metres += job.pack.usual_runs.runs[run.use].length_m
    return Counts(
        assumed=sum(fact.value is not None and not fact.firm for fact in known),
        cable_m=round(metres, 2),
        dead_steps=dead,
        live_steps=len(steps) - dead,
        labels=len(label_schedule(reckoner, job).rows),
    )


def tasks_of(reckoner: Reckoner, job: Job, library: Library | None = None) -> tuple[Task, ...]:
    """The tasks of a job with what they take along and wait for."""
    made = _all_tasks(reckoner, job, library)
    return tuple(task for task in made if not task.others)


def _all_tasks(reckoner: Reckoner, job: Job, library: Library | None) -> tuple[Task, ...]:
    """The tasks, those that others do among them."""
    book, visits = library or Library(), job.visits
    name = f"tasks {visits.order} {visits.said!r} {visits.own!r}"
    made = reckoner.of_parts(name, (*_but_visits(job), book.own), lambda: _made(reckoner, job, book))
    return with_holds(job, made, stock_of(job, made))


def _but_visits(job: Job) -> tuple[object, ...]:
    """All of a job beside its visits: an edit leaves the parts that it doesn't touch the same objects."""
    return tuple(getattr(job, name) for name in Job.model_fields if name != "visits")


def _made(reckoner: Reckoner, job: Job, library: Library) -> tuple[Task, ...]:
    topology = reckoner.wiring(job).topology
    return with_items(job, topology, Maker(job, topology, counts(reckoner, job), library).make())


def bookings(entries: Iterable[Entry]) -> tuple[Booking, ...]:
    """What was booked, corrections taken into account, in the order in which it was."""
    all_bookings = []
    for name, entry in standing(list(entries), "work"):
        data = entry.data or {}
        task, hours = data.get("task"), data.get("hours")
        if isinstance(task, str) and isinstance(hours, int | float) and hours >= 0:
            all_bookings.append(
                Booking(name, task, float(hours), bool(data.get("done")), by=entry.by, at=entry.at)
            )
    return tuple(all_bookings)


def done_tasks(entries: Iterable[Entry]) -> frozenset[str]:
    """Tasks that the journal says are done."""
    return frozenset(booking.task for booking in bookings(entries) if booking.done)


def daylight(job: Job, dates: Iterable[str]) -> dict[str, Daylight]:
    """Sunrise and sunset by the clock of the place. Source: pvlib's SPA."""
    wanted = tuple(dict.fromkeys(dates))
    if not wanted:
        return {}
    import pandas as pd
    from pvlib.solarposition import sun_rise_set_transit_spa

    hours = job.site.utc_offset_h
    zone = job.time_zone or f"Etc/GMT{-int(hours):+d}"
    times = pd.DatetimeIndex([f"{day} 12:00" for day in wanted]).tz_localize(zone)
    table = sun_rise_set_transit_spa(times, job.site.latitude_deg, job.site.longitude_deg)
    rows = zip(wanted, table["sunrise"], table["sunset"], strict=True)
    return {
        day: Daylight(rise.hour + rise.minute / 60, down.hour + down.minute / 60)
        for day, rise, down in rows
        if not (pd.isna(rise) or pd.isna(down))
    }


def light_of(reckoner: Reckoner, job: Job) -> dict[str, Daylight]:
    """Sunrise and sunset on the days of the visits."""
    dates = tuple(day.date for day in job.visits.days)
    return reckoner.of_parts(f"daylight {dates}", (job.site,), lambda: daylight(job, dates))


def _together(
    reckoner: Reckoner, job: Job, topology: Topology, tasks: tuple[Task, ...]
) -> tuple[tuple[str, ...], ...]:
    name = f"same day {sorted(task.id for task in tasks)}"
    return reckoner.of_parts(name, _but_visits(job), lambda: same_day(job, topology, tasks))


def _evening(
    reckoner: Reckoner, job: Job, *, tasks: tuple[str, ...], done: frozenset[str], begun: frozenset[str]
) -> Evening:
    """An evening, kept while nothing but the visits changes."""
    known: dict[object, Evening] = reckoner.of_parts("evenings", _but_visits(job), dict)
    to_do = frozenset(tasks) - done
    key = (to_do, to_do - begun)
    if key not in known:
        known[key] = evening(job, reckoner.wiring(job).topology, done, tasks, begun)
    return known[key]


def programme(
    reckoner: Reckoner, job: Job, entries: Iterable[Entry] = (), library: Library | None = None
) -> Programme:
    """The visits of a job as they are laid now."""
    tasks = tasks_of(reckoner, job, library)
    made, done = stock_of(job, tasks), done_tasks(entries)
    light = light_of(reckoner, job)
    rows, names = spans(job.visits, tasks), tuple(task.id for task in tasks)
    last = {span.task.id: span.visit.date for span in rows}
    waiting = set(unlaid(job.visits, tasks, done))
    days = []
    for visit in job.visits.in_order:
        mine = tuple(span for span in rows if span.visit.id == visit.id)
        over = done | {name for name, when in last.items() if when <= visit.date and name not in waiting}
        begun = frozenset(span.task.id for span in rows if span.visit.date <= visit.date)
        offs = [span for span in mine if span.task.building]
        fresh = {span.task.id for span in mine if span.laid.piece == 1}
        days.append(
            Day(
                visit=visit,
                spans=mine,
                evening=_evening(reckoner, job, tasks=names, done=over, begun=begun),
                load=tuple(stock for stock in made if stock.task in fresh),
                light=light.get(visit.date),
                dark_h=max((s.to_h for s in offs), default=0.0) - min((s.from_h for s in offs), default=0.0),
                counted=bool(job.visits.deliveries),
            )
        )
    return Programme(
        tasks=tasks,
        days=tuple(days),
        stock=made,
        conflicts=conflicts(job.visits, tasks, light, done),
        unlaid=unlaid(job.visits, tasks, done),
        done=done,
        others=tuple(task for task in _all_tasks(reckoner, job, library) if task.others),
    )


def wanted(
    reckoner: Reckoner,
    job: Job,
    begin: date,
    *,
    entries: Iterable[Entry] = (),
    library: Library | None = None,
    most_days: int = MOST_DAYS,
    most_work: float = MOST_WORK,
) -> Wanted:
    """What is to be laid: the job's days and hands; where it has none, working days from `begin` on for two.

    Days before `begin` stay as they were; what is done stays where it was.
    """
    topology, tasks = reckoner.wiring(job).topology, tasks_of(reckoner, job, library)
    hands: tuple[Hand, ...] = job.visits.hands or USUAL_HANDS
    days = tuple(day for day in job.visits.in_order if day.date >= begin.isoformat())
    if not days:
        days = proposed_days(begin, most_days, tuple(hand.id for hand in hands))
    return Wanted(
        tasks=tasks,
        days=days,
        hands=hands,
        together=_together(reckoner, job, topology, tasks),
        daylight=daylight(job, (day.date for day in days)),
        done=done_tasks(entries),
        held=tuple(piece for piece in job.visits.laid if piece.held),
        most_work=most_work,
    )


def laid_visits(job: Job, asked: Wanted, laid: tuple[Laid, ...]) -> dict[str, object]:
    """The visits with what was laid: days that aren't used are left out, unless a person made them and they
    are still to come."""
    own = {day.id for day in job.visits.days}
    used = {piece.visit for piece in laid}
    past = [day for day in job.visits.days if day not in asked.days]
    over = {day.id for day in past}
    old = [piece for piece in job.visits.laid if piece.visit in over]
    again = {(piece.task, piece.piece) for piece in laid}
    kept = [piece for piece in old if (piece.task, piece.piece) not in again]
    worked = {piece.visit for piece in kept}
    days = [*(day for day in past if day.id in worked),
            *(day for day in asked.days if day.id in used or day.id in own)]  # fmt: skip
    return {
        **job.visits.model_dump(mode="json"),
        "hands": [hand.model_dump(mode="json") for hand in asked.hands],
        "days": [day.model_dump(mode="json") for day in days],
        "laid": [piece.model_dump(mode="json") for piece in (*kept, *laid)],
    }


def booking_data(
    reckoner: Reckoner, job: Job, task: str, *, hours: float, done: bool, library: Library | None = None
) -> tuple[str, dict[str, object]]:
    """What was worked on a task, in words and as data. Raises JobError where there is no such task."""
    tasks = {other.id: other for other in tasks_of(reckoner, job, library)}
    if task not in tasks:
        raise JobError(f"no task {task!r}", "visits", f"tasks: {', '.join(tasks)}")
    if not 0 < hours <= MOST_HOURS:
        raise JobError(f"{hours:g} h can't be", task, f"more than 0, at most {MOST_HOURS:g} h")
    planned = tasks[task]
    words = f"{planned.name}: {hours:g} h{', done' if done else ', goes on'}"
    return words, {
        "task": task,
        "hours": hours,
        "done": done,
        "kind": planned.kind,
        "plain_h": planned.plain_h,
    }


def learning(own: OwnHours, entries: Iterable[Entry]) -> OwnHours:
    """The person's hours with the tasks that are done taken in, each once, all that was booked on it."""
    every = bookings(entries)
    rows = []
    for name, entry in standing(list(entries), "work"):
        data = entry.data or {}
        if data.get("done") and isinstance(data.get("plain_h"), int | float) and data.get("kind") != "own":
            booked = sum(booking.hours for booking in every if booking.task == data.get("task"))
            rows.append((name, str(data["kind"]), float(data["plain_h"]), booked))
    return learnt(own, rows)
