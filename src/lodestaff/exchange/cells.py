"""Cells of tables for other programs: words stay words, whatever they begin with."""

import csv
import io
import re
from collections.abc import Iterable, Sequence

BAD_START = ("=", "+", "-", "@", "\t", "\r")  # a cell that begins so is a formula to some programs
PLAIN_NUMBER = re.compile(r"[+-]?\d+(\.\d+)?([eE][+-]?\d+)?")


def inert(text: str) -> str:
    """A cell that no program takes for a formula: an apostrophe in front, taken away by `plain_cell`."""
    if text.startswith(BAD_START) and text != "-" and not PLAIN_NUMBER.fullmatch(text):
        return f"'{text}"
    return f"'{text}" if text.startswith("'") and text[1:].startswith((*BAD_START, "'")) else text


def plain_cell(text: str) -> str:
    """A cell as it was before `inert`."""
    return text[1:] if text.startswith("'") and text[1:].startswith((*BAD_START, "'")) else text


def csv_text(heads: Sequence[str], rows: Iterable[Sequence[str | float | None]]) -> str:
    """Rows as CSV: numbers with a point, words inert, an empty cell for what isn't known."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\n")
    writer.writerow([inert(head) for head in heads])
    for row in rows:
        writer.writerow(
            ["" if cell is None else inert(cell) if isinstance(cell, str) else f"{cell:.10g}" for cell in row]
        )
    return buffer.getvalue()
