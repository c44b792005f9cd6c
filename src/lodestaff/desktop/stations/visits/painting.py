"""Painting of the board: days along, hands down, hours without power marked, evenings in words."""

from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QFontMetricsF, QPainter, QPen

from lodestaff.desktop.stations.visits.geometry import Board, Key, Rows, day_words
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame, hatch, mark
from lodestaff.quantities.convention import plain
from lodestaff.quantities.units import clock
from lodestaff.reckoning.visiting import Day, Programme
from lodestaff.visits import Conflict, Span

NONE = "No day is laid yet. Lay out: every task gets its day and its hands, from the first day on."
WORK = {
    "brackets": "sun", "modules": "sun", "modules-smart": "sun", "roof-runs": "sun", "battery": "battery",
    "cut-in": "grid", "move": "grid", "outage-test": "grid",
}  # fmt: skip


class BoardView(Protocol):
    """What is painted."""

    board: Board | None
    programme: Programme | None
    chosen: Key
    told: list[Conflict]
    held: tuple[str, float, tuple[str, ...]] | None

    def width(self) -> int: ...

    def height(self) -> int: ...

    def hasFocus(self) -> bool: ...

    def span_of(self, key: Key) -> Span | None: ...


def paint_board(painter: QPainter, view: BoardView) -> None:
    """Everything of the Visits drawing."""
    board, programme = view.board, view.programme
    if board is None or programme is None:
        return
    if not board.overview:
        painter.setFont(font("text"))
        painter.setPen(colour(current().soft))
        room = QRectF(20, 0, view.width() - 40, max(60.0, board.shelf_top))
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, NONE)
    for rows, day in zip(board.overview, programme.days, strict=True):
        _overview(painter, view, rows, day)
    if board.large is not None and board.day is not None:
        _hands(painter, board.overview[0], small=True)
        _large(painter, view, board.large, board.day)
        _evening(painter, board, board.day)
    _shelf(painter, view, board)


def hands_words(people: int) -> str:
    return f"{people} hand{'' if people == 1 else 's'}"


def _cut(painter: QPainter, words: str, width: float) -> str:
    return QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, max(0.0, width))


def _hands(painter: QPainter, rows: Rows, small: bool) -> None:
    painter.setFont(font("small" if small else "label"))
    painter.setPen(colour(current().ink))
    for index, hand in enumerate(rows.hands):
        box = QRectF(14, rows.rect.top() + index * rows.row_h, rows.rect.left() - 22, rows.row_h)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, _cut(painter, hand.name, box.width()))


def _overview(painter: QPainter, view: BoardView, rows: Rows, day: Day) -> None:
    look, k = current(), max(1.0, text_scale())
    chosen = view.board is not None and view.board.day is day
    rect = rows.rect
    painter.setPen(QPen(colour(look.hand if chosen else look.line), 2 if chosen else 1))
    painter.setBrush(colour(look.panel))
    painter.drawRect(rect)
    painter.setFont(font("strong" if chosen else "label"))
    painter.setPen(colour(look.ink))
    painter.drawText(
        rect.topLeft() - QPointF(0, 20 * k), _cut(painter, day_words(rows.visit.date), rect.width())
    )
    painter.setFont(font("small"))
    painter.setPen(colour(look.soft))
    told = _weather(day)
    if QFontMetricsF(painter.font()).horizontalAdvance(told) > rect.width():
        told = told.removeprefix("light ")
    painter.drawText(rect.topLeft() - QPointF(0, 5 * k), _cut(painter, told, rect.width()))
    _away(painter, rows)
    _light(painter, rows, day)
    for span in day.spans:
        for box in rows.boxes(span, 2.0):
            _block(painter, view, span, box, words=False)
    painter.setFont(font("small"))
    if day.dark_h:
        painter.setPen(colour(look.blocks))
        words = f"{plain(day.dark_h)} h without power"
        if QFontMetricsF(painter.font()).horizontalAdvance(words) > rect.width():
            words = f"{plain(day.dark_h)} h off"
        painter.drawText(QPointF(rect.left(), rect.bottom() + 14 * k), _cut(painter, words, rect.width()))
    elif day.missing:
        painter.setPen(colour(look.warns))
        words = f"{len(day.missing)} parts missing"
        painter.drawText(QPointF(rect.left(), rect.bottom() + 14 * k), _cut(painter, words, rect.width()))


def _weather(day: Day) -> str:
    """The typed forecast, short; else how long there is light."""
    visit = day.visit
    told = [
        f"{plain(visit.wind_m_s.value)} m/s" if visit.wind_m_s.value is not None else "",
        f"{plain(visit.low_c.value)} °C" if visit.low_c.value is not None else "",
        {"yes": "rain", "no": "dry"}.get(visit.rain.value or "", ""),
    ]
    words = ", ".join(filter(None, told))
    if not words and day.light is not None:
        words = f"light {clock(day.light.rises_h)} to {clock(day.light.sets_h)}"
    return words


def _away(painter: QPainter, rows: Rows) -> None:
    """Hands that aren't on site that day."""
    for index, hand in enumerate(rows.hands):
        if hand.id not in rows.visit.hands:
            box = QRectF(
                rows.rect.left(), rows.rect.top() + index * rows.row_h, rows.rect.width(), rows.row_h
            )
            painter.fillRect(box, QBrush(colour(current().line), Qt.BrushStyle.Dense6Pattern))


def _light(painter: QPainter, rows: Rows, day: Day) -> None:
    """The hours in the dark."""
    if day.light is None:
        return
    visit, shade = rows.visit, colour(current().ink, 26)
    for begin, end in ((visit.from_h, day.light.rises_h), (day.light.sets_h, visit.to_h)):
        if end > begin:
            left, right = rows.x(max(begin, visit.from_h)), rows.x(min(end, visit.to_h))
            painter.fillRect(QRectF(left, rows.rect.top(), right - left, rows.rect.height()), shade)


def _block(painter: QPainter, view: BoardView, span: Span, box: QRectF, *, words: bool) -> None:
    look, key = current(), (span.laid.task, span.laid.piece)
    chosen = key == view.chosen
    kind = WORK.get(span.task.kind, "load")
    painter.setPen(QPen(colour(look.hand if chosen else look.ink), (2.4 if chosen else 1) * look.stroke))
    painter.setBrush(colour(look.paper))
    painter.drawRect(box)
    painter.setBrush(hatch(look, kind))
    painter.drawRect(box)
    if span.task.id in (view.programme.done if view.programme is not None else ()):
        mark(painter, look, "passed", QRectF(box.right() - 12, box.top() + 3, 9, 9))
    elif view.programme is not None and any(
        (conflict.task, conflict.visit) == (span.task.id, span.visit.id)
        for conflict in view.programme.conflicts
    ):
        mark(painter, look, "warns", QRectF(box.right() - 13, box.top() + 3, 10, 10))
    elif span.laid.held:
        painter.setBrush(colour(look.hand))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(QPointF(box.right() - 7, box.top() + 7), 3, 3)
    if words:
        _block_words(painter, span, box)
    if chosen and view.hasFocus():
        focus_frame(painter, look, box)


def _block_words(painter: QPainter, span: Span, box: QRectF) -> None:
    look = current()
    name = span.task.name + (f", part {span.laid.piece}" if span.laid.piece > 1 else "")
    painter.setFont(font("label"))
    room = box.adjusted(5, 3, -5, -3)
    ground = QFontMetricsF(painter.font()).boundingRect(
        room, int(Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap), name
    )
    painter.fillRect(ground.intersected(room).adjusted(-2, 0, 2, 0), colour(look.paper, 225))
    painter.setPen(colour(look.ink))
    painter.save()
    painter.setClipRect(room)
    painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap, name)
    painter.restore()


def _large(painter: QPainter, view: BoardView, rows: Rows, day: Day) -> None:
    look, k, rect = current(), max(1.0, text_scale()), rows.rect
    visit = rows.visit
    painter.setFont(font("strong"))
    painter.setPen(colour(look.ink))
    head = f"{day_words(visit.date)}, {clock(visit.from_h)} to {clock(visit.to_h)}"
    painter.drawText(QPointF(14, rect.top() - 26 * k), head)
    painter.setPen(QPen(colour(look.line), 1))
    painter.setBrush(colour(look.panel))
    painter.drawRect(rect)
    _away(painter, rows)
    _light(painter, rows, day)
    _off(painter, rows, day)
    painter.setFont(font("small"))
    hour = float(int(visit.from_h))
    while hour <= visit.to_h:
        if hour >= visit.from_h:
            x = rows.x(hour)
            painter.setPen(QPen(colour(look.line), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
            painter.setPen(colour(look.soft))
            painter.drawText(
                QRectF(x - 30, rect.top() - 18 * k, 60, 14 * k), Qt.AlignmentFlag.AlignCenter, clock(hour)
            )
        hour += 1.0
    for index in range(1, len(rows.hands)):
        y = rect.top() + index * rows.row_h
        painter.setPen(QPen(colour(look.line), 1))
        painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y))
    _hands(painter, rows, small=False)
    for span in day.spans:
        for box in rows.boxes(span, 4.0):
            _block(painter, view, span, box, words=True)
    _held(painter, view)


def _off(painter: QPainter, rows: Rows, day: Day) -> None:
    """The hours without power, and those that were agreed."""
    look, k = current(), max(1.0, text_scale())
    offs = [span for span in day.spans if span.task.building]
    if offs:
        left, right = rows.x(min(s.from_h for s in offs)), rows.x(max(s.to_h for s in offs))
        band = QRectF(left, rows.rect.bottom(), right - left, 7 * k)
        painter.fillRect(band, QBrush(colour(look.blocks, 160), Qt.BrushStyle.BDiagPattern))
        painter.setPen(QPen(colour(look.blocks), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(band)
    visit = rows.visit
    if visit.off_from_h is not None and visit.off_to_h is not None:
        painter.setPen(QPen(colour(look.passed), 2))
        y = rows.rect.bottom() + 10 * k
        painter.drawLine(QPointF(rows.x(visit.off_from_h), y), QPointF(rows.x(visit.off_to_h), y))
        painter.setFont(font("small"))
        words = f"agreed without power {clock(visit.off_from_h)} to {clock(visit.off_to_h)}"
        room = QRectF(rows.rect.left(), y + 2, rows.x(visit.off_to_h) - rows.rect.left(), 14 * k)
        painter.drawText(room, Qt.AlignmentFlag.AlignRight, words)


def _held(painter: QPainter, view: BoardView) -> None:
    """The piece under the hand, and what would be wrong with it there."""
    board, look = view.board, current()
    if view.held is None or board is None:
        return
    visit, at_h, _hands_held = view.held
    span = view.span_of(view.chosen)
    long = span.to_h - span.from_h if span is not None else 1.0
    for rows in (*board.overview, *((board.large,) if board.large is not None else ())):
        if rows.visit.id == visit:
            left, right = rows.x(at_h), rows.x(at_h + long)
            painter.setPen(QPen(colour(look.hand), 2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(left, rows.rect.top(), right - left, rows.rect.height()))
    if view.told:
        painter.setFont(font("label"))
        painter.setPen(colour(look.warns))
        painter.drawText(
            board.below, Qt.TextFlag.TextWordWrap, "\n".join(conflict.words for conflict in view.told[:3])
        )


def _evening(painter: QPainter, board: Board, day: Day) -> None:
    """How the day is left, in words under it."""
    look, k, room = current(), max(1.0, text_scale()), board.below
    line = 18 * k
    y = room.top() + 14 * k
    painter.setFont(font("label"))
    offs = [span for span in day.spans if span.task.building]
    if offs:
        agreed = "agreed" if day.visit.off_from_h is not None else "nobody has agreed to it yet"
        painter.setPen(colour(look.blocks))
        first, last = min(s.from_h for s in offs), max(s.to_h for s in offs)
        painter.drawText(QPointF(14, y), f"Without power {clock(first)} to {clock(last)}: {agreed}.")
        y += line
    painter.setPen(colour(look.ink))
    painter.drawText(QPointF(14, y), _cut(painter, f"Evening: {day.evening.feeds}", room.width()))
    for left in day.evening.left:
        y += line
        if y > room.bottom() + 4 * k:
            break
        mark(painter, look, "warns", QRectF(16, y - 9 * k, 9 * k, 9 * k))
        painter.setPen(colour(look.ink))
        words = f"{left.name}: {left.words}. {left.safe}"
        painter.drawText(QPointF(32 * k, y), _cut(painter, words, room.width() - 24 * k))


def _shelf(painter: QPainter, view: BoardView, board: Board) -> None:
    look, k = current(), max(1.0, text_scale())
    if not board.shelf or view.programme is None:
        return
    painter.setFont(font("strong"))
    painter.setPen(colour(look.ink))
    more = len(view.programme.unlaid) - len(board.shelf)
    words = f"No day yet: {len(view.programme.unlaid)}" + (f", {more} more in the table" if more else "")
    painter.drawText(QPointF(14, board.shelf_top + 16 * k), words)
    for waiting in board.shelf:
        chosen = view.chosen[0] == waiting.task.id
        painter.setPen(QPen(colour(look.hand if chosen else look.line), 2 if chosen else 1))
        painter.setBrush(colour(look.panel))
        painter.drawRect(waiting.rect)
        painter.setFont(font("label"))
        painter.setPen(colour(look.ink))
        room = waiting.rect.adjusted(6, 4, -6, -4)
        head = f"{waiting.task.name}, {plain(waiting.task.hours, 2)} h"
        painter.drawText(QPointF(room.left(), room.top() + 11 * k), _cut(painter, head, room.width()))
        painter.setFont(font("small"))
        painter.setPen(colour(look.soft))
        holds = [hold.words for hold in waiting.task.holds if not hold.there]
        why = f"waits: {holds[0]}" if holds else f"{hands_words(waiting.task.people)}, {waiting.task.skill}"
        painter.drawText(QPointF(room.left(), room.top() + 27 * k), _cut(painter, why, room.width()))
        if chosen and view.hasFocus():
            focus_frame(painter, look, waiting.rect)
