"""The visits on paper: what there is to do with its hours and waits, then a page for each day."""

from collections.abc import Iterator
from datetime import date

from lodestaff.handover.model import Block, Caution, Page, Table, Text
from lodestaff.job import Job
from lodestaff.quantities.convention import plain
from lodestaff.quantities.units import clock
from lodestaff.reckoning.visiting import Day, Programme
from lodestaff.topology import Topology
from lodestaff.visits import Stock, Task
from lodestaff.visits.calls import calls
from lodestaff.wiring.cautions import site_cautions

DARK = "The building is without power from {from_h} to {to_h}: tell everybody before, shut down computers."
AGREED = "Nobody has agreed yet to be without power that day: ask, and note the hours."
BACK = "Nobody goes home before it has power again: {names} without it in the evening."


def visit_pages(job: Job, topology: Topology, programme: Programme) -> tuple[Page, ...]:
    """Overview, parts, and each day."""
    return (
        _overview(job, programme),
        _parts(programme),
        *(day_page(job, topology, programme, day) for day in programme.days),
    )


def _overview(job: Job, programme: Programme) -> Page:
    when = {span.task.id: span.visit.date for day in reversed(programme.days) for span in reversed(day.spans)}
    rows = tuple(
        (
            task.name,
            f"{plain(task.hours, 2)} h",
            str(task.people),
            task.formula,
            "done" if task.id in programme.done else when.get(task.id, "no day yet"),
            "; ".join(_waits(task)) or "-",
        )
        for task in programme.tasks
    )
    heads = ("Task", "Takes", "Hands", "Reckoned as", "Day", "Waits for")
    blocks: list[Block] = [Table(heads, rows, (30, 9, 8, 22, 13, 18), name="Tasks")]
    hands = tuple((hand.name, f"{plain(programme.hours_of(hand.id), 2)} h") for hand in job.visits.hands)
    if hands:
        blocks.append(Table(("Who", "Hours laid"), hands, (70, 30), name="Hours by hand"))
    blocks += [Caution(conflict.words) for conflict in programme.conflicts]
    if any(call.phone for call in calls(job)):
        blocks.append(_calls(job))
    missing = [f"no day yet: {programme.task(name).name}" for name in programme.unlaid]
    if not programme.days:
        missing.insert(0, "no days are laid yet")
    return Page("visits", "Visits", tuple(blocks), tuple(missing))


def _waits(task: Task) -> Iterator[str]:
    for hold in task.holds:
        if not hold.there:
            yield f"{hold.words}{f', {hold.due}' if hold.due else ', no date'}"


def _calls(job: Job) -> Table:
    rows = tuple((call.name, call.phone or "no number", call.what) for call in calls(job))
    return Table(("Whom", "Number", "For"), rows, (34, 26, 40), name="Whom to ring")


def _stock_rows(stock: tuple[Stock, ...], programme: Programme) -> tuple[tuple[str, ...], ...]:
    return tuple(
        (
            other.item.words,
            other.item.amount(other.item.count),
            f"{other.came:g}",
            f"{other.item.rated:g} {other.item.rated_in}" if other.item.rated else "-",
            "; ".join(other.wrong)
            or ("-" if other.missing <= 0 else f"{other.item.amount(other.missing)} missing"),
            programme.task(other.task).name,
        )
        for other in stock
    )


STOCK_HEADS = ("Part", "Wanted", "There", "Its label says", "Missing or wrong", "For")
STOCK_SHARES = (28, 12, 9, 13, 20, 18)


def _parts(programme: Programme) -> Page:
    rows = _stock_rows(programme.stock, programme)
    table = Table(STOCK_HEADS, rows, STOCK_SHARES, name="Parts and deliveries")
    wrong = tuple(f"{stock.item.words}: {words}" for stock in programme.stock for words in stock.wrong)
    return Page("visit-parts", "Parts and deliveries", (table,), tuple(dict.fromkeys(wrong)))


def day_page(job: Job, topology: Topology, programme: Programme, day: Day) -> Page:
    """One day: who, what, from when to when, what is taken along, how it is left in the evening."""
    visit, names = day.visit, {hand.id: hand.name for hand in job.visits.hands}
    who = ", ".join(names[hand] for hand in visit.hands) or "nobody yet"
    head = f"{clock(visit.from_h)} to {clock(visit.to_h)}, {who}."
    if day.light is not None:
        head += f" Light from {clock(day.light.rises_h)} to {clock(day.light.sets_h)}."
    rows = tuple(
        (
            f"{clock(span.from_h)} to {clock(span.to_h)}",
            span.task.name + (f", part {span.laid.piece}" if span.laid.piece > 1 else ""),
            ", ".join(names[hand] for hand in span.laid.hands) or "nobody yet",
            span.task.lift or "-",
            "☐",
        )
        for span in day.spans
    )
    blocks: list[Block] = [Text(head), *map(Text, _forecast(day)), *map(Caution, _power(job, day))]
    heads = ("When", "What", "Who", "Lifting", "Done")
    blocks.append(Table(heads, rows, (15, 40, 22, 15, 8), name=f"Tasks of {visit.date}"))
    if day.load:
        load = _stock_rows(day.load, programme)
        blocks.append(Table(STOCK_HEADS, load, STOCK_SHARES, name=f"To load for {visit.date}"))
    if day.tools:
        blocks.append(Text(f"Tools: {', '.join(day.tools)}."))
    blocks += [Text("In the evening", "head"), Text(day.evening.feeds)]
    if day.evening.left:
        left = tuple((leftover.name, leftover.words, leftover.safe or "-") for leftover in day.evening.left)
        blocks.append(Table(("Left live or open", "How", "Made safe by"), left, (26, 34, 40)))
    blocks += [Caution(conflict.words) for conflict in programme.conflicts if conflict.visit == visit.id]
    if any(span.task.kind in ("cut-in", "start", "move", "prove") for span in day.spans):
        blocks += [Text("Cautions of this site", "head"), *map(Caution, site_cautions(job, topology))]
    if any(call.phone for call in calls(job)):
        blocks.append(_calls(job))
    lacking = ", ".join(dict.fromkeys(stock.item.words for stock in day.missing))
    missing = (f"{len(day.missing)} parts: {lacking}",) if lacking else ()
    return Page(visit.id, _long(visit.date), tuple(blocks), missing)


def _long(iso: str) -> str:
    """A date as it stands over a page: Wednesday 9 December 2026."""
    day = date.fromisoformat(iso)
    return f"{day:%A} {day.day} {day:%B} {day.year}"


def _forecast(day: Day) -> Iterator[str]:
    visit = day.visit
    told = [
        *([f"wind {plain(visit.wind_m_s.value)} m/s"] if visit.wind_m_s.value is not None else []),
        *([f"down to {plain(visit.low_c.value)} °C"] if visit.low_c.value is not None else []),
        *([{"yes": "rain", "no": "dry"}[visit.rain.value]] if visit.rain.value is not None else []),
    ]
    if told:
        yield f"Forecast, as it was typed: {', '.join(told)}."


def _power(job: Job, day: Day) -> Iterator[str]:
    offs = [span for span in day.spans if span.task.building]
    if offs:
        first, last = min(span.from_h for span in offs), max(span.to_h for span in offs)
        yield DARK.format(from_h=clock(first), to_h=clock(last))
        if day.visit.off_from_h is None:
            yield AGREED
    for span in day.spans:
        if span.task.dark and not span.task.building:
            circuits = ", ".join(job.circuit(name).name for name in span.task.dark)
            when = f"{clock(span.from_h)} to {clock(span.to_h)}"
            yield f"{when}, {span.task.name}: without power are {circuits}."
    if day.evening.dark:
        yield BACK.format(names=", ".join(job.circuit(name).name for name in day.evening.dark))
