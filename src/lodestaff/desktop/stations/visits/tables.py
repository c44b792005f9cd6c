"""The tables beside the board: tasks, days, hands, what is waited for, parts, deliveries, whom to ring."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import get_args

from lodestaff.desktop.stations.typing_in import Owner, Typing
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, number, words
from lodestaff.desktop.understood import as_number
from lodestaff.job import Change, Job
from lodestaff.job.visits import Skill, Waiting
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.reckoning.visiting import Booking, Programme
from lodestaff.visits import Stock, Task

UNKNOWN = "unknown"
OURS, OTHERS = "ours", "by others"
OPEN, DONE = "open", "done"


@dataclass(frozen=True)
class TaskRow:
    """A task with its day, what was booked on it and what it waits for."""

    task: Task
    day: str = ""
    booked_h: float | None = None
    done: bool = False
    others: bool = False
    waits: str = ""


def task_rows(job: Job, programme: Programme, booked: tuple[Booking, ...]) -> list[TaskRow]:
    """The tasks, then those that others do."""
    when: dict[str, str] = {}
    for day in programme.days:
        for span in day.spans:
            when.setdefault(span.task.id, span.visit.date)
    rows = []
    for task in programme.tasks:
        hours = [booking.hours for booking in booked if booking.task == task.id]
        rows.append(
            TaskRow(
                task,
                when.get(task.id, ""),
                booked_h=sum(hours) if hours else None,
                done=task.id in programme.done,
                waits="; ".join(hold.words for hold in task.holds if not hold.there),
            )
        )
    return [*rows, *(TaskRow(task, others=True) for task in programme.others)]


def tasks_table(store: Store, book: Callable[[Task, float, bool], bool]) -> Table[TaskRow]:
    """A row for each task: hours and hands are typed for this job; what was worked is booked here."""

    def said(row: TaskRow, **fields: object) -> bool:
        job = store.job
        if job is None:
            return False
        rows = {saying.task: saying.model_dump(mode="json") for saying in job.visits.said}
        rows[row.task.id] = {**rows.get(row.task.id, {"task": row.task.id}), **fields}
        words_said = ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in fields.items())
        return store.edit(f"Set {words_said} of {row.task.name}", Change("visits/said", list(rows.values())))

    def typed_number(row: TaskRow, text: str, unit: str, take: Callable[[float], bool]) -> bool:
        try:
            return take(read_number(text, unit))
        except JobError as trouble:
            store.trouble.emit("edit", f"Not changed. {trouble}")
            return False

    def hours(row: TaskRow, text: str) -> bool:
        if not text.strip():
            return said(row, hours=None)
        return typed_number(row, text, "h", lambda value: said(row, hours=value))

    def people(row: TaskRow, text: str) -> bool:
        if not text.strip():
            return said(row, people=None)
        return typed_number(row, text, "", lambda value: said(row, people=round(value)))

    def booked(row: TaskRow, text: str) -> bool:
        return typed_number(row, text, "h", lambda value: book(row.task, value, False))

    columns: tuple[Column[TaskRow], ...] = (
        words("Task", lambda row: row.task.name, wide=True, tip=lambda row: row.task.formula),
        number("Takes, h", lambda row: round(row.task.hours, 2), typed=hours, reads=lambda _: as_number("h"),
               may=lambda row: not row.task.own, spoken=lambda row: f"Hours of {row.task.name}",
               tip=lambda row: f"{row.task.formula}; {row.task.why_hours}"),
        number("Hands", lambda row: float(row.task.people), typed=people, may=lambda row: not row.task.own,
               reads=lambda _: as_number(""), spoken=lambda row: f"Hands for {row.task.name}",
               tip=lambda row: row.task.lift),
        words("Skill", lambda row: row.task.skill),
        words("Day", lambda row: row.day or ("-" if row.others else "none yet")),
        words("Waits for", lambda row: row.waits, tip=lambda row: row.waits),
        number("Booked, h", lambda row: row.booked_h, typed=booked, reads=lambda _: as_number("h"),
               spoken=lambda row: f"Hours worked on {row.task.name}, added to what is booked"),
        words("", lambda row: DONE if row.done else OPEN, choices=lambda _: (OPEN, DONE), standing=True,
              may=lambda row: not row.done and not row.others,
              spoken=lambda row: f"Whether {row.task.name} is done",
              typed=lambda row, text: text != DONE or book(row.task, row.task.hours, True)),
        words("Whose", lambda row: OTHERS if row.others else OURS, choices=lambda _: (OURS, OTHERS),
              standing=True, may=lambda row: not row.task.own, spoken=lambda row: f"Who does {row.task.name}",
              typed=lambda row, text: said(row, by_others=text == OTHERS)),
    )  # fmt: skip
    return Table("Tasks", columns)


def days_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each day."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        of.text("Date", "date"),
        of.metres("From, h", "from_h", "h"),
        of.metres("To, h", "to_h", "h"),
        of.listed("Hands on site", "hands"),
        of.metres("Power off from, h", "off_from_h", "h"),
        of.metres("to, h", "off_to_h", "h"),
        of.metres("Wind, m/s", "wind_m_s", "m/s", fact=True),
        of.metres("Coldest, °C", "low_c", "°C", fact=True),
        of.choice("Rain", "rain", (UNKNOWN, "yes", "no"), fact=True),
    )
    return Table("Days", columns, remove=remove)


def hands_table(
    store: Store, remove: Callable[[Owner], object], programme: Callable[[], Programme | None]
) -> Table[Owner]:
    """A row for each of those who come, with the hours that are laid for them."""

    def laid_h(row: Owner) -> float | None:
        schedule = programme()
        return schedule.hours_of(row.of.id) if schedule is not None else None

    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        words("Short", lambda row: row.of.id),
        of.name(),
        number("Hours laid", laid_h, "h"),
        of.listed(f"Can do ({', '.join(get_args(Skill))})", "skills"),
        of.text("Number", "phone"),
    )
    return Table("Hands", columns, remove=remove)


def waits_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each thing that must be there first."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        of.choice("What", "what", get_args(Waiting)),
        of.name(),
        of.text("Expected on", "due"),
        of.text("There since", "came"),
        of.listed("Tasks (none: all of its kind)", "tasks"),
    )
    return Table("What is waited for", columns, remove=remove)


def stock_table(programme: Callable[[], Programme | None]) -> Table[Stock]:
    """A row for each part that a task takes along."""

    def task(row: Stock) -> str:
        schedule = programme()
        return schedule.task(row.task).name if schedule is not None else row.task

    columns: tuple[Column[Stock], ...] = (
        words("Part", lambda row: row.item.words, wide=True),
        number("Wanted", lambda row: row.item.count),
        number("There", lambda row: row.came),
        words("Of", lambda row: row.item.unit),
        words("Its label says", lambda row: _label(row)),
        words("Missing or wrong", lambda row: "; ".join(row.wrong) or _missing(row), wide=True),
        words("For", task),
        words("Short", lambda row: row.item.key),
    )
    return Table("Parts", columns)


def _label(row: Stock) -> str:
    return f"{row.item.rated:g} {row.item.rated_in}" if row.item.rated else ""


def _missing(row: Stock) -> str:
    return f"{row.item.amount(row.missing)} missing" if row.missing > 0 else ""


def deliveries_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each line of a delivery note."""
    of = Typing(store)

    def items(_: Owner) -> tuple[str, ...]:
        job = store.job
        return (
            tuple(dict.fromkeys(delivery.item for delivery in job.visits.deliveries))
            if job is not None
            else ()
        )

    columns: tuple[Column[Owner], ...] = (
        of.text("Part (its short name)", "item"),
        of.metres("Came", "count", ""),
        of.text("On", "date"),
        of.text("Delivery note", "note"),
        of.metres("Label says", "labelled", ""),
    )
    return Table("Deliveries", columns, remove=remove)


def contacts_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each person to ring."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (of.name(), of.text("Number", "phone"), of.text("For", "what"))
    return Table("Whom to ring", columns, remove=remove)


def rows_of(job: Job, field: str) -> list[Owner]:
    """Rows of one of the lists of the visits."""
    return [
        Owner(f"visits/{field}/{item.id}", getattr(item, "name", "") or getattr(item, "date", item.id), item)
        for item in getattr(job.visits, field)
    ]
