"""The wall as it was found, laid out: each part in its own shape and to one scale, its values as tags beside
it; papers (permissions, place, choices) hang at the right."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QRectF

from lodestaff.desktop.stations.site.facts import FactRow, rows_of, shown
from lodestaff.job import Job

ON_WALL = ("supply", "head", "meter", "board", "earth")
PAPERS = ("parallel", "export", "permits", "interim")
ENDS = ("place", "weather", "choices")
TITLES = {
    "meter": "Meter and tails",
    "earth": "Earthing",
    "parallel": "Permission: running in parallel",
    "export": "Permission: export",
    "permits": "Other permits",
    "interim": "Holds until a date",
    "choices": "Choices of the customer",
    "place": "Place and records",
    "weather": "Synthetic weather year",
}
SIGNS = {
    "read on site": "●",
    "measured": "◆",
    "data sheet": "■",
    "photo": "▣",
    "told": "◐",
    "assumed": "○",
    "program default": "○",
    "unknown": "?",
}
# How large parts are, mm (common practice): one scale for all, so that they can be told by their size.
SIZES_MM = {
    "supply": (60, 150),
    "head": (120, 170),
    "meter": (140, 190),
    "board": (380, 230),
    "earth": (200, 60),
}
FOUND_MM = (240, 170)
PX_PER_MM = 0.42
PHOTO_LINES = 3
GAP = 6.0
NARROW_LINES = 18
NAME_SHARE = 0.5  # of a paper's line
WALL_SHARE = 0.6  # of the width; the rest is for papers

Measure = Callable[[str], float]  # the width of words, px


@dataclass(frozen=True)
class Piece:
    """A part of the wall with its tags, or a paper with its lines; `shape` is empty on papers."""

    name: str
    title: str
    rect: QRectF
    shape: QRectF
    rows: tuple[tuple[FactRow, QRectF], ...]

    @property
    def paper(self) -> bool:
        return self.shape.isEmpty()


def tag_words(job: Job, row: FactRow) -> str:
    """What a tag says: the name of the value, the value, and the sign for how it is known."""
    value, known, _ = shown(job, row)
    sign = "" if row.plain else SIGNS.get(known, "")
    return f"{row.words}  {value}  {sign}".rstrip()


def titles_of(job: Job) -> dict[str, str]:
    """The titles of all pieces."""
    weather = TITLES["weather"]
    if job.site.weather.kind == "file":
        weather = f"Weather file {job.site.weather.name or job.site.weather.sha256[:12]}"
    if job.site.horizon:
        weather += f", horizon up to {max(point.elevation_deg for point in job.site.horizon):g}°"
    grid = job.mains.grid
    return {
        **TITLES,
        "supply": f"{job.pack.word('operator')} supply" if grid else "Supply, without a grid",
        "head": job.pack.word("cutout").capitalize(),
        "board": f"Old {job.pack.word('board')}" if grid else job.pack.word("board").capitalize(),
        **{f"found-{device.id}": f"Found: {device.name}" for device in job.site.found},
        "weather": weather,
    }


def lay_wall(job: Job, width: float, line: float, measure: Measure) -> tuple[Piece, ...]:
    """All pieces: the wall from the service down, then what was found; papers beside it."""
    rows, titles = rows_of(job), titles_of(job)
    ids = [f"found-{device.id}" for device in job.site.found]
    pieces: list[Piece] = []
    narrow = width < NARROW_LINES * line  # papers go below the wall
    share = 1.0 if narrow else WALL_SHARE
    wall, y = QRectF(10, 0, width * share - 22, 0), 6.0
    for name in (*ON_WALL, *ids):
        mine = [row for row in rows if row.plate == name]
        if mine:
            stretch = QRectF(wall.left(), y, wall.width(), 0)
            pieces.append(_part(job, name, titles[name], mine, at=stretch, line=line, measure=measure))
            y = pieces[-1].rect.bottom() + 12
    paper = wall if narrow else QRectF(width * share + 8, 0, width * (1 - share) - 20, 0)
    y = y if narrow else 6.0
    for name in (*PAPERS, *ENDS):
        mine = [row for row in rows if row.plate == name]
        if mine or name == "weather":
            sheet = QRectF(paper.left(), y, paper.width(), 0)
            pieces.append(_paper(job, name, titles[name], mine, at=sheet, line=line, measure=measure))
            y = pieces[-1].rect.bottom() + 14
    return tuple(pieces)


def _part(
    job: Job, name: str, title: str, rows: list[FactRow], *, at: QRectF, line: float, measure: Measure
) -> Piece:
    """A part in its shape at the left, its tags in rows at the right, as many in a row as fit."""
    widest = max(wide for wide, _ in (*SIZES_MM.values(), FOUND_MM)) * PX_PER_MM
    wide, high = (side * PX_PER_MM for side in SIZES_MM.get(name, FOUND_MM))
    left = at.left() + widest + 16
    room = at.right() - left
    x, y, placed = left, at.top() + line, []
    for row in rows:
        if row.kind == "photos":
            x, y = left, y + (line + GAP if x > left else 0)
            placed.append((row, QRectF(left, y, room, line * PHOTO_LINES)))
            y += line * PHOTO_LINES + GAP
            continue
        need = measure(tag_words(job, row)) + 18
        if x > left and x + need > at.right():
            x, y = left, y + line + GAP
        lines = 1 if need <= room else 2  # the name above the value where both don't fit
        placed.append((row, QRectF(x, y, min(room, need), line * lines)))
        x, y = (x + need + GAP, y) if lines == 1 else (left, y + line * lines + GAP)
    bottom = max(y + (line if x > left else 0), at.top() + line + high) + 4
    shape = QRectF(at.left() + (widest - wide) / 2, at.top() + line * 0.6, wide, high)
    return Piece(
        name, title, QRectF(at.left(), at.top(), at.width(), bottom - at.top()), shape, tuple(placed)
    )


def _paper(
    job: Job, name: str, title: str, rows: list[FactRow], *, at: QRectF, line: float, measure: Measure
) -> Piece:
    """A sheet with a line for each value, two where the name is too long to stand before it."""
    y, placed, half = at.top() + line + 8, [], (at.width() - 12) * NAME_SHARE
    for row in rows:
        name_fits = measure(row.words) <= half - 8
        value_fits = measure(shown(job, row)[0]) <= half - 20
        lines = 1 if name_fits and value_fits else 2
        placed.append((row, QRectF(at.left() + 6, y, at.width() - 12, line * lines)))
        y += line * lines
    return Piece(
        name, title, QRectF(at.left(), at.top(), at.width(), y + 6 - at.top()), QRectF(), tuple(placed)
    )


def unread(job: Job) -> tuple[FactRow, ...]:
    """The values that nobody read or measured yet, in the order of the wall."""
    order = {name: place for place, name in enumerate((*ON_WALL, *PAPERS, *ENDS))}
    open_rows = [row for row in rows_of(job) if not row.plain and not shown(job, row)[2]]
    return tuple(sorted(open_rows, key=lambda row: order.get(row.plate, len(order))))
