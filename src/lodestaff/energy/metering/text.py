"""Cells of a CSV file: its lines, numbers in either decimal, dates in any order, times of day."""

import csv
import re
import unicodedata
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache

from lodestaff.quantities.errors import JobError

BLANK = ("", "-", "--", "n/a", "na", "nan", "null", "none")
FIRST_YEAR, LAST_YEAR = 1990, 2100  # no meter kept intervals before
LARGEST_BYTES = 64 * 1024**2
_DATE = re.compile(r"^\s*(\d{1,4})[-./](\d{1,2})[-./](\d{1,4})")
_PACKED = re.compile(r"^\s*(\d{4})(\d{2})(\d{2})(?=\D|$|\d{4}\b|\d{6}\b)")
_GAP = r"[\s\-./,]+"
_DAY, _MONTH = r"(?P<day>\d{1,2})(?:\.|st|nd|rd|th)?", r"(?P<month>[^\W\d_]{3,12})"
_YEAR = r"(?P<year>\d{4}|\d{2})\b"
_MONTHS = tuple(
    re.compile(r"^\s*" + _GAP.join(parts))
    for parts in ((_DAY, _MONTH, _YEAR), (_MONTH, _DAY, _YEAR), (r"(?P<year>\d{4})", _MONTH, _DAY + r"\b"))
)
# How months begin in the languages of the packs and their neighbours, without accents.
MONTHS = {
    "jan": 1, "ene": 1, "gen": 1, "feb": 2, "fev": 2, "mar": 3, "mrt": 3, "apr": 4, "abr": 4, "avr": 4,
    "mai": 5, "may": 5, "mei": 5, "mag": 5, "jun": 6, "juin": 6, "giu": 6, "juil": 7, "jul": 7, "lug": 7,
    "aug": 8, "ago": 8, "aou": 8, "sep": 9, "set": 9, "oct": 10, "okt": 10, "ott": 10, "out": 10, "nov": 11,
    "dec": 12, "dez": 12, "dic": 12,
}  # fmt: skip
_TIME = re.compile(r"(\d{1,2})[:.h](\d{2})(?:[:.](\d{2})(?:\.\d+)?)?\s*([AaPp]\.?[Mm]\.?)?")
_OFFSET = re.compile(r"(?:\s*(Z)|([+-])(\d{2}):?(\d{2}))\s*$")
_NUMBER = re.compile(r"^[+-]?\d+(?:[.,]\d+)*(?:[eE][+-]?\d+)?$")


def lines_of(raw: bytes, name: str) -> list[str]:
    """The lines of a file in whatever encoding it is. Raises JobError where it is no text, or too large."""
    if len(raw) > LARGEST_BYTES:
        raise JobError(
            f"is of {len(raw) / 1e6:.0f} MB", name, f"at most {LARGEST_BYTES / 1e6:.0f} MB are read"
        )
    for encoding in ("utf-16",) if raw[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig", "cp1252"):
        try:
            text = raw.decode(encoding)
            break
        except UnicodeDecodeError:
            continue
    else:
        raise JobError("is no text", name, "give a CSV file as the meter's operator exports it")
    if "\x00" in text:
        raise JobError("is no text (it holds zero bytes)", name, "give a CSV file, not a workbook")
    lines = [line for line in text.splitlines() if line.strip(" ;,\t|\"'")]
    if not lines:
        raise JobError("is empty", name, "give a CSV file with a line for each interval or day")
    return lines


def rows_of(lines: list[str], delimiter: str) -> list[list[str]]:
    """The cells of all lines, a row for each line, whatever its quotes."""
    try:
        rows = [[cell.strip() for cell in row] for row in csv.reader(lines, delimiter=delimiter)]
    except csv.Error:
        rows = []
    return rows if len(rows) == len(lines) else [cells_of(line, delimiter) for line in lines]


def cells_of(line: str, delimiter: str) -> list[str]:
    """The cells of a line, quotes taken off."""
    try:
        return [cell.strip() for cell in next(csv.reader([line], delimiter=delimiter))]
    except (csv.Error, StopIteration):
        return [cell.strip() for cell in line.split(delimiter)]


def number(text: str, decimal: str) -> float | None:
    """A number, or None for a blank. Raises ValueError for anything else."""
    plain = text.strip()
    if (
        plain and plain[-1].isdigit() and plain[0] in "0123456789" and "_" not in plain
    ):  # the usual case, in haste
        try:
            if decimal == "." and "," not in plain:
                return float(plain)
            if decimal == "," and "." not in plain:
                return float(plain.replace(",", "."))
        except ValueError:
            pass
    text = plain.strip("\"'").replace("\u00a0", "").replace(" ", "")
    if text.lower() in BLANK:
        return None
    other = "," if decimal == "." else "."
    if not _NUMBER.match(text) or text.count(decimal) > 1:
        raise ValueError(f"{text!r} is not a number")
    if other in text and not re.match(rf"^[+-]?\d{{1,3}}(\{other}\d{{3}})+(\{decimal}\d+)?$", text):
        raise ValueError(f"{text!r} is not a number with the decimal {decimal!r}")
    return float(text.replace(other, "").replace(decimal, "."))


def looks_number(text: str) -> bool:
    return bool(_NUMBER.match(text.strip().replace("\u00a0", "").replace(" ", "")))


@dataclass(frozen=True)
class DateCell:
    """The three groups of a date in their order, and what follows them."""

    groups: tuple[int, int, int]
    year_first: bool
    rest: str


def date_cell(text: str) -> DateCell | None:
    """A date at the head of a cell, whatever its order; None where there is none."""
    if any(sign.isalpha() for sign in text):
        text = _named_month(text)
    head, sign, rest = text.partition(" ")
    if not sign:
        head, sign, rest = text.partition("T")
    if sign:
        cell = _date_alone(head)
        if cell is not None and not cell.rest:
            return DateCell(cell.groups, cell.year_first, rest)
    return _date_alone(text)


@lru_cache(maxsize=8192)
def _named_month(text: str) -> str:
    """A date whose month is a word, as year, month and day in numbers; any other text as it is."""
    for pattern in _MONTHS:
        match = pattern.match(text)
        if match:
            parts = match.groupdict()
            word = unicodedata.normalize("NFKD", parts["month"].lower())[:9]
            plain = "".join(sign for sign in word if sign.isalpha() and sign.isascii())
            month = next((number for start, number in MONTHS.items() if plain.startswith(start)), None)
            if month is not None:
                year = int(parts["year"]) + (2000 if len(parts["year"]) == 2 else 0)
                rest = text[match.end() :].lstrip(" ,T")
                return f"{year:04d}-{month:02d}-{int(parts['day']):02d} {rest}".strip()
    return text


@lru_cache(maxsize=8192)
def _date_alone(text: str) -> DateCell | None:
    match = _DATE.match(text)
    if match:
        a, b, c = match.groups()
        if len(a) == 4 or len(c) in (2, 4):
            return DateCell((int(a), int(b), int(c)), len(a) == 4, text[match.end() :])
    packed = _PACKED.match(text)
    if packed:
        year, month, day = (int(part) for part in packed.groups())
        rest = text[packed.end() :].strip()
        if re.match(r"^\d{4}(\d{2})?$", rest):  # 202403310030
            rest = f"{rest[:2]}:{rest[2:4]}"
        if 1 <= month <= 12 and 1 <= day <= 31:
            return DateCell((year, month, day), True, rest)
    return None


ORDERS = {"year month day": (0, 1, 2), "day month year": (2, 1, 0), "month day year": (2, 0, 1)}


def day_of(cell: DateCell, order: str) -> datetime:
    """Midnight of the date. Raises ValueError where the order makes no date of it."""
    return _midnight(cell.groups, "year month day" if cell.year_first else order)


@lru_cache(maxsize=8192)
def _midnight(groups: tuple[int, int, int], order: str) -> datetime:
    year, month, day = (groups[index] for index in ORDERS[order])
    year += 2000 if year < 100 else 0
    if not FIRST_YEAR <= year <= LAST_YEAR:
        raise ValueError(f"the year {year}")
    return datetime(year, month, day)


@lru_cache(maxsize=4096)
def time_of(text: str) -> tuple[timedelta, float | None] | None:
    """The time of day and the offset from UTC in hours, where one stands with it; 24:00 is the next
    midnight."""
    text = text.strip().lstrip("T").strip()
    if not text:
        return timedelta(0), None
    offset = None
    match = _OFFSET.search(text)
    if match and (match.group(1) or ":" in text[: match.start()]):
        sign = -1.0 if match.group(2) == "-" else 1.0
        offset = 0.0 if match.group(1) else sign * (int(match.group(3)) + int(match.group(4)) / 60)
        text = text[: match.start()]
    part = _TIME.match(text)
    if part is None:
        return None
    hour, minute = int(part.group(1)), int(part.group(2))
    half = (part.group(4) or "").lower().replace(".", "")
    if half:
        hour = hour % 12 + (12 if half == "pm" else 0)
    if hour > 24 or minute > 59 or (hour == 24 and minute):
        return None
    return timedelta(hours=hour, minutes=minute, seconds=int(part.group(3) or 0)), offset
