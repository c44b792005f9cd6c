"""What can't be as it is laid: order, hands, skill, company, weather, light, waiting, hours, the evening."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from lodestaff.job.visits import Hand, Laid, Visit, Visits
from lodestaff.visits.days import QUARTER, Daylight, bad_weather, pieces
from lodestaff.visits.task import Task

NEAR = 1e-6


@dataclass(frozen=True)
class Conflict:
    """One thing that can't be: what rule it breaks, the task and the visit, in words, by how much of what
    (`value` against `limit`)."""

    rule: str
    task: str
    visit: str
    words: str
    value: float
    limit: float
    unit: str


@dataclass(frozen=True)
class Span:
    """A laid piece with its task, from when to when."""

    laid: Laid
    task: Task
    visit: Visit
    from_h: float
    to_h: float

    @property
    def when(self) -> tuple[str, float]:
        return self.visit.date, self.from_h

    @property
    def until(self) -> tuple[str, float]:
        return self.visit.date, self.to_h


def spans(visits: Visits, tasks: tuple[Task, ...]) -> tuple[Span, ...]:
    """What is laid of the tasks that there are, by time; a piece takes what its task takes now."""
    known, days = {task.id: task for task in tasks}, {day.id: day for day in visits.days}
    long = {task.id: pieces(task.hours) for task in tasks}
    all_spans = []
    for piece in visits.laid:
        task = known.get(piece.task)
        if task is None or piece.piece > len(long[piece.task]):
            continue
        hours = long[piece.task][piece.piece - 1] * QUARTER
        all_spans.append(Span(piece, task, days[piece.visit], piece.at_h, piece.at_h + hours))
    return tuple(sorted(all_spans, key=lambda span: (span.when, span.laid.task, span.laid.piece)))


def unlaid(visits: Visits, tasks: tuple[Task, ...], done: frozenset[str]) -> tuple[str, ...]:
    """Tasks of which a piece has no day yet."""
    laid = {(piece.task, piece.piece) for piece in visits.laid}
    return tuple(
        task.id
        for task in tasks
        if task.id not in done
        and any((task.id, number) not in laid for number in range(1, len(pieces(task.hours)) + 1))
    )


def conflicts(
    visits: Visits, tasks: tuple[Task, ...], daylight: Mapping[str, Daylight], done: frozenset[str]
) -> tuple[Conflict, ...]:
    """All that can't be, by time; what was done is past and no conflict any more."""
    rows = [span for span in spans(visits, tasks) if span.task.id not in done]
    agreed = any(day.off_from_h is not None for day in visits.days)
    hands = {hand.id: hand for hand in visits.hands}
    all_conflicts: list[Conflict] = []
    for span in rows:
        all_conflicts += _hands(span, hands)
        all_conflicts += _hours(span, daylight)
        all_conflicts += _waiting(span)
        all_conflicts += _agreed(span, agreed)
    all_conflicts += _order(rows)
    all_conflicts += _twice(rows, hands)
    return tuple(all_conflicts)


def _conflict(rule: str, span: Span, words: str, **figures: Any) -> Conflict:
    """One of a laid piece; `figures` are value, limit and unit."""
    return Conflict(rule, span.task.id, span.visit.id, words, **figures)


def _hands(span: Span, hands: Mapping[str, Hand]) -> Iterator[Conflict]:
    task, there = span.task, [hands[name] for name in span.laid.hands if name in hands]
    if len(there) < task.people:
        words = f"{task.name} on {span.visit.date}: {len(there)} of {task.people} hands."
        yield _conflict("hands", span, words, value=len(there), limit=task.people, unit="people")
    if there and not any(task.skill in hand.skills for hand in there):
        words = f"{task.name} on {span.visit.date}: nobody there does {task.skill} work."
        yield _conflict("skill", span, words, value=0, limit=1, unit="people")
    away = [hand.name for hand in there if hand.id not in span.visit.hands]
    if away:
        words = f"{task.name} on {span.visit.date}: {', '.join(away)} isn't on site that day."
        yield _conflict("away", span, words, value=len(away), limit=0, unit="people")
    if not task.alone and len(span.visit.hands) < 2:
        words = f"{task.name} on {span.visit.date}: one person alone on site; two are wanted."
        yield _conflict("alone", span, words, value=len(span.visit.hands), limit=2, unit="people")


def _hours(span: Span, daylight: Mapping[str, Daylight]) -> Iterator[Conflict]:
    task, visit = span.task, span.visit
    if span.to_h > visit.to_h + NEAR or span.from_h < visit.from_h - NEAR:
        late = max(span.to_h - visit.to_h, visit.from_h - span.from_h)
        words = f"{task.name} on {visit.date} lies {late:g} h outside the hours of that day."
        yield _conflict("hours", span, words, value=late, limit=0, unit="h")
    light = daylight.get(visit.date)
    if task.daylight and light is not None:
        dark = max(span.to_h - light.sets_h, light.rises_h - span.from_h)
        if dark > QUARTER + NEAR:
            words = f"{task.name} on {visit.date}: {dark:.1f} h of it in the dark."
            yield _conflict("light", span, words, value=round(dark, 2), limit=0, unit="h")
    for bad in bad_weather(visit, task.wind_m_s, task.dry, task.frost_free):
        words = f"{task.name} on {visit.date}: {bad}, as the forecast was typed."
        yield _conflict("weather", span, words, value=1, limit=0, unit="causes")


def _agreed(span: Span, anywhere: bool) -> Iterator[Conflict]:
    """Without power outside the hours that people agreed to; nothing where nobody was asked at all."""
    task, visit = span.task, span.visit
    if not task.building or not anywhere:
        return
    over = span.to_h - span.from_h
    if visit.off_from_h is not None and visit.off_to_h is not None:
        over = max(span.to_h - visit.off_to_h, visit.off_from_h - span.from_h)
    if over > NEAR:
        words = f"{task.name} on {visit.date}: {over:g} h outside the hours agreed to be without power."
        yield _conflict("agreed", span, words, value=over, limit=0, unit="h")


def _waiting(span: Span) -> Iterator[Conflict]:
    for hold in span.task.holds:
        if hold.there or (hold.due and hold.due <= span.visit.date):
            continue
        until = f"expected on {hold.due}" if hold.due else "and nobody knows until when"
        words = f"{span.task.name} on {span.visit.date} waits for {hold.words}, {until}."
        yield _conflict("waits", span, words, value=1, limit=0, unit="waits")


def _order(rows: list[Span]) -> Iterator[Conflict]:
    last: dict[str, Span] = {}
    for span in rows:
        if span.task.id not in last or span.until > last[span.task.id].until:
            last[span.task.id] = span
    first: dict[str, Span] = {}
    for span in rows:
        first.setdefault(span.task.id, span)
    for span in first.values():
        for before in span.task.after:
            earlier = last.get(before)
            if earlier is not None and earlier.until > (span.when[0], span.when[1] + NEAR):
                words = f"{span.task.name} on {span.visit.date} comes before {earlier.task.name} is done."
                yield _conflict("order", span, words, value=1, limit=0, unit="tasks")


def _twice(rows: list[Span], hands: Mapping[str, Hand]) -> Iterator[Conflict]:
    for index, span in enumerate(rows):
        for other in rows[index + 1 :]:
            if other.visit.id != span.visit.id or other.from_h >= span.to_h - NEAR:
                continue
            both = [hands[name].name for name in span.laid.hands if name in other.laid.hands]
            if both:
                words = (
                    f"{', '.join(both)} on {span.visit.date}: {span.task.name} and {other.task.name} at once."
                )
                yield _conflict("twice", other, words, value=len(both), limit=0, unit="people")
