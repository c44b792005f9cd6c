"""The ride-through map: months down, hours of the start along, how long the backed-up circuits last."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QAccessible, QPainter

from lodestaff.desktop.charts import ChartHand, Mark, Value
from lodestaff.desktop.language import tr
from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.ride_map import RideMap

LEFT, TOP, FOOT = 96.0, 40.0, 22.0
ANY_PX, LINE_PX = 16_777_215, 60
SHADE = 150  # of 255, of what lasts longest
NONE = "No backup here: nothing lives in an outage."
OF_TEN = "Hours that nine of ten outages last, by when they begin"


class RideView(Surface):
    """Rows of months, columns of hours; the share of outages survived above."""

    least = (500, 60)

    def __init__(self, store: Store) -> None:
        super().__init__(store, tr("How long the backed-up circuits last"), tr(OF_TEN))
        self.rides: RideMap | None = None
        self.instead = tr("Outages all over the year are being reckoned…")
        self.hand = ChartHand(self, arrows=True)

    def show_map(self, rides: RideMap | None) -> None:
        self.rides, self.instead = rides, "" if rides else tr(NONE)
        self.setMaximumHeight(ANY_PX if rides else LINE_PX)  # a line is enough where there is none
        self.update()

    def cell_rect(self, month: int, start: int) -> QRectF:
        """Where a cell stands."""
        assert self.rides is not None
        top = TOP * max(1.0, text_scale())
        w = (self.width() - LEFT - 12) / len(self.rides.starts_h)
        h = (self.height() - top - FOOT) / 12
        return QRectF(LEFT + start * w, top + month * h, w, h)

    def words_of(self, month: int, start: int) -> str:
        """A cell in a line."""
        assert self.rides is not None
        hours, median = self.rides.hours[month, start], self.rides.median[month, start]
        return (
            f"{MONTH_NAMES[month]}, from {self.rides.starts_h[start]}:00: nine of ten last "
            f"{self._hours(hours)}, half of them {self._hours(median)}"
        )

    def survived(self) -> str:
        """The shares in a line."""
        assert self.rides is not None
        shares = (
            tr("{share} % of {h}", share=plain(100 * share, 0), h=text_of(h, "h"))
            for h, share in self.rides.survived.items()
        )
        return tr(
            "{name}: outages survived, all year: {shares}", name=self.rides.name, shares=" · ".join(shares)
        )

    def _hours(self, hours: float) -> str:
        assert self.rides is not None
        over = hours >= self.rides.followed_h
        return f"{plain(self.rides.followed_h)} h or more" if over else text_of(hours, "h")

    def axes(self) -> tuple[str, ...]:
        return ("month", "begins")

    def marks(self) -> list[Mark]:
        """Each cell."""
        rides = self.rides
        if rides is None:
            return []
        return [
            Mark(
                (MONTH_NAMES[month], f"{hour}:00"),
                (
                    Value("nine of ten last", self._known(rides.hours[month, start]), "h"),
                    Value("half of them", self._known(rides.median[month, start]), "h"),
                ),
                self.cell_rect(month, start),
            )
            for month in range(12)
            for start, hour in enumerate(rides.starts_h)
        ]

    def _known(self, hours: float) -> float | str:
        return self._hours(hours) if self.rides and hours >= self.rides.followed_h else float(hours)

    def spoken(self) -> list[Spoken]:
        """Each cell."""
        if self.rides is None:
            return []
        read = self.hand.mark.where if self.hand.mark else None
        return [
            Spoken((month, start), self.words_of(month, start), self.cell_rect(month, start),
                   role=QAccessible.Role.Cell, chosen=read == (MONTH_NAMES[month], f"{hour}:00"))
            for month in range(12) for start, hour in enumerate(self.rides.starts_h)
        ]  # fmt: skip

    def paint(self, painter: QPainter) -> None:
        look = current()
        painter.setPen(colour(look.ink))
        if self.rides is None:
            painter.setFont(font("text"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.instead)
            return
        rides, scale = self.rides, max(1.0, text_scale())
        painter.setFont(font("label"))
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(12, 0, self.width() - 24, 18 * scale), left, self.survived())
        painter.setFont(font("small"))
        painter.setPen(colour(look.soft))
        for start, hour in enumerate(rides.starts_h):
            box = self.cell_rect(0, start)
            painter.drawText(
                QRectF(box.left(), box.top() - 18 * scale, box.width(), 16 * scale),
                Qt.AlignmentFlag.AlignCenter,
                f"{hour}:00",
            )
        line = painter.fontMetrics().height()
        for month in range(12):
            row = self.cell_rect(month, 0)
            if row.height() >= line or month % 2 == 0:
                painter.setPen(colour(look.soft))
                name = QRectF(0, row.top(), LEFT - 10, max(row.height(), line))
                painter.drawText(
                    name, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, tr(MONTH_NAMES[month])[:3]
                )
            for start in range(len(rides.starts_h)):
                box, hours = self.cell_rect(month, start), float(rides.hours[month, start])
                share = min(1.0, hours / rides.followed_h)
                painter.fillRect(box.adjusted(1, 1, -1, -1), colour(look.battery, round(SHADE * share)))
                if row.height() >= line:
                    painter.setPen(colour(look.ink))
                    text = (
                        f"{plain(rides.followed_h)}+" if share >= 1 else plain(hours, 1 if hours < 10 else 0)
                    )
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        painter.setPen(colour(look.soft))
        foot = QRectF(12, self.height() - FOOT, self.width() - 24, FOOT)
        painter.drawText(foot, left, tr("{hint}; batteries as the year leaves them.", hint=tr(OF_TEN)))
