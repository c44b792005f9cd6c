"""The wall to work on: click a tag or go from tag to tag by the arrow keys, Enter reads it off."""

import itertools
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen

from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.stations.site.facts import ROWS, FactRow, shown, value_of
from lodestaff.desktop.stations.site.shapes import paint_shape
from lodestaff.desktop.stations.site.wall import NAME_SHARE, ON_WALL, SIGNS, Piece, lay_wall
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.job import Job

LINE = 24.0


class WallView(Surface):
    """What is known stands on a filled tag, what isn't on a hollow one."""

    chosen_changed = Signal(object)
    edit_wanted = Signal()

    least = (520, 470)

    def __init__(self, store: Store) -> None:
        super().__init__(store, "The supply on the wall", "")
        self.pieces: tuple[Piece, ...] = ()
        self.chosen = ROWS[0]

    def refresh(self) -> None:
        if self.store.job is not None:
            metrics = QFontMetricsF(font("strong"))
            self.pieces = lay_wall(self.store.job, self.width(), self.line, metrics.horizontalAdvance)
            self.setMinimumHeight(round(max(piece.rect.bottom() for piece in self.pieces)) + 12)
        self.update()

    @property
    def line(self) -> float:
        """The height of a line, px."""
        return LINE * max(1.0, text_scale())

    def rows(self) -> list[tuple[FactRow, QRectF]]:
        return [row for piece in self.pieces for row in piece.rows]

    def spoken(self) -> list[Spoken]:
        """Each value, with how it is known; pressed it is read off."""
        job = self.store.job
        return [
            Spoken(row.path, row.words, rect, ", ".join(shown(job, row)[:2]), chosen=row == self.chosen,
                   press=partial(self._read_off, row))
            for row, rect in (self.rows() if job is not None else ())
            if job is not None
        ]  # fmt: skip

    def _read_off(self, row: FactRow) -> None:
        self.choose(row)
        self.edit_wanted.emit()

    def choose(self, row: FactRow) -> None:
        self.chosen = row
        told(self)
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
                self._read_off(row)
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        row = next((row for row, rect in self.rows() if rect.contains(event.position())), None)
        job = self.store.job
        self.setToolTip(", ".join(shown(job, row)[:2]) if row is not None and job is not None else "")
        self.setCursor(Qt.CursorShape.PointingHandCursor if row is not None else Qt.CursorShape.ArrowCursor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, rows = Qt.Key(event.key()), [row for row, _ in self.rows()]
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_Left: -1}
        step = steps.get(key)
        if step is not None and rows:
            here = rows.index(self.chosen) if self.chosen in rows else -1
            self.choose(rows[(here + step) % len(rows)])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.edit_wanted.emit()
        else:
            super().keyPressEvent(event)

    # --- painting --------------------------------------------------------------------------------------
    def paint(self, painter: QPainter) -> None:
        look, job = current(), self.store.job
        if job is None:
            return
        wall = [piece for piece in self.pieces if piece.name in ON_WALL]
        painter.setPen(QPen(colour(look.grid if job.mains.grid else look.line), 4 * look.stroke))
        for above, below in itertools.pairwise(wall):
            x = above.shape.center().x()
            if below.name == "earth":  # its conductor carries nothing
                painter.setPen(QPen(colour(look.ink), 1.4 * look.stroke))
            painter.drawLine(QPointF(x, above.shape.bottom()), QPointF(x, below.shape.top()))
        for piece in self.pieces:
            self._paint_piece(painter, job, piece)

    def _paint_piece(self, painter: QPainter, job: Job, piece: Piece) -> None:
        look = current()
        line = self.line
        title = piece.rect.adjusted(8, 3, 0, 0)
        if piece.paper:
            painter.setPen(QPen(colour(look.line), look.stroke))
            painter.setBrush(colour(look.panel))
            painter.drawRect(piece.rect)
            painter.setBrush(colour(look.vermilion))  # the pin that holds it
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawEllipse(QPointF(piece.rect.center().x(), piece.rect.top() + 2), 4, 4)
        else:
            paint_shape(painter, piece.name, piece.shape, job)
            left = min((rect.left() for _, rect in piece.rows), default=piece.shape.right())
            title.setLeft(left)
            y = piece.rect.top() + line * 0.92
            painter.setPen(QPen(colour(look.line), 1))
            painter.drawLine(QPointF(piece.shape.right() + 3, y), QPointF(piece.rect.right(), y))
        painter.setFont(font("strong"))
        painter.setPen(colour(look.ink))
        title.setHeight(line)
        words = QFontMetricsF(painter.font()).elidedText(
            piece.title, Qt.TextElideMode.ElideRight, title.width()
        )
        painter.drawText(title, Qt.AlignmentFlag.AlignVCenter, words)
        for row, rect in piece.rows:
            if row.kind == "photos":
                self._paint_photos(painter, row, rect, job)
            elif piece.paper:
                self._paint_line(painter, job, row, rect)
            else:
                self._paint_tag(painter, job, row, rect)
            if self.hasFocus() and row == self.chosen:
                focus_frame(painter, look, rect.adjusted(-1, -1, 1, 1))

    def _paint_tag(self, painter: QPainter, job: Job, row: FactRow, rect: QRectF) -> None:
        """A tag: filled where the value is firm, hollow and dashed where nobody read it."""
        look = current()
        value, known, firm = shown(job, row)
        hollow = not firm and not row.plain
        style = Qt.PenStyle.DashLine if hollow else Qt.PenStyle.SolidLine
        painter.setPen(QPen(colour(look.warns if hollow else look.edge), look.stroke, style))
        painter.setBrush(
            colour(look.hand_ground)
            if row == self.chosen
            else Qt.BrushStyle.NoBrush
            if hollow
            else colour(look.panel)
        )
        painter.drawRect(rect.adjusted(0.5, 1.5, -0.5, -1.5))
        painter.setFont(font("label"))
        metrics = QFontMetricsF(painter.font())
        painter.setPen(colour(look.soft))
        inside = rect.adjusted(7, 0, -7, 0)
        if rect.height() > 1.5 * self.line:
            painter.drawText(_half(inside, 0), Qt.AlignmentFlag.AlignVCenter, row.words)
            inside = _half(inside, 1)
        else:
            painter.drawText(inside, Qt.AlignmentFlag.AlignVCenter, row.words)
            inside.setLeft(inside.left() + metrics.horizontalAdvance(row.words) + 7)
        sign = "" if row.plain else SIGNS.get(known, "")
        painter.setPen(colour(look.warns if hollow else look.ink))
        painter.drawText(inside, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, sign)
        inside.setRight(inside.right() - metrics.horizontalAdvance(sign) - 4)
        painter.setFont(font("strong"))
        words = QFontMetricsF(painter.font()).elidedText(value, Qt.TextElideMode.ElideRight, inside.width())
        painter.drawText(inside, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_line(self, painter: QPainter, job: Job, row: FactRow, rect: QRectF) -> None:
        """A line of a paper: the name of a value, the value, its sign."""
        look = current()
        value, known, firm = shown(job, row)
        if row == self.chosen:
            painter.fillRect(rect, colour(look.hand_ground))
        painter.setFont(font("text"))
        painter.setPen(colour(look.soft))
        tall = rect.height() > 1.5 * self.line
        named = _half(rect, 0) if tall else rect
        painter.drawText(named.adjusted(6, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter, row.words)
        sign = "" if row.plain else SIGNS.get(known, "")
        painter.setPen(colour(look.ink if firm or row.plain else look.warns))
        right = _half(rect, 1) if tall else rect.adjusted(rect.width() * NAME_SHARE, 0, 0, 0)
        right = right.adjusted(18 if tall else 6, 0, -6, 0)
        painter.drawText(right, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, sign)
        painter.setFont(font("strong"))
        right.setRight(right.right() - 18)
        words = QFontMetricsF(painter.font()).elidedText(value, Qt.TextElideMode.ElideRight, right.width())
        painter.drawText(right, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_photos(self, painter: QPainter, row: FactRow, rect: QRectF, job: Job) -> None:
        """The photos of a found device, pinned beside it, or that there are none."""
        look = current()
        if row == self.chosen:
            painter.fillRect(rect, colour(look.hand_ground))
        photos = value_of(job, row)
        if not photos:
            painter.setFont(font("label"))
            painter.setPen(colour(look.warns))
            painter.drawText(rect.adjusted(7, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, "No photo yet")
        x = rect.left() + 4
        for digest in photos[:4]:
            picture = self.store.thumbnail(digest)
            box = QRectF(x, rect.top() + 5, rect.height() * 4 / 3 - 8, rect.height() - 8)
            if picture is not None:
                painter.drawPixmap(box, picture, QRectF(picture.rect()))
            painter.setPen(QPen(colour(look.line), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(look.vermilion))
            painter.drawEllipse(QPointF(box.center().x(), box.top()), 3, 3)
            x = box.right() + 8


def _half(rect: QRectF, which: int) -> QRectF:
    """The upper or the lower half."""
    return QRectF(rect.left(), rect.top() + which * rect.height() / 2, rect.width(), rect.height() / 2)
