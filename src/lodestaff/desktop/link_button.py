"""A link in words: they wrap at the width that there is."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy


class LinkButton(QPushButton):
    """Does what a button does, and looks like words."""

    def __init__(self, words: str = "") -> None:
        super().__init__(words)
        self.words = words
        self.setObjectName("link")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def say(self, words: str) -> None:
        """Other words."""
        self.words = words
        self._wrap()

    def minimumSizeHint(self) -> QSize:
        return QSize(40, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._wrap()

    def _wrap(self) -> None:
        """The words in lines that fit."""
        lines, metrics = [""], self.fontMetrics()
        for word in self.words.split():
            longer = f"{lines[-1]} {word}".strip()
            if lines[-1] and metrics.horizontalAdvance(longer) > self.width() - 4:
                lines.append(word)
            else:
                lines[-1] = longer
        if (text := "\n".join(lines)) != self.text():
            self.setText(text)
            self.setMinimumHeight(metrics.height() * len(lines) + 10)
