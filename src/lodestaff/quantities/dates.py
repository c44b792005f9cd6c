"""A date as a person types it: one reader for every place where one is typed. Kept as 2026-11-25."""

import re
from datetime import date

from lodestaff.quantities.errors import JobError

MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
RIGHT = "write one like 2026-11-25 or 25 Nov 2026"
FIGURES = re.compile(r"(\d{1,2})\s*[./-]\s*(\d{1,2})\s*[./-]\s*(\d{4})")
WORDED = re.compile(r"(\d{1,2})\.?\s+([A-Za-z]{3,9})\.?,?\s+(\d{4})")


def read_date(text: str) -> str:
    """What was typed, as year-month-day; '' stays ''. Raises JobError, with both readings where there are
    two."""
    text = text.strip()
    if not text:
        return ""
    if re.fullmatch(r"\d{4}-\d{2}-\d{2}", text):
        return _made(text, *(int(part) for part in text.split("-")))
    if worded := WORDED.fullmatch(text):
        day, name, year = worded.groups()
        month = next((number for number, short in enumerate(MONTHS, 1) if name.lower().startswith(short)), 0)
        return _made(text, int(year), month, int(day))
    if figures := FIGURES.fullmatch(text):
        first, other, year = (int(part) for part in figures.groups())
        if first != other and max(first, other) <= 12:
            both = f"{_made(text, year, other, first)} or {_made(text, year, first, other)}"
            raise JobError(f"{text}: {both}?", right="write the year first, or the month as a word")
        return _made(text, year, *((other, first) if other <= 12 else (first, other)))
    raise JobError(f"{text!r} is no date", right=RIGHT)


def _made(text: str, year: int, month: int, day: int) -> str:
    try:
        return date(year, month, day).isoformat()
    except ValueError:
        raise JobError(f"{text!r} is no date", right=RIGHT) from None
