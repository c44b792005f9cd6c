"""The staff: a surveyor's staff along the left edge, with the job's stations in working order."""

from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QAccessible, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from lodestaff.desktop.actions import STATIONS
from lodestaff.desktop.language import tr
from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame, mark

WIDTH, TOP, ROW, LEAST_ROW = 148, 64, 72, 56
BLOCKS = (18, 4, 12, 4, 12)  # widths of the graduation, from top to bottom of a station


def wide() -> int:
    """The staff's width, growing by half of what the text grows."""
    return round(WIDTH * (1 + 0.62 * max(0.0, text_scale() - 1)))


class Staff(QWidget):
    """The only navigation. Each station shows the worst finding in it and how many there are."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Stations")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)
        self.current = ""
        self.title = ""
        self.unsaved = False
        self.worst: dict[str, tuple[str, int]] = {}
        self.read: dict[str, float] = {}
        self._focused = 0

    def sizeHint(self) -> QSize:
        return QSize(wide(), 600)

    def minimumSizeHint(self) -> QSize:
        return QSize(wide(), 300)

    def show_station(self, station: str) -> None:
        self.current = station
        names = [row.id for row in STATIONS]
        self._focused = names.index(station) if station in names else 0
        self.update()

    def show_job(self, title: str, unsaved: bool) -> None:
        self.title, self.unsaved = title, unsaved
        self.update()

    def show_worst(self, worst: dict[str, tuple[str, int]], read: dict[str, float]) -> None:
        """Show the worst of each station and how far it is read, as a share."""
        self.worst, self.read = worst, read
        words = (
            f"{tr(row.name)}: {worst[row.id][1]} {tr(worst[row.id][0])}"
            for row in STATIONS
            if row.id in worst
        )
        self.setAccessibleDescription("; ".join(words))
        self.update()

    def spoken(self) -> list[Spoken]:
        """Each station with the worst that it has; pressed one goes there."""
        return [
            Spoken(row.id, tr(row.name), self.row_rect(place),
                   f"{' '.join(str(part) for part in reversed(self.worst.get(row.id, ())))}, "
                   f"{round(100 * self.read.get(row.id, 0))} % read",
                   role=QAccessible.Role.PageTab, chosen=place == self._focused, on=row.id == self.current,
                   press=partial(self.chosen.emit, row.id))
            for place, row in enumerate(STATIONS)
        ]  # fmt: skip

    def row_rect(self, index: int) -> QRectF:
        return QRectF(0, TOP + index * self.row_px, self.width(), self.row_px)

    @property
    def row_px(self) -> float:
        """The height of a row: it grows with the words as far as there is room."""
        return max(LEAST_ROW, min(ROW * max(1.0, text_scale()), (self.height() - TOP) / len(STATIONS)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for index, row in enumerate(STATIONS):
            if self.row_rect(index).contains(event.position()) and self.title:
                self.chosen.emit(row.id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if step is not None:
            self._focused = (self._focused + step) % len(STATIONS)
            told(self)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.title:
            self.chosen.emit(STATIONS[self._focused].id)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        look = current()
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(look.staff))
        painter.setPen(QPen(colour(look.line), look.stroke))
        painter.drawLine(QPointF(self.width() - 0.5, 0), QPointF(self.width() - 0.5, self.height()))
        painter.setPen(colour(look.ink))
        painter.setFont(font("strong"))
        painter.drawText(QPointF(16, 14 + 12 * text_scale()), "LODESTAFF")
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        metrics = QFontMetricsF(painter.font())
        title = metrics.elidedText(self.title or "no job open", Qt.TextElideMode.ElideRight, wide() - 28)
        painter.drawText(QPointF(16, min(61, 21 + 23 * text_scale())), title)
        if self.unsaved:
            painter.setPen(QPen(colour(look.warns), 2))
            painter.drawLine(
                QPointF(16, 52), QPointF(16 + min(metrics.horizontalAdvance(title), wide() - 28), 52)
            )
        for index in range(len(STATIONS)):
            self._paint_row(painter, index)
        rest = QRectF(0, TOP + len(STATIONS) * self.row_px, wide(), self.height())
        self._graduation(
            painter,
            rest.top(),
            int((self.height() - rest.top()) / self.row_px * 5) + 5,
            colour(look.rest),
            colour(look.rest),
        )
        painter.end()

    def _graduation(self, painter: QPainter, top: float, count: int, first: object, other: object) -> None:
        look = current()
        height = self.row_px / 5
        for step in range(count):
            width = BLOCKS[step % 5]
            ink = first if (step % 10) < 5 else other
            painter.fillRect(QRectF(34 - width, top + step * height, width, height - 0.5), ink)
        painter.fillRect(
            QRectF(34, top, 2, count * height), colour(look.ink if first != other else look.rest)
        )

    def _paint_row(self, painter: QPainter, index: int) -> None:
        look, row, box = current(), STATIONS[index], self.row_rect(index)
        here = row.id == self.current
        if here:
            painter.fillRect(box, colour(look.hand_ground))
            painter.fillRect(QRectF(box.right() - 4, box.top(), 4, box.height()), colour(look.hand))
        ink = colour(look.vermilion if index % 2 == 0 else look.ink) if self.title else colour(look.rest)
        self._graduation(painter, box.top(), 5, ink, colour(look.ink))
        painter.setPen(colour(look.ink if self.title else look.soft))
        painter.setFont(font("strong" if here else "text"))
        words_px = 24 * text_scale() + 17  # name, key and the bar below them
        name_y = box.top() + min(16.0, max(3.0, box.height() - words_px - 4)) + 13 * text_scale()
        key_y = name_y + 8 + 11 * text_scale()
        painter.drawText(QPointF(48, name_y), tr(row.name))
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        painter.drawText(QPointF(48, key_y), tr("key {key}", key=row.key))
        if row.id in self.read:
            along = QRectF(48, key_y + 6, box.right() - 62, 3)
            painter.fillRect(along, colour(look.rest))
            along.setWidth(along.width() * self.read[row.id])
            painter.fillRect(along, colour(look.soft))
        if row.id in self.worst:
            status, count = self.worst[row.id]
            shown = str(count) if count > 1 and status != "passed" else ""
            room = max(20.0, QFontMetricsF(painter.font()).horizontalAdvance(shown) + 4)
            mark(painter, look, status, QRectF(box.right() - 24 - room, key_y - 11, 14, 13))
            painter.setPen(colour(look.ink))
            painter.drawText(QPointF(box.right() - 6 - room, key_y), shown)
        if self.hasFocus() and index == self._focused:
            focus_frame(painter, look, box.adjusted(2, 2, -6, -2))
