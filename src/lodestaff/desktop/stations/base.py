"""What every station has: a drawing that is worked on, a table that is its equal, readings, findings."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSplitter, QVBoxLayout, QWidget

from lodestaff.checks import Finding
from lodestaff.desktop.flow import FlowLayout
from lodestaff.desktop.language import tr
from lodestaff.desktop.store import Store
from lodestaff.reckoning.findings import station_of
from lodestaff.reckoning.readings import Reading


class StationView(QWidget):
    """A station: the frame of its drawing and table, which each station makes and hands over, and its
    readings."""

    id = ""
    hint = ""
    crowded = False  # it has buttons: the hint stands on a line of its own
    action_wanted = Signal(str)  # an action's id
    reckoning_changed = Signal()  # readings, findings or note want to be shown anew

    def __init__(self, store: Store) -> None:
        super().__init__()
        self.setObjectName("surface")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.store = store
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 6, 14, 8)
        column.setSpacing(4)
        self.buttons = FlowLayout()
        self.head = QHBoxLayout()
        self.head.setSpacing(6)
        self.kept_split: list[int] = []  # how drawing and table shared the room
        self.explains = True  # whether the hint is shown: on the first visits, later by F1
        self.words = QLabel(tr(self.hint) if self.hint else "")
        self.words.setObjectName("soft")
        self.words.setWordWrap(True)
        if self.crowded:
            self.head.addLayout(self.buttons, 1)
        else:
            self.head.addWidget(self.words, 1)
            self.head.addStretch(0)
        self.table_button = QPushButton(tr("Table"))
        self.table_button.setCheckable(True)
        self.table_button.setToolTip(tr("Show the table beside the drawing (Ctrl+T)"))
        self.table_button.toggled.connect(self._show_table)
        self.head.addWidget(self.table_button, 0, Qt.AlignmentFlag.AlignTop)
        column.addLayout(self.head)
        if self.crowded:
            column.addWidget(self.words)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.setChildrenCollapsible(False)
        column.addWidget(self.split, 1)
        self.drawing, self.table = QWidget(), QWidget()

    def explain(self, hint: str) -> None:
        """Show a hint, as long as hints are wanted."""
        self.words.setText(hint)
        self.words.setVisible(self.explains and bool(hint))

    def say(self, words: str) -> None:
        """Show what a person asked for or is to know, in the place of the hint."""
        self.words.setText(words)
        self.words.setVisible(bool(words))

    def lay(self, drawing: QWidget, table: QWidget) -> None:
        """Put in what is worked on, and its equal in rows."""
        self.drawing, self.table = drawing, table
        self.split.addWidget(drawing)
        self.split.addWidget(table)
        table.hide()

    def readings(self) -> list[Reading]:
        """The station's figures for the present results."""
        raise NotImplementedError

    def readings_before(self) -> list[Reading] | None:
        """The figures as they stand, while `readings` shows a try-out; None otherwise."""
        return None

    def note(self) -> str:
        """A short standing caution of the present state, or nothing."""
        return ""

    def findings(self) -> list[Finding]:
        results = self.store.preview or self.store.results
        return (
            [finding for finding in results.findings if station_of(finding.code) == self.id]
            if results
            else []
        )

    def refresh(self) -> None:
        """The store has changed."""
        raise NotImplementedError

    def close_station(self) -> None:
        """The window closes: end what the station runs."""

    def _show_table(self, shown: bool) -> None:
        if not shown and self.table.isVisible():
            self.kept_split = self.split.sizes()
        self.table.setVisible(shown)
        if shown:
            height = self.split.height()
            self.split.setSizes(self.kept_split or [height * 55 // 100, height * 45 // 100])
            self.table.setFocus()
        else:
            self.drawing.setFocus()

    def split_now(self) -> list[int]:
        """How drawing and table share the room, as it was last seen with both; empty where it never was."""
        return self.split.sizes() if self.table.isVisible() else self.kept_split
