"""The moment: season, hour, sky, grid, state of charge. Every station answers for it."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QAccessible, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QBoxLayout,
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.quantities.convention import plain
from lodestaff.quantities.units import clock
from lodestaff.reckoning import Sky

TWO_ROWS = 1.45  # text scale from which the bar takes two rows
SOC_CHOICES = (None, 1.0, 0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2)


class HourLine(QWidget):
    """The day's sun as an arc over the hours; drag or use the arrow keys to set the hour."""

    moved = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Hour of the day")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip("Hour of the day (standard time), with the day's sun")
        self.hour = 0.0
        self.sun: tuple[float, ...] = ()

    def sizeHint(self) -> QSize:
        return QSize(220, 46)

    def minimumSizeHint(self) -> QSize:
        return QSize(120, 46)

    def spoken(self) -> list[Spoken]:
        """The hour, as a slider."""
        return [
            Spoken(
                "hour", "hour", QRectF(self.rect()), clock(self.hour), QAccessible.Role.Slider, chosen=True
            )
        ]

    def _x(self, hour: float) -> float:
        return 10 + hour / 24 * (self.width() - 20)

    def _set(self, hour: float) -> None:
        hour = min(23.75, max(0.0, round(hour * 4) / 4))
        if hour != self.hour:
            self.moved.emit(hour)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._set((event.position().x() - 10) / (self.width() - 20) * 24)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._set((event.position().x() - 10) / (self.width() - 20) * 24)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Right: 0.25,
            Qt.Key.Key_Left: -0.25,
            Qt.Key.Key_PageUp: 3.0,
            Qt.Key.Key_PageDown: -3.0,
        }
        step = steps.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self._set(self.hour + step)

    def paintEvent(self, event: QPaintEvent) -> None:
        look = current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        base = self.height() - 15.0
        most = max(self.sun, default=0.0)
        if most > 0:
            path = QPainterPath(QPointF(self._x(0), base))
            for index, value in enumerate(self.sun):
                path.lineTo(self._x(index * 24 / len(self.sun)), base - value / most * (base - 5))
            path.lineTo(self._x(24), base)
            painter.setPen(QPen(colour(look.sun), 1.2 * look.stroke))
            painter.drawPath(path)
        painter.setPen(QPen(colour(look.ink), look.stroke))
        painter.drawLine(QPointF(self._x(0), base), QPointF(self._x(24), base))
        painter.setFont(font("small"))
        for hour in (0, 6, 12, 18, 24):
            painter.setPen(colour(look.soft))
            painter.drawText(
                QRectF(self._x(hour) - 14, base + 1, 28, 14), Qt.AlignmentFlag.AlignCenter, str(hour)
            )
        painter.fillRect(QRectF(self._x(self.hour) - 3, base - 11, 6, 15), colour(look.hand))
        if self.hasFocus():
            focus_frame(painter, look, QRectF(self.rect()).adjusted(1, 1, -1, -1))
        painter.end()


class MomentBar(QWidget):
    """The bar above every station."""

    def __init__(self, store: Store) -> None:
        super().__init__()
        self.setObjectName("bar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.store = store
        self.title = QLabel("")
        self.words = QLabel("")
        self.month = QComboBox()
        self.month.setAccessibleName("Month")
        self.month.addItems([name[:3] for name in MONTH_NAMES])
        self.hour = HourLine()
        self.skies = QButtonGroup(self)
        self.grid = QPushButton("grid on")
        self.grid.setCheckable(True)
        self.grid.setObjectName("grid")
        self.grid.setAccessibleName("Grid off (outage)")
        self.soc = QComboBox()
        self.soc.setAccessibleName("State of charge")
        self.soc.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        for choice in SOC_CHOICES:
            self.soc.addItem(
                "SoC simulated · 00 %" if choice is None else f"SoC {plain(choice * 100, 0)} %", choice
            )
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._lay_out()
        self.month.activated.connect(lambda index: store.set_moment(month=index + 1))
        self.hour.moved.connect(lambda hour: store.set_moment(hour=hour))
        self.grid.toggled.connect(lambda off: store.set_moment(grid=not off))
        self.soc.activated.connect(lambda index: store.set_moment(soc=self.soc.itemData(index)))
        store.moment_changed.connect(self.refresh)
        store.results_changed.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        self.rows = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self.rows.setContentsMargins(20, 4, 12, 4)
        self.rows.setSpacing(8)
        row, second = QHBoxLayout(), QHBoxLayout()
        for line in (row, second):
            line.setSpacing(8)
            self.rows.addLayout(line, 1 if line is row else 0)
        self.title.setObjectName("title")
        self.words.setObjectName("strong")
        row.addWidget(self.title)
        row.addStretch(1)
        label = QLabel("Moment")
        label.setObjectName("soft")
        column = QVBoxLayout()
        column.setSpacing(0)
        column.addWidget(label)
        column.addWidget(self.words)
        row.addLayout(column)
        row.addWidget(self.month)
        row.addWidget(self.hour, 3)
        for sky in Sky:
            button = QPushButton(str(sky))
            button.setCheckable(True)
            button.setAccessibleName(f"Sky {sky}")
            button.clicked.connect(lambda _=False, sky=sky: self.store.set_moment(sky=sky))
            self.skies.addButton(button)
            second.addWidget(button)
        second.addWidget(self.grid)
        second.addWidget(self.soc)

    def show_station(self, name: str) -> None:
        self.title.setText(name)

    def refresh(self) -> None:
        """Show the store's moment."""
        moment, results = self.store.moment, self.store.results
        large = text_scale() >= TWO_ROWS
        self.rows.setDirection(
            QBoxLayout.Direction.TopToBottom if large else QBoxLayout.Direction.LeftToRight
        )
        enabled = self.store.job is not None
        for widget in (self.month, self.hour, self.grid, self.soc, *self.skies.buttons()):
            widget.setEnabled(enabled)
        self.words.setText(clock(moment.hour))
        self.month.setCurrentIndex(moment.month - 1)
        self.hour.hour = moment.hour
        self.hour.sun = tuple(results.sun_day_kw) if results else ()
        self.hour.update()
        for sky, button in zip(Sky, self.skies.buttons(), strict=True):
            button.setChecked(sky is moment.sky)
        self.grid.setVisible(self.store.job is None or self.store.job.mains.grid)
        self.grid.blockSignals(True)
        self.grid.setChecked(not moment.grid)
        self.grid.setText("grid on" if moment.grid else "grid off")
        self.grid.blockSignals(False)
        index = next((i for i, choice in enumerate(SOC_CHOICES) if choice == moment.soc), 0)
        self.soc.setCurrentIndex(index)
        simulated = f" · {plain(results.soc_now * 100, 0)} %" if results and moment.soc is None else ""
        self.soc.setItemText(0, f"SoC simulated{simulated}")
