"""The supply as it hangs on the wall, top to bottom; permissions and place beside it. Each part is a
plate."""

import itertools
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen

from lodestaff.desktop.stations.site.facts import ROWS, FactRow, rows_of, shown, value_of
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.job import Job

LEFT = (("supply", "operator"), ("head", "cutout"), ("meter", ""), ("board", "board"))
RIGHT = ("earth", "parallel", "export", "permits", "interim")
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


@dataclass(frozen=True)
class Plate:
    """A plate with its rows."""

    name: str
    title: str
    rect: QRectF
    rows: tuple[tuple[FactRow, QRectF], ...]


def lay_plates(job: Job, width: float, line: float) -> tuple[Plate, ...]:
    """The wall at the left from the service down, the earth beside it, permissions and place at the right."""
    words = {
        "supply": f"{job.pack.word('operator')} supply" if job.mains.grid else "Supply, without a grid",
        "head": job.pack.word("cutout").capitalize(),
        "board": f"Old {job.pack.word('board')}" if job.mains.grid else job.pack.word("board").capitalize(),
    }
    half = width / 2
    rows = rows_of(job)
    found = {f"found-{device.id}": f"Found: {device.name}" for device in job.site.found}
    weather = TITLES["weather"]
    if job.site.weather.kind == "file":
        weather = f"Weather file {job.site.weather.name or job.site.weather.sha256[:12]}"
    if job.site.horizon:
        weather += f", horizon up to {max(point.elevation_deg for point in job.site.horizon):g}°"
    titles = {**TITLES, **words, **found, "weather": weather}
    plates: list[Plate] = []
    reached = {"left": 8.0, "right": 8.0}

    def hang(name: str, side: str) -> None:
        mine = [row for row in rows if row.plate == name]
        if not mine and name != "weather":
            return
        at = (28.0, half * 0.92) if side == "left" else (half + 28, half - 44)
        plate = _plate(name, titles[name], mine, QRectF(at[0], reached[side], at[1], 0), line)
        plates.append(plate)
        reached[side] = plate.rect.bottom() + 22

    for name, _ in LEFT:
        hang(name, "left")
    for name in RIGHT:
        hang(name, "right")
    for name in (*found, *ENDS):  # the rest goes where there is room
        hang(name, "left" if reached["left"] <= reached["right"] else "right")
    return tuple(plates)


PHOTO_LINES = 3


def _plate(name: str, title: str, rows: list[FactRow], at: QRectF, line: float) -> Plate:
    y = at.top() + line + 6
    placed = []
    for row in rows:
        height = line * (PHOTO_LINES if row.kind == "photos" else 1)
        placed.append((row, QRectF(at.left() + 6, y, at.width() - 12, height)))
        y += height
    return Plate(name, title, QRectF(at.left(), at.top(), at.width(), y + 6 - at.top()), tuple(placed))


class PlatesView(Surface):
    """Click a value, or walk with the arrow keys and Enter, to read it off."""

    chosen_changed = Signal(object)
    edit_wanted = Signal()

    least = (520, 470)

    def __init__(self, store: Store) -> None:
        super().__init__(store, "The supply on the wall", "")
        self.plates: tuple[Plate, ...] = ()
        self.chosen = ROWS[0]

    def refresh(self) -> None:
        if self.store.job is not None:
            self.plates = lay_plates(self.store.job, self.width(), 24.0 * max(1.0, text_scale()))
            self.setMinimumHeight(round(max(plate.rect.bottom() for plate in self.plates)) + 12)
        self.update()

    def rows(self) -> list[tuple[FactRow, QRectF]]:
        return [row for plate in self.plates for row in plate.rows]

    def choose(self, row: FactRow) -> None:
        self.chosen = row
        if self.store.job is not None:
            value, known, _ = shown(self.store.job, row)
            self.setAccessibleDescription(f"{row.words}: {value}, {known}")
        self.chosen_changed.emit(row)
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """The value one was at comes into view."""
        super().focusInEvent(event)
        if event.reason() != Qt.FocusReason.MouseFocusReason:
            self.choose(self.chosen)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for row, rect in self.rows():
            if rect.contains(event.position()):
                self.choose(row)
                self.edit_wanted.emit()
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, rows = Qt.Key(event.key()), [row for row, _ in self.rows()]
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(key)
        if step is not None and rows:
            here = rows.index(self.chosen) if self.chosen in rows else -1
            self.choose(rows[(here + step) % len(rows)])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.edit_wanted.emit()
        else:
            super().keyPressEvent(event)

    def _paint_photos(self, painter: QPainter, job: Job, row: FactRow, rect: QRectF) -> None:
        """The photos of a found device, small, or that there are none."""
        look = current()
        painter.drawText(rect.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, row.words)
        x = rect.left() + rect.width() * 0.47
        photos = value_of(job, row)
        if not photos:
            painter.setPen(colour(look.warns))
            painter.drawText(
                QRectF(x, rect.top(), rect.width() * 0.5, rect.height()),
                Qt.AlignmentFlag.AlignVCenter,
                "none yet",
            )
        for digest in photos[:4]:
            picture = self.store.thumbnail(digest)
            box = QRectF(x, rect.top() + 3, rect.height() * 4 / 3 - 8, rect.height() - 6)
            if picture is not None:
                painter.drawPixmap(box, picture, QRectF(picture.rect()))
            painter.setPen(QPen(colour(look.line), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            x = box.right() + 5
        if self.hasFocus() and row == self.chosen:
            focus_frame(painter, look, rect)

    def paint(self, painter: QPainter) -> None:
        look = current()
        if self.store.job is None:
            return
        wall = [plate for plate in self.plates if plate.name in dict(LEFT)]
        painter.setPen(QPen(colour(look.grid), 3 * look.stroke))
        for above, below in itertools.pairwise(wall):
            x = above.rect.left() + 26
            painter.drawLine(QPointF(x, above.rect.bottom()), QPointF(x, below.rect.top()))
        for plate in self.plates:
            self._paint_plate(painter, plate)

    def _paint_plate(self, painter: QPainter, plate: Plate) -> None:
        look, job = current(), self.store.job
        assert job is not None
        painter.setPen(QPen(colour(look.line), look.stroke))
        painter.setBrush(colour(look.panel))
        painter.drawRect(plate.rect)
        painter.fillRect(QRectF(plate.rect.left(), plate.rect.top(), plate.rect.width(), 3), colour(look.ink))
        for dx in (7.0, plate.rect.width() - 7):  # the plate's two screws
            painter.setPen(QPen(colour(look.soft), 1))
            painter.drawEllipse(QPointF(plate.rect.left() + dx, plate.rect.top() + 10), 2.2, 2.2)
        painter.setFont(font("strong"))
        painter.setPen(colour(look.ink))
        line = plate.rows[0][1].height() if plate.rows else 20
        painter.drawText(
            QRectF(plate.rect.left() + 16, plate.rect.top() + 3, plate.rect.width() - 20, line),
            Qt.AlignmentFlag.AlignVCenter,
            plate.title,
        )
        for row, rect in plate.rows:
            self._paint_row(painter, job, row, rect)

    def _paint_row(self, painter: QPainter, job: Job, row: FactRow, rect: QRectF) -> None:
        look = current()
        value, known, firm = shown(job, row)
        if row == self.chosen:
            painter.fillRect(rect, colour(look.hand_ground))
        painter.setFont(font("text"))
        painter.setPen(colour(look.soft))
        if row.kind == "photos":
            self._paint_photos(painter, job, row, rect)
            return
        painter.drawText(rect.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, row.words)
        painter.setPen(colour(look.ink if firm else look.warns))
        middle = rect.left() + rect.width() * 0.47
        beside = 8 if row.plain else 26 if row.kind == "text" else 130
        room = rect.width() * 0.53 - beside * text_scale()
        words = QFontMetricsF(painter.font()).elidedText(value, Qt.TextElideMode.ElideRight, max(40.0, room))
        painter.setFont(font("strong"))
        painter.drawText(
            QRectF(middle, rect.top(), max(40.0, room) + 20, rect.height()),
            Qt.AlignmentFlag.AlignVCenter,
            words,
        )
        if not row.plain:
            painter.setFont(font("label"))
            painter.setPen(colour(look.soft if firm else look.warns))
            painter.drawText(
                rect.adjusted(0, 0, -6, 0),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                SIGNS.get(known, "") if row.kind == "text" else f"{known} {SIGNS.get(known, '')}",
            )
        if self.hasFocus() and row == self.chosen:
            focus_frame(painter, look, rect)
