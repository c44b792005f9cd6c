"""The range of the yearly figures over ten seeded years, reckoned when nothing else is to do."""

import threading
from dataclasses import replace

from PySide6.QtCore import QObject, QTimer, Signal

from lodestaff.desktop.store import Store
from lodestaff.desktop.worker import Worker
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.spread import Range, spread

REST_MS = 700  # without an edit, before other years are made
TEN_YEARS = 256 * 1024**2  # bytes: sun and loads of ten years of four units, with what they are made of
OF_READING = {"bill": ("bill", 1.0), "self-sufficiency": ("self_sufficiency", 100.0),
              "cycles": ("cycles", 1.0), "unserved": ("unserved_kwh", 1.0)}  # fmt: skip


class Ranges(QObject):
    """Other years have a memory of their own, so that they push nothing out of the job's."""

    came = Signal()

    def __init__(self, store: Store, parent: QObject) -> None:
        super().__init__(parent)
        self.store = store
        self.worker = Worker(store.unexpected.emit, self)
        self.timer = QTimer(self)
        self.timer.setSingleShot(True)
        self.timer.setInterval(REST_MS)
        self.timer.timeout.connect(self._ask)
        self.spread: tuple[Job, dict[str, Range]] | None = None
        self._others: tuple[object, Reckoner] | None = None
        self._stopped = threading.Event()
        self._closed = False

    def refresh(self, seen: bool) -> None:
        """The job may be another; only a station that is seen asks."""
        self._stopped.set()
        job = self.store.job
        told = self.spread is not None and self.spread[0] is job
        if seen and not self._closed and job is not None and not told:
            self.timer.start()

    def _ask(self) -> None:
        job, asked = self.store.job, self.store.reckoner
        if job is None:
            return
        if self._others is None or self._others[0] is not asked:
            self._others = (asked, Reckoner(asked.attachment, TEN_YEARS))
        others = self._others[1]
        stopped = self._stopped = threading.Event()

        def years() -> tuple[Job, dict[str, Range]] | None:
            ranges = spread(others, job, lambda _: not stopped.is_set())
            return (job, ranges) if ranges is not None else None

        self.worker.ask("spread", years, self._take, lambda _: None)

    def _take(self, answer: tuple[Job, dict[str, Range]] | None) -> None:
        self.spread = answer
        self.came.emit()

    def beside(self, readings: list[Reading]) -> list[Reading]:
        """The readings, each with its range where it is known for the job as it stands."""
        if self.spread is None or self.spread[0] is not self.store.job:
            return readings
        return [self._with_range(reading, self.spread[1]) for reading in readings]

    def _with_range(self, reading: Reading, ranges: dict[str, Range]) -> Reading:
        name, factor = OF_READING.get(str(reading.key[0]), ("", 1.0))
        if name not in ranges:
            return reading
        of = Range(*(value * factor for value in (ranges[name].low, ranges[name].middle, ranges[name].high)))
        low, high = plain(of.rounded(of.low), 0), plain(of.rounded(of.high), 0)
        said = reading.said or text_of(of.rounded(reading.figure.value), reading.figure.unit)
        ends = f"{low} to {high} in" if low != high else f"{low} in all"
        return replace(reading, beside=f"{ends} ten years", said=said)

    def close(self) -> None:
        """End the thread."""
        self._closed = True
        self._stopped.set()
        self.timer.stop()
        self.worker.stop()
