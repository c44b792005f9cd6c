"""A chart by itself: its marks are read by eye, hand, keys and ear."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QAccessible, QFocusEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from lodestaff.desktop.charts.hand import ChartHand
from lodestaff.desktop.charts.mark import Mark
from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour, corners


class Chart(QWidget):
    """Subclasses paint in `paint`, and say what is there in `marks`."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.hand = ChartHand(self, arrows=True)

    def axes(self) -> tuple[str, ...]:
        """What each part of a mark's place is."""
        raise NotImplementedError

    def marks(self) -> list[Mark]:
        """All that can be read, in the order of reading."""
        raise NotImplementedError

    def paint(self, painter: QPainter) -> None:
        """Paint the values on clean ground."""
        raise NotImplementedError

    def spoken(self) -> list[Spoken]:
        """Each mark."""
        read = self.hand.mark.where if self.hand.mark else None
        return [
            Spoken(
                key=mark.where,
                name=", ".join(mark.where),
                value="; ".join(mark.lines()[1:]),
                rect=mark.rect,
                role=QAccessible.Role.Cell,
                chosen=mark.where == read,
            )
            for mark in self.marks()
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(current().paper))
        self.paint(painter)
        painter.resetTransform()
        if self.hasFocus():
            corners(painter, current(), QRectF(self.rect()))
        painter.end()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()
