"""A row of the pane of Figures: a figure with its margin bar."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy

from lodestaff.desktop.language import READING, said, tr
from lodestaff.desktop.shell.finding_cards import INDENT, Clickable
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame, mark
from lodestaff.reckoning.figure_rows import FigureRow
from lodestaff.reckoning.readings import Reading

LIMIT_AT = 0.8  # how far along its bar a limit stands
PAD_PX = 4  # within the frame of the focus
OTHER_PX = 8  # of each small bar
MOST_BARS = 6


class ReadingView(Clickable):
    """One figure with its margin bar; of several of a name the worst, with a small bar for each other.

    Click or Enter opens its working, or shows each of several.
    """

    def __init__(self) -> None:
        super().__init__()
        self.row: FigureRow
        self.reading: Reading
        self.before: Reading | None = None
        self.name, self.inner, self.opened = "", False, False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_row(
        self, row: FigureRow, before: Reading | None, of: str, inner: bool = False, opened: bool = False
    ) -> None:
        """Show a row; `before` is what the figure was where a try-out changes it, `of` whose it is.

        `inner` stands below the row of its name, `opened` has its figures below it.
        """
        reading = row.worst
        self.row, self.reading, self.before = row, reading, before
        self.inner, self.opened = inner, opened
        name, beside = said(reading.name, READING), said(reading.beside, READING)
        self.name = of if inner else f"{name}, {of}" if row.count > 1 else name
        whole = f"{name}{f', {of}' if of and (inner or row.count > 1) else ''}"
        times = f", worst of {row.count}, {'shown' if opened else 'folded'}" if row.count > 1 else ""
        self.setAccessibleName(f"{whole}: {reading.text}, {beside}, {tr(reading.status)}{times}")
        self.setToolTip("Click to see each" if row.count > 1 and not opened else "Click for the working")
        self.updateGeometry()
        self.update()

    @property
    def _others(self) -> tuple[Reading, ...]:
        if self.opened:
            return ()
        return tuple(reading for reading in self.row.readings if reading is not self.reading)[:MOST_BARS]

    def sizeHint(self) -> QSize:
        return QSize(200, round(54 * text_scale()) + 2 * PAD_PX + OTHER_PX * len(self._others))

    def paintEvent(self, event: QPaintEvent) -> None:
        look, reading = current(), self.reading
        painter = QPainter(self)
        left = INDENT if self.inner else 0
        k, width = text_scale(), self.width() - left - 2 * PAD_PX
        painter.translate(left + PAD_PX, PAD_PX)
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        metrics = QFontMetricsF(painter.font())
        words = said(reading.beside, READING)
        beside = metrics.horizontalAdvance(words)
        name = metrics.elidedText(self.name, Qt.TextElideMode.ElideRight, width - beside - 10)
        painter.drawText(QRectF(0, 0, width, 15 * k), Qt.AlignmentFlag.AlignLeft, name)
        painter.drawText(QRectF(0, 0, width, 15 * k), Qt.AlignmentFlag.AlignRight, words)
        value, _, unit = reading.text.partition(" ")
        painter.setFont(font("reading"))
        painter.setPen(colour(look.ink))
        painter.drawText(
            QRectF(0, 14 * k, width, 28 * k),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            value,
        )
        x = QFontMetricsF(painter.font()).horizontalAdvance(value) + 6
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        painter.drawText(QRectF(x, 21 * k, 60 * k, 20 * k), Qt.AlignmentFlag.AlignLeft, unit)
        if self.before is not None and self.before.text != reading.text:
            painter.setPen(colour(look.hand))
            painter.drawText(
                QRectF(0, 21 * k, width - 20, 20 * k), Qt.AlignmentFlag.AlignRight, f"was {self.before.text}"
            )
        mark(painter, look, reading.status, QRectF(width - 13, 22 * k, 11, 11))
        _bar(painter, reading, QRectF(0, 46 * k, width, 5))
        for place, other in enumerate(self._others, start=1):
            _bar(painter, other, QRectF(0, 46 * k + 2 + OTHER_PX * place, width, 3))
        painter.resetTransform()
        if self.hasFocus():
            focus_frame(painter, look, QRectF(self.rect()).adjusted(1, 1, -1, -1))
        painter.end()


def _bar(painter: QPainter, reading: Reading, at: QRectF) -> None:
    """How far a figure is along, with its limit where it has one."""
    look = current()
    painter.fillRect(at, colour(look.rest))
    share = min(1.0, max(0.0, reading.share * (LIMIT_AT if reading.limited else 1.0)))
    along = QRectF(at.left(), at.top(), at.width() * share, at.height())
    painter.fillRect(along, colour(getattr(look, reading.status)))
    if reading.limited:
        limit = QRectF(at.left() + at.width() * LIMIT_AT - 1, at.top() - 3, 2, at.height() + 6)
        painter.fillRect(limit, colour(look.ink))
