"""The best settings: found off the window's thread, told against the best possible, taken as one step."""

import threading
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QPushButton

from lodestaff.desktop.store import Store
from lodestaff.desktop.worker import Worker
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.best import Best, best_possible
from lodestaff.reckoning.best_settings import BestSettings, best_settings

FIND, STOP, TAKE = "Best settings", "Stop", "Take the best settings"


@dataclass(frozen=True)
class Found:
    """What was found for a job."""

    job: Job
    possible: Best
    settings: BestSettings


def words_of(thing: Found) -> str:
    """How far the settings are from the best, and what would be better."""
    money, possible = thing.job.tariff.currency, thing.possible
    reached = possible.reached
    if reached is None:
        return "A battery could save nothing here, however it is set."
    told = (
        f"The settings reach {plain(100 * reached, 0)} % of what a battery could save here "
        f"({text_of(possible.best, money)} a year, {possible.words})."
    )
    if not thing.settings.changes:
        return f"{told} No better settings were found."
    share = possible.reached_by(thing.settings.bill) or 0.0
    return (
        f"{told} Best settings: {text_of(thing.settings.bill, money)}, {plain(100 * share, 0)} %: "
        f"{'; '.join(thing.settings.words)}."
    )


class BestSearch(QObject):
    """A button that finds, stops and takes; `said` carries the words."""

    said = Signal(str)
    progressed = Signal(float)

    def __init__(self, store: Store, parent: QObject) -> None:
        super().__init__(parent)
        self.store = store
        self.button = QPushButton(FIND)
        self.button.setToolTip(
            "Search the charge windows that cost least, and how far they are from the best"
        )
        self.button.clicked.connect(self._press)
        self.worker = Worker(store.unexpected.emit, self)
        self.best: Found | None = None
        self._stopped = threading.Event()
        self._busy = False
        self.progressed.connect(lambda share: self.said.emit(f"{plain(share * 100, 0)} % searched"))

    def refresh(self) -> None:
        """The job may be another: what was found for the old one can't be taken any more."""
        job = self.store.job
        if self.best is not None and self.best.job is not job:
            self.best = None
        self.button.setVisible(job is not None and job.mains.grid and bool(job.banks))
        taken = self.best is not None and bool(self.best.settings.changes)
        self.button.setText(STOP if self._busy else TAKE if taken else FIND)

    def _press(self) -> None:
        if self._busy:
            self._stopped.set()
            self._ended("Stopped.")
        elif self.best is not None and self.best.settings.changes:
            self.store.edit("Take the best settings", *self.best.settings.changes)
        else:
            self._search()

    def _search(self) -> None:
        job, reckoner = self.store.job, self.store.reckoner
        assert job is not None
        stopped = self._stopped = threading.Event()

        def told(share: float) -> bool:
            if not stopped.is_set():
                self.progressed.emit(share)
            return not stopped.is_set()

        def search() -> Found | None:
            possible = best_possible(reckoner, job, lambda share: told(share * 0.6))
            settings = (
                best_settings(reckoner, job, lambda share: told(0.6 + share * 0.4)) if possible else None
            )
            return Found(job, possible, settings) if possible and settings else None

        self._busy = True
        self.refresh()
        self.worker.ask("best", search, self._arrived, lambda error: self._ended(str(error)))

    def _arrived(self, thing: Found | None) -> None:
        assert thing is not None, "nothing arrives of what was stopped"
        if thing.job is not self.store.job:
            self._ended("The job has changed: search anew.")
            return
        self.best = thing
        self._ended(words_of(thing))

    def _ended(self, words: str) -> None:
        self._busy = False
        self.refresh()
        self.said.emit(words)

    def close(self) -> None:
        """End the thread."""
        self._stopped.set()
        self.worker.stop()
