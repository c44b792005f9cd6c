"""The clock of a step: it counts down what has to be waited, or up what is timed by hand."""

from collections.abc import Callable

from PySide6.QtCore import QElapsedTimer, QTimer, Signal
from PySide6.QtWidgets import QApplication, QPushButton

from lodestaff.quantities.convention import plain

TICK_MS = 100


class StepTimer(QPushButton):
    """Pressed it starts, pressed again it stops. A wait that is over sounds; a time that is stopped is
    told."""

    timed = Signal(float)  # seconds between start and stop

    def __init__(self) -> None:
        super().__init__()
        self.wait_s = 0.0
        self.step = ""
        self._watch = QElapsedTimer()
        self._ticks = QTimer(self)
        self._ticks.setInterval(TICK_MS)
        self._ticks.timeout.connect(self._tick)
        self.elapsed: Callable[[], float] = lambda: self._watch.elapsed() / 1000
        self.clicked.connect(self._pressed)
        self.hide()

    @property
    def running(self) -> bool:
        return self._ticks.isActive()

    def show_step(self, step: str, wait_s: float, timed: bool) -> None:
        """The clock of a step: a wait, a time to take, or none. One that runs goes on for its own step."""
        if step != self.step:
            self._ticks.stop()
            self.step, self.wait_s = step, wait_s
            self._say("" if not self.running else self.text())
        self.setVisible(wait_s > 0 or timed)

    def _pressed(self) -> None:
        if not self.running:
            self._watch.start()
            self._ticks.start()
            self._tick()
            return
        self._ticks.stop()
        if not self.wait_s:
            self.timed.emit(round(self.elapsed(), 1))
        self._say("")

    def _tick(self) -> None:
        gone = self.elapsed()
        if self.wait_s and gone >= self.wait_s:
            self._ticks.stop()
            QApplication.beep()
            self._say("Waited")
        else:
            left = self.wait_s - gone
            self._say(f"{plain(left, 0)} s left" if self.wait_s else f"{plain(gone, 1)} s, stop")

    def _say(self, words: str) -> None:
        idle = f"Wait {plain(self.wait_s)} s" if self.wait_s else "Start the clock"
        self.setText(words or idle)
        self.setAccessibleName(words or idle)
        tip = "Counts down what has to be waited" if self.wait_s else "Times it; the reading follows"
        self.setToolTip(tip)
