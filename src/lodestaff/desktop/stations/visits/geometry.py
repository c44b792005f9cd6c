"""Where days, hands and pieces of work lie on the board: all days above, the chosen one large, what waits
below."""

from dataclasses import dataclass
from datetime import date

from PySide6.QtCore import QPointF, QRectF

from lodestaff.job.visits import Hand, Visit, Visits
from lodestaff.reckoning.visiting import Day, Programme
from lodestaff.visits import Span, Task

LEFT, TOP, QUARTER = 128.0, 40.0, 0.25
Key = tuple[str, int]  # a task and its piece


def day_words(iso: str) -> str:
    """A date as people say it: Mon 7 Dec."""
    day = date.fromisoformat(iso)
    return f"{day:%a} {day.day} {day:%b}"


@dataclass(frozen=True)
class Rows:
    """One day's field: hours along, hands down."""

    visit: Visit
    rect: QRectF
    hands: tuple[Hand, ...]

    @property
    def row_h(self) -> float:
        return self.rect.height() / max(1, len(self.hands))

    def x(self, hour: float) -> float:
        share = (hour - self.visit.from_h) / self.visit.hours
        return self.rect.left() + share * self.rect.width()

    def hour(self, x: float) -> float:
        """The quarter of an hour at a place."""
        share = (x - self.rect.left()) / max(1.0, self.rect.width())
        hour = self.visit.from_h + share * self.visit.hours
        return round(hour / QUARTER) * QUARTER

    def row(self, hand: str) -> int | None:
        return next((index for index, other in enumerate(self.hands) if other.id == hand), None)

    def hand_at(self, y: float) -> Hand | None:
        index = int((y - self.rect.top()) / self.row_h) if self.hands else 0
        return self.hands[min(max(0, index), len(self.hands) - 1)] if self.hands else None

    def boxes(self, span: Span, gap: float) -> list[QRectF]:
        """Where a piece lies: one box for each of its hands; the whole height while nobody does it."""
        left, right = self.x(span.from_h), self.x(span.to_h)
        rows = [row for hand in span.laid.hands if (row := self.row(hand)) is not None]
        if not rows:
            return [QRectF(left, self.rect.top() + gap, right - left, self.rect.height() - 2 * gap)]
        return [
            QRectF(left, self.rect.top() + row * self.row_h + gap, right - left, self.row_h - 2 * gap)
            for row in rows
        ]


@dataclass(frozen=True)
class Waiting:
    """A task without a day, on the shelf."""

    task: Task
    rect: QRectF


@dataclass(frozen=True)
class Board:
    """Everything on the board."""

    overview: tuple[Rows, ...]
    large: Rows | None
    day: Day | None
    shelf: tuple[Waiting, ...]
    shelf_top: float
    below: QRectF  # under the large day: its evening

    def rows_at(self, point: QPointF) -> Rows | None:
        """The field of the day under a point, head and foot included."""
        if self.large is not None and self.large.rect.adjusted(0, -8, 0, 8).contains(point):
            return self.large
        for rows in self.overview:
            if rows.rect.adjusted(0, -TOP, 0, 16).contains(point):
                return rows
        return None


def lay_board(
    programme: Programme, visits: Visits, size: tuple[float, float], chosen: str, k: float
) -> Board:
    """The board in a size, with the chosen day large."""
    width, height = size
    days = {day.visit.id: day for day in programme.days}
    left, shelf_h = LEFT * k, _shelf_height(programme, width, k)
    hands, gap = visits.hands, 6.0 * k
    row_h = min(28.0 * k, max(16.0 * k, height * 0.2 / max(1, len(hands))))
    overview = []
    column = (width - left - 14) / max(1, len(programme.days))
    for index, day in enumerate(programme.days):
        rect = QRectF(left + index * column, TOP * k, column - gap, row_h * max(1, len(hands)))
        overview.append(Rows(day.visit, rect, hands))
    shelf_top = height - shelf_h
    day_now = days.get(chosen) or (programme.days[0] if programme.days else None)
    large, below = None, QRectF()
    if day_now is not None:
        top = TOP * k + row_h * max(1, len(hands)) + 78 * k
        text = (34 + 18 * max(1, len(day_now.evening.left))) * k
        room = max(54.0 * k, min(120.0 * k * max(1, len(hands)), shelf_top - top - text))
        rect = QRectF(left, top, width - left - 20, room)
        large = Rows(day_now.visit, rect, hands)
        below = QRectF(14, rect.bottom() + 10 * k, width - 28, max(0.0, shelf_top - rect.bottom() - 14 * k))
    shelf = _shelf(programme, width, shelf_top, k)
    return Board(tuple(overview), large, day=day_now, shelf=shelf, shelf_top=shelf_top, below=below)


CHIP_H, CHIP_W = 40.0, 210.0


def _across(width: float, k: float) -> int:
    return max(1, int((width - 28) / (CHIP_W * k)))


def _shelf_height(programme: Programme, width: float, k: float) -> float:
    if not programme.unlaid:
        return 4.0
    lines = -(-len(programme.unlaid) // _across(width, k))
    return (26 + min(3, lines) * (CHIP_H + 6)) * k


def _shelf(programme: Programme, width: float, top: float, k: float) -> tuple[Waiting, ...]:
    across, waits = _across(width, k), []
    for index, name in enumerate(programme.unlaid):
        line, column = divmod(index, across)
        if line > 2:
            break
        x, y = 14 + column * CHIP_W * k, top + (24 + line * (CHIP_H + 6)) * k
        waits.append(Waiting(programme.task(name), QRectF(x, y, (CHIP_W - 8) * k, CHIP_H * k)))
    return tuple(waits)
