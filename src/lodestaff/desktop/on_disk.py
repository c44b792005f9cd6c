"""The job's file as this window sees it: whether it may write there, and what was last seen there."""

import contextlib
import hashlib
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from lodestaff.job.journal import journal_path
from lodestaff.job.lock import Lock
from lodestaff.quantities.disk import read_whole, write_whole
from lodestaff.quantities.errors import JobError

LOOK_MS = 1000


class OnDisk(QObject):
    """Holds the lock of the present file, and looks every second whether another changed what lies there."""

    changed = Signal()  # another wrote the file
    journal_grew = Signal()
    writer_changed = Signal()  # it was taken over, or became free

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.path: Path | None = None
        self.mine = True
        self._lock: Lock | None = None
        self.seen: str | None = None
        self._marks: tuple[object, object] = (None, None)
        self._free = False
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self.look)

    # --- who writes -------------------------------------------------------------------------------------
    def open(self, path: Path | None) -> None:
        """A file became the present one; None for a job that has none yet."""
        if path is not None and self.path == path and self.mine:
            self.note()
            return
        self.close()
        self.path, self.mine = path, True
        if path is None:
            return
        self._lock = Lock(path)
        with contextlib.suppress(JobError):  # what refuses here refuses at saving, and says so there
            self.mine = self._lock.take()
        self.note()
        self._timer.start()

    @property
    def holder(self) -> str:
        """Who may write, in words; '' where it is this window."""
        if self.mine or self._lock is None:
            return ""
        if self._lock.read_only:
            return "nobody: its folder can't be written"
        process = self._lock.holder()
        return process.words if process else "nobody any more"

    @property
    def read_only(self) -> bool:
        return self._lock is not None and self._lock.read_only

    def take_over(self) -> None:
        """Write from now on; who did learns of it. Raises JobError where the disk refuses."""
        if self._lock is not None:
            self._lock.take_over()
            self.mine = True
            self.writer_changed.emit()

    def moved(self, lock: Lock | None, path: Path) -> None:
        """The job was saved under another path, whose lock is held."""
        if lock is not None:
            self.close()
            self.path, self._lock, self.mine = path, lock, True
            self._timer.start()
        self.note()

    def close(self) -> None:
        """Let go of the file."""
        self._timer.stop()
        if self._lock is not None:
            self._lock.release()
        self._lock, self.path, self.seen, self.mine, self._free = None, None, None, True, False

    # --- what lies there --------------------------------------------------------------------------------
    def note(self) -> None:
        """What lies there now is what this window knows."""
        self.seen = _digest(self.path)
        self._marks = self._signs()

    def differs(self) -> bool:
        """Whether another wrote the file since it was opened or saved here; one that is gone is none."""
        now = _digest(self.path)
        return now is not None and self.seen is not None and now != self.seen

    def look(self) -> None:
        """See what others did."""
        if self.path is None or self._lock is None:
            return
        mine = self._lock.mine
        free = not mine and not self._lock.read_only and self._lock.holder() is None
        if (mine, free) != (self.mine, self._free) and not self._lock.read_only:
            self.mine, self._free = mine, free
            self.writer_changed.emit()
        before, self._marks = self._marks, self._signs()
        if before[0] != self._marks[0] and self.differs():
            self.changed.emit()
        if before[1] != self._marks[1]:
            self.journal_grew.emit()

    def _signs(self) -> tuple[object, object]:
        return (_sign(self.path), _sign(journal_path(self.path))) if self.path else (None, None)

    def set_beside(self, word: str) -> Path:
        """Keep a copy of what lies there under another name; returns that name."""
        assert self.path is not None
        target = beside(self.path, word)
        write_whole(target, read_whole(self.path))
        return target


def beside(path: Path, word: str) -> Path:
    """A name beside a job's file that says which version it is."""
    return path.with_name(f"{path.stem}-{word}-{datetime.now():%Y%m%dT%H%M%S}{path.suffix}")


def _sign(path: Path | None) -> object:
    """What changes when a file does."""
    try:
        about = (path or Path()).stat()
    except OSError:
        return None
    return about.st_mtime_ns, about.st_size, about.st_ino


def _digest(path: Path | None) -> str | None:
    try:
        return hashlib.sha256(read_whole(path)).hexdigest() if path is not None else None
    except JobError:
        return None
