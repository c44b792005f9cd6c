"""Interval data in other forms than CSV, brought to lines of start and kWh: gzip, workbooks, the open XML
standard of interval data, files of record types 100 to 900, moments as plain numbers.

Sources, from memory: NAESB REQ.21 (ESPI) for the XML, its times in seconds of UTC and its unit codes; the
published meter data file format of the Australian market for the records, its times always UTC+10.
"""

import io
import re
import xml.etree.ElementTree as ET
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import suppress
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from typing import Any

from lodestaff.energy.metering import text
from lodestaff.energy.metering.text import LARGEST_BYTES, date_cell
from lodestaff.quantities.errors import JobError

HEAD = "start,kWh"
MARKET_OFFSET = "+10:00"
WH_CODE, DELIVERED_CODE = "72", "1"
PER_KWH = {"KWH": 1.0, "WH": 1e-3, "MWH": 1e3}
MOST_ROWS = 1_100_000  # ten years of five minutes
_SPLIT = re.compile(r"[;,\t|]")
_EPOCH = re.compile(r'^"?(\d{10}|\d{13})"?(?=[;,\t|])')
_SERIAL = re.compile(r'^"?(\d{5}(?:[.,]\d+)?)"?(?=[;\t|])|^"?(\d{5}(?:\.\d+)?)"?(?=,)')
SERIAL_ZERO = datetime(1899, 12, 30)  # day 0 of spreadsheets' dates


def lines_of(raw: bytes, name: str) -> list[str]:
    """The lines of a file in whatever form and encoding it is. Raises JobError where it is none of them."""
    return _with_dates(text.lines_of(as_text(raw, name), name))


@lru_cache(maxsize=2)
def as_text(raw: bytes, name: str) -> bytes:
    """A file's bytes as those of a CSV file; those of one are returned as they are. Raises JobError."""
    if raw[:2] == b"\x1f\x8b":
        raw = _unzipped(raw, name)
    if raw[:4] == b"PK\x03\x04":
        return _of_workbook(raw, name)
    head = raw[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(b"<"):
        return _of_xml(raw, name)
    if head.startswith(b"100,"):
        return _of_records(raw, name)
    return raw


def _unzipped(raw: bytes, name: str) -> bytes:
    try:
        unpacking = zlib.decompressobj(wbits=31)
        data = unpacking.decompress(raw, LARGEST_BYTES + 1)
    except zlib.error as trouble:
        raise JobError(f"is damaged: {trouble}", name, "get the file anew") from trouble
    if len(data) > LARGEST_BYTES:
        raise JobError(
            f"unpacks to more than {LARGEST_BYTES / 1e6:.0f} MB",
            name,
            "give the intervals of ten years at most",
        )
    if not unpacking.eof:
        raise JobError("is cut off", name, "get the file anew")
    return data


def _csv(rows: Iterator[str]) -> bytes:
    return "\n".join([HEAD, *rows]).encode()


# --- workbooks ---------------------------------------------------------------------------------------------
def _of_workbook(raw: bytes, name: str) -> bytes:
    """The first sheet that holds a date in a line with a number, dates as ISO."""
    import openpyxl

    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            if sum(member.file_size for member in archive.infolist()) > 4 * LARGEST_BYTES:
                raise JobError("unpacks to more than is read", name, "give the sheet as CSV")
        book = openpyxl.load_workbook(io.BytesIO(raw), read_only=True, data_only=True)
        for sheet in book.worksheets:
            lines = [
                "\t".join(_cell(value) for value in row).rstrip("\t")
                for row in sheet.iter_rows(values_only=True, max_row=MOST_ROWS, max_col=400)
            ]
            if any(date_cell(line) is not None or "\t" in line.strip() for line in lines):
                return "\n".join(lines).encode()
    except JobError:
        raise
    except Exception as trouble:  # openpyxl raises many kinds for a damaged file
        what = f"is no workbook: {type(trouble).__name__}"
        raise JobError(what, name, "save it anew as .xlsx, or as CSV") from trouble
    raise JobError("holds no table", name, "a sheet with a date and a value in each line")


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, datetime):
        return f"{_to_minute(value):%Y-%m-%d %H:%M}"
    if isinstance(value, date):
        return value.isoformat()
    return " ".join(f"{value:.9g}".split() if isinstance(value, float) else str(value).split())


def _to_minute(moment: datetime) -> datetime:
    """Spreadsheets keep fractions of days, a few milliseconds beside the minute."""
    return (moment + timedelta(seconds=30)).replace(second=0, microsecond=0)


# --- the open XML standard ---------------------------------------------------------------------------------
def _of_xml(raw: bytes, name: str) -> bytes:
    """Interval blocks of what is delivered, in the order of the file."""
    if b"<!DOCTYPE" in raw or b"<!ENTITY" in raw:
        raise JobError("declares a document type, which isn't read", name, "give the plain XML or a CSV file")
    try:
        root = ET.fromstring(raw)
    except (ET.ParseError, ValueError, LookupError) as trouble:
        raise JobError(f"is damaged XML: {trouble}", name, "get the file anew") from trouble
    blocks = [tag for tag in root.iter() if _tag(tag) == "IntervalBlock"]
    if not blocks:
        raise JobError("holds no IntervalBlock", name, "interval data as ESPI XML, or a CSV file")
    types = _types(root, name)
    wanted = [block for block in blocks if (kind := types(block)) is not None and _delivered(kind)]
    if not wanted:
        raise JobError("holds no energy delivered", name, "a reading type with uom 72, flowDirection 1")
    return _csv(line for block in wanted for line in _readings(block, types(block), name))


def _tag(element: ET.Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _child(element: ET.Element | None, *names: str) -> str:
    """The text of a child, a grandchild; '' where there is none."""
    for name in names:
        element = (
            next((child for child in element if _tag(child) == name), None) if element is not None else None
        )
    return (element.text or "").strip() if element is not None else ""


def _types(root: ET.Element, name: str) -> Callable[[ET.Element], ET.Element | None]:
    """Of each block its reading type: the only one, or by the links of the feed's entries."""
    types = [tag for tag in root.iter() if _tag(tag) == "ReadingType"]
    if len(types) == 1:
        return lambda _: types[0]
    parents: dict[ET.Element, ET.Element] = {}
    entries = [tag for tag in root.iter() if _tag(tag) == "entry"]
    readings = [entry for entry in entries if _has(entry, "MeterReading")]
    for entry in entries:
        for block in (tag for tag in entry.iter() if _tag(tag) == "IntervalBlock"):
            up = _links(entry, "up")
            for reading in readings:
                if any(link in up or f"{link}/IntervalBlock" in up for link in _links(reading, "self")):
                    related = _links(reading, "related")
                    kinds = (
                        entry
                        for entry in entries
                        if _has(entry, "ReadingType") and _links(entry, "self") & related
                    )
                    for kind in kinds:
                        parents[block] = next(tag for tag in kind.iter() if _tag(tag) == "ReadingType")
    if not parents:
        raise JobError(
            f"holds {len(types)} reading types, and no link says which is whose",
            name,
            "give one meter's readings",
        )
    return parents.get


def _has(entry: ET.Element, tag: str) -> bool:
    return any(_tag(child) == tag for child in entry.iter())


def _links(entry: ET.Element, rel: str) -> set[str]:
    links = (child for child in entry if _tag(child) == "link" and child.get("rel") == rel)
    return {link.get("href", "").rstrip("/") for link in links}


def _delivered(kind: ET.Element) -> bool:
    return _child(kind, "uom") in (WH_CODE, "") and _child(kind, "flowDirection") in (DELIVERED_CODE, "")


def _readings(block: ET.Element, kind: ET.Element | None, name: str) -> Iterator[str]:
    power = _whole(_child(kind, "powerOfTenMultiplier") or "0", name, "powerOfTenMultiplier")
    if not -12 <= power <= 12:
        raise JobError(f"has the powerOfTenMultiplier {power}", name, "from -12 to 12")
    for reading in (child for child in block if _tag(child) == "IntervalReading"):
        start = _whole(_child(reading, "timePeriod", "start"), name, "start of an interval")
        value = _whole(_child(reading, "value") or "0", name, "value")
        yield f"{_utc(start, name)},{value * 10.0**power / 1000:.9g}"


def _whole(text: str, name: str, what: str) -> int:
    try:
        return int(text[:20])
    except ValueError:
        raise JobError(f"has {text[:20]!r} for a {what}", name, "a whole number") from None


def _utc(seconds: int, name: str) -> str:
    try:
        return f"{datetime.fromtimestamp(seconds, UTC):%Y-%m-%dT%H:%M:%SZ}"
    except (ValueError, OverflowError, OSError):
        raise JobError(f"has the moment {seconds}", name, "seconds since 1970 in UTC") from None


# --- record types 100, 200, 300, 900 -----------------------------------------------------------------------
def _of_records(raw: bytes, name: str) -> bytes:
    """What is drawn from the grid (channels E), summed where there are several."""
    lines = raw.decode("utf-8-sig", errors="replace").split("\n")
    days: dict[str, dict[str, list[float | None]]] = {}
    step, scale, channel, ended = 0, 0.0, "", False
    for number, line in enumerate(lines, start=1):
        cells = [cell.strip() for cell in line.split(",")]
        where = f"{name} line {number}"
        match cells[0]:
            case "200":
                channel, step, scale = _channel(cells, step, where)
            case "300" if channel.startswith("E"):
                day, values = _day(cells, step, scale, where)
                if day in days.setdefault(channel, {}):
                    raise JobError(f"gives {day} twice for {channel}", where, "one record for each day")
                days[channel][day] = values
            case "300" if not channel:
                raise JobError("has a 300 record before any 200 record", where, "the whole file")
            case "900":
                ended = True
    if not ended:
        raise JobError("ends without its 900 record: it was cut off", name, "get the file anew")
    if not days:
        raise JobError("has no channel of what is drawn (E)", name, "a file with the import channel")
    return _csv(_summed(days, step))


def _channel(cells: list[str], step: int, where: str) -> tuple[str, int, float]:
    """Channel, minutes of an interval, kWh of its unit."""
    unit, minutes = (cells[7].upper(), cells[8]) if len(cells) > 8 else ("", "")
    if unit not in PER_KWH or minutes not in ("5", "15", "30"):
        right = "kWh, Wh or MWH in intervals of 5, 15 or 30 minutes"
        raise JobError(
            f"has a 200 record with {unit or 'no unit'} and {minutes or 'no'} minutes", where, right
        )
    if step not in (0, int(minutes)):
        raise JobError("has channels of unlike intervals", where, "one interval for all")
    return cells[4].upper() or "E1", int(minutes), PER_KWH[unit]


def _day(cells: list[str], step: int, scale: float, where: str) -> tuple[str, list[float | None]]:
    count = 1440 // step
    day = cells[1] if len(cells) > count + 2 else ""
    quality = cells[count + 2] if day else ""
    try:
        moment = datetime.strptime(day, "%Y%m%d")
        values = [float(cell) * scale for cell in cells[2 : count + 2]]
    except ValueError:
        raise JobError(
            f"has no date and {count} values in a 300 record", where, "get the file anew"
        ) from None
    return f"{moment:%Y-%m-%d}", [None] * count if quality.startswith("N") else list(values)


def _summed(days: dict[str, dict[str, list[float | None]]], step: int) -> Iterator[str]:
    for day in sorted({day for channel in days.values() for day in channel}):
        columns = [channel[day] for channel in days.values() if day in channel]
        for index, parts in enumerate(zip(*columns, strict=True)):
            known = [part for part in parts if part is not None]
            value = f"{sum(known):.9g}" if len(known) == len(days) else ""
            yield f"{day}T{index * step // 60:02d}:{index * step % 60:02d}{MARKET_OFFSET},{value}"


# --- moments as plain numbers ------------------------------------------------------------------------------
def _with_dates(lines: list[str]) -> list[str]:
    """Lines that begin with seconds or milliseconds since 1970 (UTC), or with days as spreadsheets count
    them, with dates in their place; others as they are."""
    body = [line for line in lines if line.lstrip('"')[:1].isdigit()]
    if len(body) < 2 or any(date_cell(cell) is not None for line in body[:9] for cell in _SPLIT.split(line)):
        return lines
    for pattern, moment in ((_EPOCH, _of_epoch), (_SERIAL, _of_serial)):
        if all(pattern.match(line) for line in body):
            with suppress(ValueError, OverflowError):
                return [pattern.sub(moment, line, count=1) for line in lines]
    return lines


def _of_epoch(match: re.Match[str]) -> str:
    return f"{datetime.fromtimestamp(int(match[1][:10]), UTC):%Y-%m-%dT%H:%M:%SZ}"


def _of_serial(match: re.Match[str]) -> str:
    moment = SERIAL_ZERO + timedelta(days=float((match[1] or match[2]).replace(",", ".")))
    if not 2000 <= moment.year < 2100:
        raise ValueError(match[0])
    return f"{_to_minute(moment):%Y-%m-%d %H:%M}"
