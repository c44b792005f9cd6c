"""What pages have in common that take the station's place for a while: a title, a way back, Escape."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget


class SidePage(QWidget):
    """Subclasses add to `column`; buttons between title and the way back go into `head`."""

    closed = Signal()

    def __init__(self, title: str, *buttons: QPushButton) -> None:
        super().__init__()
        self.setObjectName("surface")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(18, 8, 14, 8)
        self.head = QHBoxLayout()
        self.title = QLabel(title)
        self.title.setObjectName("title")
        back = QPushButton("Back to the station · Esc")
        back.clicked.connect(self.closed)
        self.head.addWidget(self.title, 1)
        for button in (*buttons, back):
            self.head.addWidget(button)
        self.column.addLayout(self.head)

    def open(self) -> None:
        """Ask anew for what it shows; nothing where it only shows."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)
