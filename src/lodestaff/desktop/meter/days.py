"""The mean day of each month as it was logged, against what the circuits come to."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from lodestaff.desktop.theme import current, font
from lodestaff.desktop.theme.paint import colour, hatch
from lodestaff.energy.calendar import MONTH_NAMES, Floats
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.metered import Reconciled


class LoggedDays(QWidget):
    """Twelve small days: ruled ground is logged and explained, slanted is in no circuit; the line is the
    circuits'."""

    def __init__(self) -> None:
        super().__init__()
        self.found: Reconciled | None = None
        self.weekend = False
        self.setAccessibleName("Mean day of each month: logged, and by the circuits")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(800, 300)

    def minimumSizeHint(self) -> QSize:
        return QSize(480, 200)

    def show_found(self, found: Reconciled | None, weekend: bool = False) -> None:
        self.found, self.weekend = found, weekend
        if found is not None:
            self.setAccessibleDescription(
                f"{plain(found.measured_kwh, 0)} kWh logged a year, {plain(found.unexplained_kwh, 0)} of "
                "them in no circuit"
            )
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        look = current()
        painter.fillRect(self.rect(), colour(look.paper))
        if self.found is None:
            painter.setFont(font("label"))
            painter.setPen(colour(look.soft))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "no interval data yet")
        else:
            kind = 1 if self.weekend else 0
            logged, circuits = self.found.logged_kw[:, kind], self.found.circuits_kw[:, kind]
            most = (
                max(0.1, float(np.nanmax(np.where(np.isfinite(logged), logged, 0))), float(circuits.max()))
                * 1.08
            )
            wide, high = self.width() / 6, self.height() / 2
            for month in range(12):
                box = QRectF(month % 6 * wide + 5, month // 6 * high + 2, wide - 10, high - 6)
                self._month(
                    painter, box, month=month, logged=logged[month], circuits=circuits[month], most=most
                )
        painter.end()

    def _month(
        self, painter: QPainter, box: QRectF, month: int, logged: Floats, circuits: Floats, most: float
    ) -> None:
        look = current()
        painter.setFont(font("label"))
        painter.setPen(colour(look.ink))
        painter.drawText(QPointF(box.left(), box.top() + 12), MONTH_NAMES[month])
        plot = QRectF(box.left(), box.top() + 17, box.width(), box.height() - 32)
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
        painter.drawText(
            QRectF(plot.right() - 60, box.top() + 1, 60, 13),
            Qt.AlignmentFlag.AlignRight,
            f"to {plain(most, 1)} kW",
        )
