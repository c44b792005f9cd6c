"""What shape a file of interval data has: found from its lines, to be confirmed by a person before it is
used."""

import itertools
from collections import Counter
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from lodestaff.energy.metering import clocks
from lodestaff.energy.metering.forms import lines_of
from lodestaff.energy.metering.text import (
    DateCell,
    cells_of,
    date_cell,
    day_of,
    looks_number,
    number,
    rows_of,
    time_of,
)
from lodestaff.job.metered import FileShape
from lodestaff.quantities.errors import JobError

DELIMITERS = (";", "\t", "|", ",")
INTERVALS = (5, 10, 15, 20, 30, 60)
DAY_COLUMNS = {24: 60, 48: 30, 72: 20, 96: 15, 144: 10, 288: 5}
UNIT_WORDS = (("kwh", "kWh"), ("kw", "kW"), ("wh", "Wh"), ("w", "W"))
WANTED_WORDS = (
    "consum",
    "import",
    "usage",
    "use",
    "verbrauch",
    "energy",
    "value",
    "kwh",
    "read",
    "delivered",
    "general",
)
END_WORDS, START_WORDS = ("end", "ending", "ends", "to", "bis"), ("start", "starting", "begin", "from", "von")
UNWANTED_WORDS = ("export", "generation", "feed", "solar", "status", "quality", "cost", "price", "temp")


@dataclass(frozen=True)
class Recognised:
    """A shape, the first lines as cells, and what stays in doubt, in words."""

    shape: FileShape
    preview: tuple[tuple[str, ...], ...]
    headings: tuple[str, ...]
    doubts: tuple[str, ...]


def recognise(raw: bytes, name: str, zone: str, utc_offset_h: float, month_first: bool = False) -> Recognised:
    """Find the shape of a file. `month_first` is the usual order of dates where the file leaves it open.

    Raises JobError that says what is missing: no dates, no values, no even interval.
    """
    lines = lines_of(raw, name)
    delimiter = _delimiter(lines)
    rows = rows_of(lines, delimiter)
    head = _header_lines(rows)
    if head is None:
        raise JobError(
            "holds no line with a date and a number", name, "a CSV file with a date or time in each line"
        )
    body = rows[head:]
    headings = tuple(rows[head - 1]) if head else ()
    doubts: list[str] = []
    date_column = next(index for index, cell in enumerate(body[0]) if date_cell(cell) is not None)
    decimal = _decimal(body, delimiter, date_column)
    order = _order(body, date_column, month_first, doubts)
    common: dict[str, Any] = {"delimiter": delimiter, "decimal": decimal, "header_lines": head,
                              "date_column": date_column, "order": order}  # fmt: skip
    unit, unit_known = _unit(headings, rows[:head])
    if not unit_known:
        doubts.append("no unit is named; kWh in each interval is taken")
    wide = _day_columns(body, date_column)
    if wide is not None:
        first, count = wide
        doubts.append("clock changes: a line for each day says nothing of its clock; local time is taken")
        shape = FileShape(
            **common,
            layout="days",
            value_column=first,
            unit=unit,
            interval_min=DAY_COLUMNS[count],
            clock="local time",
        )
        return Recognised(shape, _preview(rows), headings, tuple(doubts))
    time_column = _time_column(body, date_column)
    value_column = _value_column(
        body, headings, taken={date_column, time_column}, decimal=decimal, doubts=doubts, name=name
    )
    unit = _unit_of_column(headings, value_column) or unit
    moments = _moments(body, common, time_column)
    interval = _interval([moment for moment, _ in moments], name)
    stamp = _stamp([moment for moment, _ in moments], interval, headings, doubts)
    has_offset = any(offset is not None for _, offset in moments)
    clock = (
        "UTC"
        if has_offset
        else _clock(
            [m for m, _ in moments],
            stamp,
            interval=interval,
            zone=zone,
            utc_offset_h=utc_offset_h,
            doubts=doubts,
        )
    )
    shape = FileShape(
        **common,
        time_column=time_column,
        value_column=value_column,
        unit=unit,
        interval_min=interval,
        stamp=stamp,
        clock=clock,
    )
    return Recognised(shape, _preview(rows), headings, tuple(doubts))


def _preview(rows: list[list[str]]) -> tuple[tuple[str, ...], ...]:
    return tuple(tuple(row[:12]) for row in rows[:8])


def _delimiter(lines: list[str]) -> str:
    """The one that cuts most lines of the body into the same number of cells, more than one."""
    body = lines[len(lines) // 3 :][:200] or lines
    best, best_score = ",", (0.0, 0)
    for delimiter in DELIMITERS:
        counts = Counter(len(cells_of(line, delimiter)) for line in body)
        cells, often = counts.most_common(1)[0]
        if cells > 1 and (often / len(body), 0) > best_score:
            best, best_score = delimiter, (often / len(body), 0)
    return best


def _header_lines(rows: list[list[str]]) -> int | None:
    for index, row in enumerate(rows[:61]):
        dates = [cell for cell in row if date_cell(cell) is not None]
        others = [cell for cell in row if date_cell(cell) is None and looks_number(cell)]
        if dates and (others or len(row) > 1):
            return index
    return None


def _decimal(body: list[list[str]], delimiter: str, date_column: int) -> str:
    if delimiter == ",":
        quoted = any("," in cell and looks_number(cell) for row in body[:50] for cell in row)
        return (
            "," if quoted and not any("." in c and looks_number(c) for row in body[:50] for c in row) else "."
        )
    seen = Counter(
        mark
        for row in body[:400]
        for index, cell in enumerate(row)
        if index != date_column and looks_number(cell) and date_cell(cell) is None
        for mark in ",."
        if mark in cell
    )
    return "," if seen[","] > seen["."] else "."


def _order(body: list[list[str]], column: int, month_first: bool, doubts: list[str]) -> str:
    """The order of day, month and year: by numbers above 12, else by which order lets the days follow each
    other."""
    cells = [cell for row in body if column < len(row) and (cell := date_cell(row[column])) is not None]
    if all(cell.year_first for cell in cells):
        return "year month day"
    if any(cell.groups[0] > 12 for cell in cells):
        return "day month year"
    if any(cell.groups[1] > 12 for cell in cells):
        return "month day year"
    smooth = {order: _jumps(cells, order) for order in ("day month year", "month day year")}
    least = min(smooth.values())
    fitting = [order for order, jumps in smooth.items() if jumps == least]
    if len(fitting) == 1 and least < max(smooth.values()) / 2:
        return fitting[0]
    order = "month day year" if month_first else "day month year"
    doubts.append(f"the order of day and month is open; {order} is taken")
    return order


def _jumps(cells: list[DateCell], order: str) -> int:
    """How often one date is not followed by itself or the next day."""
    days = []
    for cell in cells:
        try:
            days.append(day_of(cell, order))
        except ValueError:
            return len(cells)
    return sum(b - a not in (timedelta(0), timedelta(days=1)) for a, b in itertools.pairwise(days))


def _unit(headings: tuple[str, ...], head: list[list[str]]) -> tuple[Any, bool]:
    text = " ".join((*headings, *(cell for row in head for cell in row))).lower()
    for word, unit in UNIT_WORDS[:3]:
        if word in text:
            return unit, True
    return "kWh", False


def _unit_of_column(headings: tuple[str, ...], column: int) -> Any:
    """The unit that a column's heading names."""
    if column >= len(headings):
        return None
    words = (
        headings[column]
        .lower()
        .replace("(", " ")
        .replace(")", " ")
        .replace("[", " ")
        .replace("]", " ")
        .split()
    )
    for word, unit in UNIT_WORDS:
        if word in words or any(word in known for known in words if word in ("kwh", "wh")):
            return unit
    return None


def _day_columns(body: list[list[str]], date_column: int) -> tuple[int, int] | None:
    """First value column and how many there are, where each line is a day."""
    widths = Counter(len(row) for row in body)
    width = widths.most_common(1)[0][0]
    row = next(cells for cells in body if len(cells) == width)
    numbers = [
        index for index, cell in enumerate(row) if index > date_column and (looks_number(cell) or cell == "")
    ]
    best: tuple[int, int] | None = None
    for count in DAY_COLUMNS:
        if len(numbers) >= count and (best is None or count > best[1]):
            first = next(
                (start for start in numbers if all(start + n in numbers for n in range(count))), None
            )
            best = (first, count) if first is not None else best
    return best


def _time_column(body: list[list[str]], date_column: int) -> int:
    """The column with the time of day, where it does not stand with the date; -1 where it does."""
    cell = date_cell(body[0][date_column])
    if cell is not None and cell.rest.strip() and time_of(cell.rest) is not None:
        return -1
    for column, text in enumerate(body[0]):
        if column != date_column and ":" in text and date_cell(text) is None and time_of(text) is not None:
            return column
    return -1


def _value_column(
    body: list[list[str]],
    headings: tuple[str, ...],
    taken: set[int],
    decimal: str,
    doubts: list[str],
    name: str,
) -> int:
    width = max(len(row) for row in body[:200])
    scores: dict[int, float] = {}
    for column in range(width):
        cells = [row[column] for row in body[:400] if column < len(row)]
        good = 0
        for cell in cells:
            try:
                good += date_cell(cell) is None and number(cell, decimal) is not None
            except ValueError:
                continue
        if column in taken or good < 0.5 * len(cells):
            continue
        heading = headings[column].lower() if column < len(headings) else ""
        values = {cell for cell in cells if looks_number(cell)}
        score = min(3.0, len(values) / 3) + 2 * any(word in heading for word in WANTED_WORDS)
        scores[column] = score - 4 * any(word in heading for word in UNWANTED_WORDS)
    if not scores:
        raise JobError(
            "holds no column of numbers beside its dates", name, "a column of kWh or kW for each interval"
        )
    best = max(scores, key=lambda column: (scores[column], -column))
    rivals = [column for column in scores if column != best and scores[column] >= scores[best] - 0.5]
    if rivals:
        named = headings[best] if best < len(headings) and headings[best] else f"column {best + 1}"
        doubts.append(f"several columns hold numbers; {named} is taken")
    return best


def _moments(
    body: list[list[str]], common: dict[str, Any], time_column: int
) -> list[tuple[datetime, float | None]]:
    moments = []
    for row in body:
        cell = date_cell(row[common["date_column"]]) if common["date_column"] < len(row) else None
        if cell is None:
            continue
        time = time_of(row[time_column]) if 0 <= time_column < len(row) else time_of(cell.rest)
        try:
            day = day_of(cell, common["order"])
        except ValueError:
            continue
        if time is not None:
            moments.append((day + time[0], time[1]))
    return moments


def _interval(moments: list[datetime], name: str) -> Any:
    """The commonest step between one line and the next, in minutes."""
    steps = Counter(int((b - a) / timedelta(minutes=1)) for a, b in itertools.pairwise(moments) if b > a)
    if not steps:
        raise JobError(
            "holds no two lines that follow each other in time",
            name,
            "intervals of 5 to 60 minutes, in order",
        )
    step = steps.most_common(1)[0][0]
    if step not in INTERVALS:
        right = f"{', '.join(map(str, INTERVALS))} minutes are read"
        raise JobError(f"has intervals of {step} minutes", name, right)
    return step


def _stamp(moments: list[datetime], interval: int, headings: tuple[str, ...], doubts: list[str]) -> Any:
    """Whether a time is its interval's end: a heading says so, or the first day begins at the first
    interval's end."""
    words = " ".join(headings).lower().replace("_", " ").split()
    if any(word in END_WORDS for word in words):
        return "end"
    if any(word in START_WORDS for word in words):
        return "start"
    first, last = moments[0], moments[-1]
    begins = first.hour * 60 + first.minute == interval % 1440
    ends = last.hour * 60 + last.minute == 0
    if begins != ends:
        doubts.append("whether a time is its interval's start or end is open")
    return "end" if begins else "start"


def _clock(
    moments: list[datetime], stamp: str, interval: int, zone: str, utc_offset_h: float, doubts: list[str]
) -> Any:
    """By what the file has in the hour that spring leaves out, and in the one that comes twice in autumn."""
    shift = timedelta(minutes=interval if stamp == "end" else 0)
    minutes = [clocks.minutes_of(moment - shift) for moment in moments]
    there = Counter(minutes)
    first, last = min(minutes), max(minutes)
    votes: list[str] = []
    for year in range(moments[0].year - 1, moments[-1].year + 2):
        changes = clocks.changes_utc(zone, utc_offset_h, year)
        if changes is None:
            doubts.append("the pack has no clock changes; standard time is taken")
            return "standard time"
        forward, back = (moment + round(utc_offset_h * 60) for moment in changes)
        if (
            first <= forward
            and forward + 60 <= last
            and any(there[forward - 60 + n] for n in range(0, 60, interval))
        ):
            votes.append(
                "standard time" if any(there[forward + n] for n in range(0, 60, interval)) else "local time"
            )
        if first <= back and back + 60 <= last:
            twice = [there[back + n] > 1 for n in range(0, 60, interval) if there[back + n]]
            if twice:
                votes.append("local time" if any(twice) else "standard time")
    if not votes:
        doubts.append("no clock change lies in these days; local time is taken")
        return "local time"
    if len(set(votes)) > 1:
        doubts.append(
            "the clock changes disagree: one is skipped or doubled and another is not; local time is taken"
        )
        return "local time"
    return votes[0]
