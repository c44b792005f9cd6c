"""What a reading is held against, as a scale: its bounds as a band, what is expected as a stroke, the reading
as a mark upon it."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from lodestaff.commissioning.expect import Expected
from lodestaff.commissioning.words import bounds_words
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour
from lodestaff.quantities import text_of

BESIDE = 0.6  # of the band's width, that is shown to each side of it
SIDE_PX = 10.0


def number(value: float, unit: str) -> str:
    """A value of the scale with its unit, as short as it stays plain."""
    size = abs(value)
    return text_of(value, unit, 0 if size >= 100 or unit == "modules" else 1 if size >= 10 else 2)


def reach(expected: Expected, value: float | None) -> tuple[float, float]:
    """From where to where the scale goes: the band with room beside it, and the reading where it is near."""
    low = expected.low if expected.low is not None else min(0.0, expected.high or 0.0)
    high = expected.high if expected.high is not None else max(2 * low, low + 1)
    room = BESIDE * max(high - low, abs(expected.value) * 0.02, 1e-6)
    left, right = low - room, high + room
    if value is not None and left - 2 * room < value < right + 2 * room:
        left, right = min(left, value - room / 4), max(right, value + room / 4)
    return left, right


class ExpectedScale(QWidget):
    """The band within which a reading passes, and where the reading lies."""

    def __init__(self) -> None:
        super().__init__()
        self.expected: Expected | None = None
        self.value: float | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("What the reading is held against")

    def sizeHint(self) -> QSize:
        return QSize(320, round(58 * text_scale()))

    def minimumSizeHint(self) -> QSize:
        return QSize(160, round(58 * text_scale()))

    def show_band(self, expected: Expected | None, value: float | None) -> None:
        """Show the band of an expectation, with a reading if there is one."""
        self.expected, self.value = expected, value
        words = bounds_words(expected) if expected is not None else ""
        if expected is not None and value is not None:
            words += (
                f"; the reading {text_of(value, expected.unit)}, {'inside' if self._inside() else 'outside'}"
            )
        self.setAccessibleDescription(words)
        self.setVisible(expected is not None)
        self.updateGeometry()
        self.update()

    def _inside(self) -> bool:
        expected, value = self.expected, self.value
        if expected is None or value is None:
            return False
        above = expected.low is None or value >= expected.low
        return above and (expected.high is None or value <= expected.high)

    def _x(self, value: float) -> float:
        assert self.expected is not None
        left, right = reach(self.expected, self.value)
        share = min(1.0, max(0.0, (value - left) / (right - left)))
        return SIDE_PX + share * (self.width() - 2 * SIDE_PX)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.expected is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look, expected = current(), self.expected
        left, right = reach(expected, self.value)
        axis = self.height() * 0.52
        band = QRectF(
            self._x(expected.low if expected.low is not None else left),
            axis - 7,
            self._x(expected.high if expected.high is not None else right)
            - self._x(expected.low if expected.low is not None else left),
            14,
        )
        painter.fillRect(band, colour(look.passed, 60))
        painter.setPen(QPen(colour(look.ink), look.stroke))
        painter.drawLine(QPointF(SIDE_PX, axis), QPointF(self.width() - SIDE_PX, axis))
        painter.setPen(QPen(colour(look.passed), 2 * look.stroke))
        for bound in (expected.low, expected.high):
            if bound is not None:
                painter.drawLine(QPointF(self._x(bound), axis - 9), QPointF(self._x(bound), axis + 9))
        if expected.low is not None and expected.high is not None:
            painter.setPen(QPen(colour(look.ink), look.stroke, Qt.PenStyle.DotLine))
            at = self._x(expected.value)
            painter.drawLine(QPointF(at, axis - 9), QPointF(at, axis + 9))
        self._numbers(painter, axis)
        if self.value is not None:
            self._mark(painter, axis)
        painter.end()

    def _numbers(self, painter: QPainter, axis: float) -> None:
        """The bounds in figures, below; they give way to each other."""
        assert self.expected is not None
        painter.setFont(font("label"))
        painter.setPen(colour(current().ink))
        metrics, taken = QFontMetricsF(font("label")), -1e9
        bounds = [bound for bound in (self.expected.low, self.expected.high) if bound is not None]
        for bound in dict.fromkeys(bounds):
            words = number(bound, self.expected.unit)
            width = metrics.horizontalAdvance(words)
            at = min(max(self._x(bound) - width / 2, 0.0), self.width() - width)
            if at > taken:
                painter.drawText(QPointF(at, axis + 12 + metrics.ascent()), words)
                taken = at + width + 8

    def _mark(self, painter: QPainter, axis: float) -> None:
        """The reading: a filled arrow from above, in ink within the band, in the colour of a failure outside;
        lying on its side where it is off the scale."""
        assert self.expected is not None
        assert self.value is not None
        look, at = current(), self._x(self.value)
        left, right = reach(self.expected, self.value)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(look.ink if self._inside() else look.blocks))
        if left <= self.value <= right:
            tip = [QPointF(at, axis - 2), QPointF(at - 7, axis - 16), QPointF(at + 7, axis - 16)]
        else:
            out = 8.0 if self.value > right else -8.0
            tip = [QPointF(at + out, axis - 9), QPointF(at, axis - 16), QPointF(at, axis - 2)]
        painter.drawPolygon(QPolygonF(tip))
