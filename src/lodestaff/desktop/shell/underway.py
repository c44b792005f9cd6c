"""What is being reckoned, once it takes longer than a glance: its name, for how long, and a stop."""

import time

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from lodestaff.desktop.worker import UNDERWAY

AFTER_MS, TICK_MS = 200, 500
EDGE_PX = 12
NAMES = {
    "quick": "Reckoning the figures",
    "deep": "Reckoning what takes long",
    "compare": "Comparing",
    "strategies": "Reckoning the ways of backup",
    "split": "Looking for the best split",
    "arrangements": "Looking at arrangements",
    "families": "Reckoning each family",
    "fillings": "Filling the faces",
    "fits": "Trying what fits",
    "map": "Reckoning the map of sizes",
    "ride": "Reckoning outages of the year",
    "ways": "Comparing ways of coupling",
    "standings": "Comparing ways to stand it all",
    "best": "Looking for the best settings",
    "spread": "Reckoning other years",
    "cables": "Sizing cables",
    "visits": "Laying the days",
    "days": "Writing the days",
    "meter": "Reading the meter's file",
    "pages": "Making the pack",
    "paper": "Laying out the pack",
    "pack": "Writing the pack",
    "print": "Making the pack",
    "labels": "Writing the labels",
}  # what isn't named here is short, or is no reckoning: a rescue, a reading over the link


class UnderwayStrip(QWidget):
    """Lies over the lower edge of the window, so that nothing moves when it comes and goes."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setObjectName("notice")
        self.setAccessibleName("What is being reckoned")
        self.words = QLabel("")
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Stop what is being reckoned (Ctrl+.)")
        self.stop.clicked.connect(self.halt)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 4, 4)
        row.addWidget(self.words)
        row.addWidget(self.stop)
        self._since: dict[str, float] = {}
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.refresh)
        UNDERWAY.changed.connect(self._changed)
        window.installEventFilter(self)
        self.hide()

    def _changed(self) -> None:
        """Something began or ended."""
        now = {name for _, name in UNDERWAY.tasks if name in NAMES}
        self._since = {name: self._since.get(name, time.monotonic()) for name in sorted(now)}
        if not now:
            self._timer.stop()
            self.hide()
        elif not self._timer.isActive():
            self._timer.start(AFTER_MS)

    def refresh(self) -> None:
        """Show what has taken longer than a glance."""
        now = time.monotonic()
        long = {name: now - since for name, since in self._since.items() if now - since >= AFTER_MS / 1000}
        self._timer.setInterval(TICK_MS)
        if long:
            first = max(long, key=lambda name: long[name])
            more = f", and {len(long) - 1} more" if len(long) > 1 else ""
            self.words.setText(f"{NAMES[first]}{more} · {long[first]:.0f} s")
            self.adjustSize()
            self._place()
            self.show()
            self.raise_()

    def halt(self) -> None:
        """Stop all that is named; who asked for it says so in its place."""
        for worker, name in list(UNDERWAY.tasks):
            if name in NAMES:
                worker.halt(name)
        self.words.setText("Stopping…")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self._place()
        return False

    def _place(self) -> None:
        parent = self.parentWidget()
        if parent is not None:
            self.move(parent.width() - self.width() - EDGE_PX, parent.height() - self.height() - EDGE_PX)
