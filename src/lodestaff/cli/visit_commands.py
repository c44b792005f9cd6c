"""The subcommand of visits: tasks, days, what is missing, how evenings are left; laid, booked, printed."""

import argparse
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.cli.journal_lines import entries_of
from lodestaff.cli.output import write_job
from lodestaff.job import Change, Job, edit
from lodestaff.job.journal import append
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.units import clock

if TYPE_CHECKING:
    from lodestaff.reckoning import Reckoner
    from lodestaff.reckoning.visiting import Programme


def visits(options: argparse.Namespace) -> int:
    """List; lay with --lay; book with --book; print with --print. 1 where something can't be so."""
    from lodestaff.reckoning.visiting import booking_data, learning, programme
    from lodestaff.visits import Library, load_own, save_own

    job, reckoner = open_job(options)
    path, own = Path(options.job), load_own()
    library = Library(own)
    _sound(options)
    if options.book:
        text, data = booking_data(
            reckoner, job, options.book, hours=options.hours, done=options.done, library=library
        )
        append(path, "work", text, by=options.by, data=data)
    entries, why = entries_of(path), dict[str, str]()
    if options.learn:
        save_own(learning(own, entries))
        library = Library(load_own())
    if options.lay:
        job, why = _laid(options, reckoner, job, library)
    plan = programme(reckoner, job, entries, library)
    if options.print:
        _print_pages(options, reckoner, job, plan)
    if options.json:
        print_json(_answer(options, job, plan, why))
    else:
        _lines(job, plan, why)
    return BLOCKED if plan.conflicts or (options.lay and why) else FINE


def _sound(options: argparse.Namespace) -> None:
    """Options that need one another. Raises JobError with what is missing."""
    if options.output and not options.lay:
        raise JobError("nothing to write", "-o", "give --lay as well")
    if options.book and options.hours is None:
        raise JobError("how long did it take?", "--hours", "give the hours, as in --hours 3.5")
    if options.hours is not None and not options.book:
        raise JobError("hours of what?", "--hours", "give --book TASK as well")


def _laid(
    options: argparse.Namespace, reckoner: "Reckoner", job: Job, library: Any
) -> tuple[Job, dict[str, str]]:
    from lodestaff.reckoning.visiting import laid_visits, wanted
    from lodestaff.visits import lay
    from lodestaff.visits.laying import why_left

    begin = _a_date(options.from_date) if options.from_date else date.today()
    entries = entries_of(Path(options.job))
    asked = wanted(reckoner, job, begin, entries=entries, library=library, most_days=options.days)
    out = lay(asked)
    job = edit(job, Change("visits", laid_visits(job, asked, out.laid)))
    if options.output:
        write_job(job, Path(options.output), Path(options.job))
    return job, why_left(asked, out.left_over)


def _a_date(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise JobError(f"{text!r} is no date", "--from", "write one like 2026-12-07") from None


def _print_pages(options: argparse.Namespace, reckoner: "Reckoner", job: Job, programme: "Programme") -> None:
    """The days as PDF, workbook or calendar, by the file's ending."""
    from lodestaff.exchange import visits_written
    from lodestaff.handover import HandoverInput
    from lodestaff.register import load_register

    target = Path(options.print)
    given = HandoverInput(job, entries_of(Path(options.job)), load_register(), date.today())
    write_whole(target, visits_written(target, reckoner, given, programme))


def _answer(
    options: argparse.Namespace, job: Job, programme: "Programme", why: dict[str, str]
) -> dict[str, Any]:
    tasks = [
        {
            "id": task.id, "name": task.name, "hours": task.hours, "people": task.people, "skill": task.skill,
            "formula": task.formula, "hours_from": task.why_hours, "after": task.after,
            "power_off": task.power_off, "building_off": task.building, "done": task.id in programme.done,
            "waits": [asdict(hold) for hold in task.holds],
        }
        for task in programme.tasks
    ]  # fmt: skip
    days = [
        {
            "id": day.visit.id, "date": day.visit.date, "hands": day.visit.hands, "dark_h": day.dark_h,
            "tasks": [
                {"task": span.task.id, "piece": span.laid.piece, "from_h": span.from_h, "to_h": span.to_h,
                 "hands": span.laid.hands}
                for span in day.spans
            ],
            "evening": asdict(day.evening),
            "missing": [
                {"item": part.item.key, "words": part.item.words, "count": part.missing,
                 "unit": part.item.unit}
                for part in day.missing
            ],
        }
        for day in programme.days
    ]  # fmt: skip
    stock = [
        {"item": part.item.key, "words": part.item.words, "wanted": part.item.count, "came": part.came,
         "unit": part.item.unit, "rated": part.item.rated, "rated_in": part.item.rated_in,
         "wrong": part.wrong, "task": part.task}
        for part in programme.stock
    ]  # fmt: skip
    return {
        "job": job.id, "tasks": tasks, "days": days, "parts": stock, "unlaid": programme.unlaid,
        "left_over": why,
        "hands": [{"id": hand.id, "name": hand.name, "hours": programme.hours_of(hand.id)}
                  for hand in job.visits.hands],
        "conflicts": [asdict(conflict) for conflict in programme.conflicts], "file": options.output,
        "printed": options.print,
    }  # fmt: skip


def _lines(job: Job, programme: "Programme", why: dict[str, str]) -> None:
    names = {hand.id: hand.name for hand in job.visits.hands}
    for day in programme.days:
        off = f", {day.dark_h:g} h without power" if day.dark_h else ""
        print(f"{day.visit.date}{off}")
        for span in day.spans:
            who = ", ".join(names[hand] for hand in span.laid.hands) or "nobody yet"
            print(f"  {clock(span.from_h)} to {clock(span.to_h)}  {span.task.name} ({who})")
        print(f"  evening: {day.evening.feeds}")
        for left in day.evening.left:
            print(f"    {left.name}: {left.words}. {left.safe}".rstrip())
        for stock in day.missing:
            print(f"  missing: {stock.item.words}, {stock.item.amount(stock.missing)}")
    for name in programme.unlaid:
        task = programme.task(name)
        reason = f": {why[name]}" if name in why else ""
        print(f"no day yet  {name:30} {task.hours:5.2f} h  {task.name}{reason}")
    for conflict in programme.conflicts:
        print(f"can't be: {conflict.words}")
