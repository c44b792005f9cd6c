"""The mean day of each month as it was logged, against what the circuits come to."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen

from lodestaff.desktop.charts import Chart, Mark, Value
from lodestaff.desktop.charts.axes import paint_heights
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, hatch
from lodestaff.energy.calendar import MONTH_NAMES, Floats
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.metered import Reconciled

LEFT = 44.0


class LoggedDays(Chart):
    """Twelve small days: ruled ground is logged and explained, slanted is in no circuit; the line is the
    circuits'."""

    def __init__(self) -> None:
        self.explained: Reconciled | None = None
        self.weekend = False
        super().__init__("Mean day of each month: logged, and by the circuits")

    def sizeHint(self) -> QSize:
        return QSize(800, 300)

    def minimumSizeHint(self) -> QSize:
        return QSize(480, 200)

    def show_found(self, explained: Reconciled | None, weekend: bool = False) -> None:
        self.explained, self.weekend = explained, weekend
        if explained is not None:
            self.setAccessibleDescription(
                f"{plain(explained.measured_kwh, 0)} kWh logged a year, "
                f"{plain(explained.unexplained_kwh, 0)} of them in no circuit"
            )
        self.update()

    def axes(self) -> tuple[str, ...]:
        return ("month", "hour")

    def marks(self) -> list[Mark]:
        if self.explained is None:
            return []
        logged, circuits = self._days()
        strokes = []
        for month, name in enumerate(MONTH_NAMES):
            plot = self._plot(month)
            step = plot.width() / 24
            strokes += [
                Mark(
                    (name, f"{hour:02d}:00"),
                    (
                        Value("logged", float(logged[month, hour]), "kW"),
                        Value("by the circuits", float(circuits[month, hour]), "kW"),
                    ),
                    QRectF(plot.left() + hour * step, plot.top(), step, plot.height()),
                )
                for hour in range(24)
            ]
        return strokes

    def _days(self) -> tuple[Floats, Floats]:
        """Logged and by the circuits, kW: months x hours."""
        assert self.explained is not None
        kind = 1 if self.weekend else 0
        return self.explained.logged_kw[:, kind], self.explained.circuits_kw[:, kind]

    def _box(self, month: int) -> QRectF:
        left = LEFT * max(1.0, text_scale())
        wide, high = (self.width() - left) / 6, self.height() / 2
        return QRectF(left + month % 6 * wide, month // 6 * high + 2, wide - 10, high - 6)

    def _plot(self, month: int) -> QRectF:
        k = max(1.0, text_scale())
        return self._box(month).adjusted(0, 17 * k, 0, -15 * k)

    def paint(self, painter: QPainter) -> None:
        look = current()
        if self.explained is None:
            painter.setFont(font("label"))
            painter.setPen(colour(look.soft))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "no interval data yet")
            return
        logged, circuits = self._days()
        highest = float(np.nanmax(np.where(np.isfinite(logged), logged, 0)))
        most = max(0.1, highest, float(circuits.max())) * 1.08
        for month in range(12):
            self._month(painter, month, logged=logged[month], circuits=circuits[month], most=most)

    def _month(self, painter: QPainter, month: int, logged: Floats, circuits: Floats, most: float) -> None:
        look, box, plot = current(), self._box(month), self._plot(month)
        first = month % 6 == 0
        paint_heights(painter, plot, most, "kW" if first else "", values=first)
        painter.setFont(font("label"))
        painter.setPen(colour(look.ink))
        painter.drawText(QPointF(box.left(), box.top() + 12 * max(1.0, text_scale())), MONTH_NAMES[month])
        step = plot.width() / 24

        def y(kw: float) -> float:
            return plot.bottom() - kw / most * plot.height()

        painter.setPen(QPen(colour(look.line), 1))
        painter.drawLine(plot.bottomLeft(), plot.bottomRight())
        if not np.isfinite(logged).any():
            painter.setPen(colour(look.soft))
            painter.drawText(plot, Qt.AlignmentFlag.AlignCenter, "not logged")
        for hour in range(24):
            if np.isfinite(logged[hour]):
                kw, known = float(logged[hour]), min(float(logged[hour]), float(circuits[hour]))
                x = plot.left() + hour * step
                painter.fillRect(
                    QRectF(x, y(known), step + 0.5, plot.bottom() - y(known)), hatch(look, "grid")
                )
                if kw > known:
                    painter.fillRect(
                        QRectF(x, y(kw), step + 0.5, y(known) - y(kw)), hatch(look, "lost", "slant")
                    )
        painter.setPen(QPen(colour(look.hand), 1.6 * look.stroke))
        line = [
            point
            for hour in range(24)
            for point in (
                QPointF(plot.left() + hour * step, y(float(circuits[hour]))),
                QPointF(plot.left() + (hour + 1) * step, y(float(circuits[hour]))),
            )
        ]
        painter.drawPolyline(line)
        painter.setFont(font("small"))
        painter.setPen(colour(look.soft))
        for hour in (0, 6, 12, 18):
            painter.drawText(
                QRectF(plot.left() + hour * step - 15, plot.bottom() + 1, 30, 13),
                Qt.AlignmentFlag.AlignCenter,
                f"{hour}",
            )
