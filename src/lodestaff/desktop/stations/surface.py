"""What every drawing that is worked on has in common: focus, mouse, size, ground."""

from PySide6.QtCore import QEvent, QRectF, QSize, Qt
from PySide6.QtGui import QFocusEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, text_scale
from lodestaff.desktop.theme.paint import colour, corners


class Surface(QWidget):
    """A drawing that observes the store. Subclasses lay out in `refresh` and paint in `paint`."""

    least = (500, 320)  # smallest useful size at text scale 1

    def __init__(self, store: Store, name: str, description: str) -> None:
        super().__init__()
        self.store = store
        self.setAccessibleName(name)
        self.setAccessibleDescription(description)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        return QSize(820, 620)

    def minimumSizeHint(self) -> QSize:
        return QSize(self.least[0], round(self.least[1] * max(1.0, text_scale())))

    def refresh(self) -> None:
        """Lay out anew from the store."""
        self.update()

    def paint(self, painter: QPainter) -> None:
        """Paint what `refresh` laid out; called only while a job is open."""
        raise NotImplementedError

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(current().paper))
        if self.has_something():
            self.paint(painter)
        painter.resetTransform()
        if self.hasFocus():
            corners(painter, current(), QRectF(self.rect()))
        painter.end()

    def has_something(self) -> bool:
        """Whether there is something to paint: a job."""
        return self.store.job is not None

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.refresh()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self.update()
