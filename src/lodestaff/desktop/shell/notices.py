"""Standing words under the bar: they stay until dismissed or cured; a repeat replaces the older one."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from lodestaff.desktop.spoken import announce

Choice = tuple[str, Callable[[], object]]


class Notices(QWidget):
    """One line per notice."""

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._lines: dict[str, QWidget] = {}

    def show_notice(self, key: str, words: str, choices: list[Choice] | None = None) -> None:
        """Show words under a key, with things to do about it."""
        self.settle(key)
        line = QWidget()
        line.setObjectName("notice")
        line.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line.setAccessibleName(words)
        row = QHBoxLayout(line)
        row.setContentsMargins(20, 4, 10, 4)
        text = QLabel(words)
        text.setWordWrap(True)
        text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        row.addWidget(text, 1)
        for name, action in choices or []:
            button = QPushButton(name)
            button.clicked.connect(lambda: self.settle(key))
            button.clicked.connect(lambda _=False, action=action: action())
            row.addWidget(button)
        dismiss = QPushButton("Dismiss")
        dismiss.clicked.connect(lambda: self.settle(key))
        row.addWidget(dismiss)
        announce(self, words)
        self._lines[key] = line
        self._column.addWidget(line)

    def settle(self, key: str) -> None:
        """Take a notice away: what it said is over."""
        line = self._lines.pop(key, None)
        if line is not None:
            line.hide()
            self._column.removeWidget(line)
            line.deleteLater()

    def words(self) -> list[str]:
        return [line.accessibleName() for line in self._lines.values()]
