"""How long each way of backup lasts in each month, as bars against the hours that are wanted."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from lodestaff.desktop.theme import current, font
from lodestaff.desktop.theme.paint import colour, hatch, mark
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.quantities import text_of
from lodestaff.reckoning.strategies import Strategies, Strategy

LETTERS = tuple(name[0] for name in MONTH_NAMES)


def hours_text(hours: float, horizon: float) -> str:
    """Hours as they are known: those that reach the horizon last at least so long."""
    return f"over {text_of(horizon, 'h', 0)}" if hours >= horizon - 1e-6 else text_of(hours, "h", 1)


class MonthBars(QWidget):
    """A column for each way; solid bars: on the reserve, outlines: from full. A sign says whether it
    trips."""

    def __init__(self) -> None:
        super().__init__()
        self.found: Strategies | None = None
        self.setAccessibleName("Hours that each way of backup lasts, by month")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(800, 230)

    def minimumSizeHint(self) -> QSize:
        return QSize(480, 170)

    def show_found(self, found: Strategies | None) -> None:
        self.found = found
        self.setAccessibleDescription(
            "; ".join(
                f"{strategy.name}: {hours_text(min(strategy.reserve_h), strategy.horizon_h)} on the reserve "
                "in the worst month"
                for strategy in (found.strategies if found else ())
            )
        )
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(current().paper))
        if self.found is not None:
            width = self.width() / len(self.found.strategies)
            for index, strategy in enumerate(self.found.strategies):
                self._column(painter, strategy, QRectF(index * width + 6, 0, width - 12, self.height()))
        painter.end()

    def _column(self, painter: QPainter, strategy: Strategy, box: QRectF) -> None:
        look, found = current(), self.found
        assert found is not None
        painter.setFont(font("strong"))
        painter.setPen(colour(look.ink))
        trips = strategy.trip.hours_year > 0
        mark(painter, look, "blocks" if trips else "passed", QRectF(box.left(), 5, 12, 12))
        painter.setPen(colour(look.ink))
        painter.drawText(QPointF(box.left() + 18, 16), strategy.name[0].upper() + strategy.name[1:])
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        words = (
            f"trips in {text_of(strategy.trip.hours_year, 'h', 0)} a year"
            if trips
            else "never trips in the year"
        )
        painter.drawText(QPointF(box.left() + 18, 32), words)
        plot = QRectF(box.left(), 44, box.width(), box.height() - 62)
        top = max(strategy.horizon_h, found.wanted_h) * 1.05
        step = plot.width() / 12
        painter.setPen(QPen(colour(look.line), 1))
        painter.drawLine(plot.bottomLeft(), plot.bottomRight())
        for month in range(12):
            x = plot.left() + month * step + 2
            full, reserve = (
                strategy.full_h[month] / top * plot.height(),
                strategy.reserve_h[month] / top * plot.height(),
            )
            painter.setPen(QPen(colour(look.battery), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(x, plot.bottom() - full, step - 4, full))
            painter.fillRect(QRectF(x, plot.bottom() - reserve, step - 4, reserve), colour(look.panel))
            painter.fillRect(
                QRectF(x, plot.bottom() - reserve, step - 4, reserve), hatch(look, "battery", "slant")
            )
            painter.setFont(font("small"))
            painter.setPen(colour(look.soft))
            painter.drawText(
                QRectF(x - 2, plot.bottom() + 3, step, 13), Qt.AlignmentFlag.AlignCenter, LETTERS[month]
            )
        y = plot.bottom() - found.wanted_h / top * plot.height()
        painter.setPen(QPen(colour(look.hand), 1.4 * look.stroke, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
        words = f"needed {text_of(found.wanted_h, 'h')}"
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
        painter.fillRect(QRectF(plot.right() - wide - 4, y - 14, wide + 4, 12), colour(look.paper, 220))
        painter.setPen(colour(look.hand))
        painter.drawText(QPointF(plot.right() - wide - 2, y - 4), words)
