"""What stands there or could: a row of switches under the drawing, each adding or taking one thing."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QSizePolicy, QWidget

from lodestaff.desktop.flow import FlowLayout
from lodestaff.templates import Wanted
from lodestaff.templates.at_parts import ADDED, Addition, additions, words_of


class Chips(QWidget):
    """One checkable button for each thing; one that can't stand there says why."""

    picked = Signal(str, str)  # a choice and its new value

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("What stands there too")
        row = FlowLayout(self)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.buttons: dict[str, QPushButton] = {}
        for key in ADDED:
            button = QPushButton("")
            button.setCheckable(True)
            row.addWidget(button)
            self.buttons[key] = button
            button.clicked.connect(partial(self._pick, key))
        self._now: dict[str, Addition] = {}

    def show_wanted(self, wanted: Wanted) -> None:
        """Show what stands there of all that could."""
        self._now = {addition.key: addition for addition in additions(wanted)}
        for key, addition in self._now.items():
            button = self.buttons[key]
            button.setText(addition.words)
            button.setChecked(addition.there)
            button.setEnabled(not addition.why_not)
            button.setToolTip(f"Not so: {addition.why_not}" if addition.why_not else words_of(key))
            button.setAccessibleDescription(button.toolTip())

    def _pick(self, key: str) -> None:
        self.picked.emit(key, self._now[key].value)
