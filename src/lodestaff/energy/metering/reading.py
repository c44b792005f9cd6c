"""A file of interval data read by its shape onto one clock: every value has its place, every doubt is
said."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from lodestaff.energy.metering import clocks
from lodestaff.energy.metering.forms import lines_of
from lodestaff.energy.metering.logged import Logged
from lodestaff.energy.metering.text import date_cell, day_of, number, rows_of, time_of
from lodestaff.job.metered import FileShape
from lodestaff.quantities.errors import JobError

TO_KWH = {"kWh": 1.0, "Wh": 0.001}
TO_KW = {"kW": 1.0, "W": 0.001}
LONGEST_DAYS = 3700
LARGEST_KW = 3000  # more than any supply that a board of circuits hangs on


@dataclass(slots=True)
class _Row:
    line: int
    local: datetime
    offset_h: float | None
    value: float | None


def read_intervals(raw: bytes, name: str, shape: FileShape, zone: str, utc_offset_h: float) -> Logged:
    """Read a file. Raises JobError with the line for what can't be read, and for what no meter gives.

    Blank values and missing lines are gaps. In autumn the hour that comes twice is told by its order in the
    file; in spring a line in the hour that is left out must be blank or 0.
    """
    rows = list(_rows(lines_of(raw, name), name, shape))
    if not rows:
        raise JobError("holds no interval", name, "check the delimiter and the columns")
    placed: dict[int, tuple[float | None, int]] = {}
    notes: list[str] = []
    twice = left_out = 0
    for row in rows:
        at = _utc(row, shape, zone=zone, offset_h=utc_offset_h, placed=placed, name=name)
        if at is None:
            left_out += 1
            continue
        if at in placed and placed[at][0] is not None and row.value is not None:
            if abs(placed[at][0] - row.value) > 1e-9:  # type: ignore[operator]
                raise JobError(
                    f"gives {clocks.spoken(at, zone, utc_offset_h)} twice, with unlike values",
                    f"{name} lines {placed[at][1]} and {row.line}",
                    "one of them, or another clock",
                )
            twice += 1
        if at not in placed or placed[at][0] is None:
            placed[at] = (row.value, row.line)
    if twice:
        notes.append(f"{twice} lines stand twice with the same value")
    if left_out:
        notes.append(f"{left_out} blank lines lie in an hour that the clock leaves out")
    return _gridded(placed, shape, zone=zone, offset_h=utc_offset_h, notes=notes, name=name)


def _rows(lines: list[str], name: str, shape: FileShape) -> Iterator[_Row]:
    for index, cells in enumerate(rows_of(lines, shape.delimiter)):
        if index < shape.header_lines:
            continue
        where = f"{name} line {index + 1}"
        cell = date_cell(cells[shape.date_column]) if shape.date_column < len(cells) else None
        if cell is None:
            if not any(part.strip() for part in cells) or index == len(lines) - 1:
                continue  # a closing line of words
            raise JobError(f"has no date in column {shape.date_column + 1}", where, "a date in each line")
        try:
            day = day_of(cell, shape.order)
        except ValueError as trouble:
            raise JobError(
                f"{cells[shape.date_column]!r} is no date by {shape.order}",
                where,
                "choose the order of day and month that fits",
            ) from trouble
        if shape.layout == "days":
            yield from _of_day(cells, day, shape, index + 1, where)
            continue
        text = cells[shape.time_column] if 0 <= shape.time_column < len(cells) else cell.rest
        time = time_of(text)
        if time is None:
            raise JobError(f"{text!r} is no time of day", where, "a time like 13:30")
        value = _value(cells[shape.value_column] if shape.value_column < len(cells) else "", shape, where)
        shift = timedelta(minutes=shape.interval_min if shape.stamp == "end" else 0)
        yield _Row(index + 1, day + time[0] - shift, time[1], value)


def _of_day(cells: list[str], day: datetime, shape: FileShape, line: int, where: str) -> Iterator[_Row]:
    for number_of in range(1440 // shape.interval_min):
        column = shape.value_column + number_of
        text = cells[column] if column < len(cells) else ""
        moment = day + timedelta(minutes=number_of * shape.interval_min)
        yield _Row(line, moment, None, _value(text, shape, f"{where} column {column + 1}"))


def _value(text: str, shape: FileShape, where: str) -> float | None:
    """Energy of the interval in kWh."""
    try:
        value = number(text, shape.decimal)
    except ValueError as trouble:
        raise JobError(
            str(trouble), where, f"a number with the decimal {shape.decimal!r}, or a blank"
        ) from trouble
    if value is None:
        return None
    if value < 0:
        raise JobError(f"{text} is below 0", where, "what is drawn counts from 0; give the column of import")
    if shape.unit in TO_KWH:
        return value * TO_KWH[shape.unit]
    return value * TO_KW[shape.unit] * shape.interval_min / 60


def _utc(
    row: _Row,
    shape: FileShape,
    zone: str,
    offset_h: float,
    placed: dict[int, tuple[float | None, int]],
    name: str,
) -> int | None:
    """The minute of UTC at which a line's interval begins; None for a blank line that no clock shows."""
    local = clocks.minutes_of(row.local)
    if row.offset_h is not None:
        return local - round(row.offset_h * 60)
    if shape.clock == "UTC":
        return local
    if shape.clock == "standard time":
        return local - round(offset_h * 60)
    candidates = clocks.utc_candidates(local, zone, offset_h)
    if not candidates:
        if row.value:
            raise JobError(
                f"{row.local:%Y-%m-%d %H:%M} does not exist by a clock that changes",
                f"{name} line {row.line}",
                "choose standard time",
            )
        return None
    if len(candidates) == 2 and candidates[0] in placed and shape.layout == "rows":
        return candidates[1]
    return candidates[0]


def _gridded(
    placed: dict[int, tuple[float | None, int]],
    shape: FileShape,
    zone: str,
    offset_h: float,
    notes: list[str],
    name: str,
) -> Logged:
    starts = np.array(sorted(placed))
    step = shape.interval_min
    phase = int(starts[0]) % step
    off = starts[starts % step != phase]
    if off.size:
        when = clocks.spoken(int(off[0]), zone, offset_h)
        raise JobError(
            f"{when} stands between intervals of {step} minutes",
            f"{name} line {placed[int(off[0])][1]}",
            "choose the file's real interval",
        )
    if (starts[-1] - starts[0]) / 1440 > LONGEST_DAYS:
        first, last = (clocks.spoken(int(start), zone, offset_h) for start in (starts[0], starts[-1]))
        raise JobError(
            f"runs from {first} to {last}", name, "ten years at most; check the order of day and month"
        )
    whole = np.arange(starts[0], starts[-1] + step, step)
    kwh = np.full(whole.size, np.nan)
    values = np.array(
        [np.nan if placed[int(at)][0] is None else placed[int(at)][0] for at in starts], dtype=float
    )
    kwh[(starts - starts[0]) // step] = values
    if not np.isfinite(kwh).any():
        raise JobError("has no value in any interval", name, "check the value column")
    _refuse_more_than_any_supply(kwh, starts=whole, zone=zone, offset_h=offset_h, step=step, name=name)
    _refuse_register(kwh, name)
    return Logged(
        whole,
        kwh,
        interval_min=step,
        zone=zone,
        utc_offset_h=offset_h,
        gaps=_gaps(whole, kwh),
        notes=tuple(notes),
    )


def _refuse_more_than_any_supply(
    kwh: np.ndarray, starts: np.ndarray, zone: str, offset_h: float, step: int, name: str
) -> None:
    kw = np.nan_to_num(kwh, nan=0.0, posinf=np.inf) * 60 / step
    if kw.max() > LARGEST_KW:
        when = clocks.spoken(int(starts[int(kw.argmax())]), zone, offset_h)
        right = f"at most {LARGEST_KW} kW; check the unit and the decimal sign"
        raise JobError(f"gives {kw.max():.3g} kW at {when}", name, right)


def _refuse_register(kwh: np.ndarray, name: str) -> None:
    """A meter's register only rises; intervals go up and down."""
    good = kwh[np.isfinite(kwh)]
    if good.size > 48 and good[0] > 0 and (np.diff(good) >= 0).all() and good[-1] > good[0]:
        raise JobError(
            "holds values that only rise: readings of a register, not intervals",
            name,
            "the column with the energy of each interval",
        )


def _gaps(starts: np.ndarray, kwh: np.ndarray) -> tuple[tuple[int, int], ...]:
    missing = np.flatnonzero(~np.isfinite(kwh))
    if missing.size == 0:
        return ()
    breaks = np.flatnonzero(np.diff(missing) > 1)
    firsts = missing[np.concatenate([[0], breaks + 1])]
    lasts = missing[np.concatenate([breaks, [missing.size - 1]])]
    return tuple((int(starts[a]), int(starts[b])) for a, b in zip(firsts, lasts, strict=True))
