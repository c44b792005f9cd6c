"""How long each way of backup lasts in each month, as bars against the hours that are wanted."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from lodestaff.desktop.charts import Chart, Mark, Value
from lodestaff.desktop.charts.axes import paint_heights
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, hatch, mark
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.quantities import text_of
from lodestaff.reckoning.strategies import Strategies, Strategy

LETTERS = tuple(name[0] for name in MONTH_NAMES)


def hours_text(hours: float, horizon: float) -> str:
    """Hours as they are known: those that reach the horizon last at least so long."""
    return f"over {text_of(horizon, 'h', 0)}" if hours >= horizon - 1e-6 else text_of(hours, "h", 1)


LEFT, HEAD, FOOT = 40.0, 44.0, 18.0


class MonthBars(Chart):
    """A column for each way; solid bars: on the reserve, outlines: from full. A sign says whether it
    trips."""

    def __init__(self) -> None:
        self.strategies: Strategies | None = None
        super().__init__("Hours that each way of backup lasts, by month")

    def sizeHint(self) -> QSize:
        return QSize(800, 230)

    def minimumSizeHint(self) -> QSize:
        return QSize(480, 170)

    def show_found(self, strategies: Strategies | None) -> None:
        self.strategies = strategies
        self.setAccessibleDescription(
            "; ".join(
                f"{strategy.name}: {hours_text(min(strategy.reserve_h), strategy.horizon_h)} on the reserve "
                "in the worst month"
                for strategy in (strategies.strategies if strategies else ())
            )
        )
        self.update()

    def axes(self) -> tuple[str, ...]:
        return ("way", "month")

    def marks(self) -> list[Mark]:
        return [
            Mark(
                (strategy.name, name),
                (
                    Value("on the reserve", _last(strategy.reserve_h[month], strategy), "h"),
                    Value("from full", _last(strategy.full_h[month], strategy), "h"),
                ),
                self._bar(self._plot(place), month),
            )
            for place, strategy in enumerate(self.strategies.strategies if self.strategies else ())
            for month, name in enumerate(MONTH_NAMES)
        ]

    def _box(self, place: int) -> QRectF:
        """The column of a way."""
        assert self.strategies is not None
        left = LEFT * max(1.0, text_scale())
        width = (self.width() - left) / len(self.strategies.strategies)
        return QRectF(left + place * width, 0, width - 12, self.height())

    def _plot(self, place: int) -> QRectF:
        k = max(1.0, text_scale())
        return self._box(place).adjusted(0, HEAD * k, 0, -FOOT * k)

    def _bar(self, plot: QRectF, month: int) -> QRectF:
        """The whole height of a month."""
        step = plot.width() / 12
        return QRectF(plot.left() + month * step + 2, plot.top(), step - 4, plot.height())

    def paint(self, painter: QPainter) -> None:
        for place, strategy in enumerate(self.strategies.strategies if self.strategies else ()):
            self._head(painter, strategy, self._box(place))
            self._column(painter, strategy, self._plot(place), first=place == 0)

    def _head(self, painter: QPainter, strategy: Strategy, box: QRectF) -> None:
        look, k = current(), max(1.0, text_scale())
        painter.setFont(font("strong"))
        trips = strategy.trip.hours_year > 0
        mark(painter, look, "blocks" if trips else "passed", QRectF(box.left(), 5 * k, 12, 12))
        painter.setPen(colour(look.ink))
        painter.drawText(QPointF(box.left() + 18, 16 * k), strategy.name[0].upper() + strategy.name[1:])
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        words = (
            f"trips in {text_of(strategy.trip.hours_year, 'h', 0)} a year"
            if trips
            else "never trips in the year"
        )
        painter.drawText(QPointF(box.left() + 18, 32 * k), words)

    def _column(self, painter: QPainter, strategy: Strategy, plot: QRectF, first: bool) -> None:
        look, strategies = current(), self.strategies
        assert strategies is not None
        most = max(strategy.horizon_h, strategies.wanted_h) * 1.05
        paint_heights(painter, plot, most, "h" if first else "", values=first)
        for month in range(12):
            bar = self._bar(plot, month)
            full = bar.adjusted(0, bar.height() * (1 - strategy.full_h[month] / most), 0, 0)
            reserve = bar.adjusted(0, bar.height() * (1 - strategy.reserve_h[month] / most), 0, 0)
            painter.setPen(QPen(colour(look.battery), 1))
            painter.setBrush(colour(look.paper))
            painter.drawRect(full)
            painter.fillRect(reserve, colour(look.panel))
            painter.fillRect(reserve, hatch(look, "battery", "slant"))
            painter.setFont(font("small"))
            painter.setPen(colour(look.soft))
            foot = QRectF(bar.left() - 2, plot.bottom() + 3, bar.width() + 4, 13 * max(1.0, text_scale()))
            painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, LETTERS[month])
        self._needed(painter, plot, most)

    def _needed(self, painter: QPainter, plot: QRectF, most: float) -> None:
        """The hours that are wanted, as a line."""
        look, strategies = current(), self.strategies
        assert strategies is not None
        y = plot.bottom() - strategies.wanted_h / most * plot.height()
        painter.setPen(QPen(colour(look.hand), 1.4 * look.stroke, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
        words = f"needed {text_of(strategies.wanted_h, 'h')}"
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
        painter.fillRect(QRectF(plot.right() - wide - 4, y - 14, wide + 4, 12), colour(look.paper, 220))
        painter.setPen(colour(look.hand))
        painter.drawText(QPointF(plot.right() - wide - 2, y - 4), words)


def _last(hours: float, strategy: Strategy) -> float | str:
    """Hours of a mark: those beyond the horizon are known no nearer."""
    return hours_text(hours, strategy.horizon_h) if hours >= strategy.horizon_h - 1e-6 else hours
