"""The command finder: type a few letters of what you want, Enter does it."""

from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

MOST_SHOWN = 200


class Entry(NamedTuple):
    """What can be found: its words, what stands beside them, what it does, other words for it."""

    words: str
    beside: str
    do: Callable[[], object]
    also: str = ""


def matching(entries: list[Entry], typed: str) -> list[Entry]:
    """Entries that hold every typed word; those whose own words do come first, then by how they begin."""
    words = typed.lower().split()

    def holds(entry: Entry, among: str) -> bool:
        return all(word in among for word in words)

    def rank(entry: Entry) -> tuple[bool, bool]:
        own = entry.words.lower()
        return not holds(entry, own), not own.startswith(words[0] if words else "")

    matches = [
        entry for entry in entries if holds(entry, f"{entry.words} {entry.beside} {entry.also}".lower())
    ]
    return sorted(matches, key=rank)


class Finder(QFrame):
    """A line to type in and the commands that fit, laid over the window; Esc or another click closes it."""

    def __init__(self, entries: list[Entry], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("finder")
        self.setAccessibleName("Find anything")
        self.entries = entries
        self.line = QLineEdit()
        self.line.setPlaceholderText("What do you look for, or want to do?")
        self.line.setAccessibleName("Command")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands that fit")
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        column.addWidget(self.line)
        column.addWidget(self.list)
        self.setFixedSize(460, 360)
        self.line.textChanged.connect(self._fill)
        self.line.installEventFilter(self)
        self.list.itemActivated.connect(lambda _: self._do())
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._fill("")

    def _fill(self, typed: str) -> None:
        self.list.clear()
        for entry in matching(self.entries, typed)[:MOST_SHOWN]:
            item = QListWidgetItem(f"{entry.words}    {entry.beside}" if entry.beside else entry.words)
            item.setData(Qt.ItemDataRole.UserRole, entry.do)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusOut:
            self.close_finder()
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape:
                self.close_finder()
                return True
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step is not None and self.list.count():
                self.list.setCurrentRow((self.list.currentRow() + step) % self.list.count())
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do()
                return True
        return super().eventFilter(watched, event)

    def close_finder(self) -> None:
        if self.isVisible():
            self.hide()
            self.deleteLater()

    def _do(self) -> None:
        item = self.list.currentItem()
        self.close_finder()
        if item is not None:
            item.data(Qt.ItemDataRole.UserRole)()
