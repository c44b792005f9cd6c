"""Five minutes through the demo, in the window itself: one line at a time, each at its own station."""

from typing import NamedTuple

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget


class Stop(NamedTuple):
    """Where the tour stops, the state of the grid there, and what is said."""

    station: str
    words: str
    grid: bool = True


STOPS = (
    Stop(
        "site",
        "The supply as it hangs on the wall. Every value says how it is known; what nobody read is open.",
    ),
    Stop(
        "loads", "What stays on: a block is as wide as it draws, as high as its night. Drag one, or press G."
    ),
    Stop(
        "loads",
        "The lines across the rail are the unit's ratings. At the right stand the figures they turn on.",
    ),
    Stop("array", "Each string stands as a bar, hot to cold, in its tracker's slot: too high destroys."),
    Stop(
        "storage", "Every cell is a simulated year, the lines are the site's limits; a click adopts a cell."
    ),
    Stop("place", "Walls to scale: drag a part along one. Red hatching is where a battery may not stand."),
    Stop("wire", "The diagram answers: conductors are lined by what feeds them. Click a switch to work it."),
    Stop("wire", "Now the grid has failed. What is still lined is live, and from what.", grid=False),
    Stop("limits", "One day, noon to noon. Drag the reserve or a window, and the year follows at the right."),
    Stop("visits", "Work follows from the design. Drag a piece to another day; hatched is without power."),
    Stop("commission", "One step at a time, with what it should read. Rehearse it at the simulated site."),
    Stop("handover", "The pack as it prints. A square marks a page on which something is missing."),
)


class Tour(QWidget):
    """A line under the bar with the words of a stop; it ends when it is told to, or with the last stop."""

    stopped_at = Signal(object)
    ended = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self.setAccessibleName("Tour")
        self.place = 0
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 4, 10, 4)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.back, self.next, self.end = (
            QPushButton("Before"),
            QPushButton("Next"),
            QPushButton("End the tour"),
        )
        row.addWidget(self.words, 1)
        for button in (self.back, self.next, self.end):
            row.addWidget(button)
        self.back.clicked.connect(lambda: self.go(self.place - 1))
        self.next.clicked.connect(lambda: self.go(self.place + 1))
        self.end.clicked.connect(self.ended)
        self.hide()

    def go(self, place: int) -> None:
        """Go to a stop; past the last one the tour ends."""
        if place >= len(STOPS):
            self.ended.emit()
            return
        self.place = max(0, place)
        stop = STOPS[self.place]
        self.words.setText(f"{self.place + 1} of {len(STOPS)}.  {stop.words}")
        self.setAccessibleDescription(self.words.text())
        self.back.setEnabled(self.place > 0)
        self.show()
        self.stopped_at.emit(stop)
        self.next.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.ended.emit()
        else:
            super().keyPressEvent(event)
