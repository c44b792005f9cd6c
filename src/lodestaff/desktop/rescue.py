"""Unsaved work after a crash: every edit is in a rescue file within a moment, removed at a clean end."""

import contextlib
import json
import os
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from lodestaff.desktop.settings import rescue_folder
from lodestaff.desktop.worker import Worker
from lodestaff.job import Job
from lodestaff.job.file import job_text, parse_job
from lodestaff.quantities.disk import make_folder, read_whole, runs, write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.process import Process, this_process

AFTER_MS = 400  # of the first edit that isn't kept yet, whatever is typed meanwhile


@dataclass(frozen=True)
class Work:
    """A job with what is unsaved, the file it was opened from, and the digest of what was seen there."""

    job: Job
    path: Path | None
    seen: str | None = None


@dataclass(frozen=True)
class Rescued:
    """Work found after a crash, and its rescue file."""

    file: Path
    work: Work

    @property
    def job(self) -> Job:
        return self.work.job


class Rescue(QObject):
    """The rescue file of one running window. `unsaved` gives what is to be kept, or None."""

    refused = Signal(str)
    kept = Signal()

    def __init__(
        self,
        unsaved: Callable[[], Work | None],
        fault: Callable[[BaseException], None],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._unsaved = unsaved
        self._file = rescue_folder() / f"{os.getpid()}-{uuid.uuid4().hex[:8]}.json"
        self._worker = Worker(fault, self)  # flushing to disk may take long, and never waits behind figures
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AFTER_MS)
        self._timer.timeout.connect(self._write_soon)

    def soon(self) -> None:
        """There is something to keep. A wait that has begun goes on, so that a burst of edits is kept too."""
        if not self._timer.isActive():
            self._timer.start()

    def _write_soon(self) -> None:
        work = self._unsaved()
        if work is not None:
            self._worker.ask("rescue", lambda: self.write(work), self._is_kept, self._not_kept)

    def _is_kept(self, _: None) -> None:
        self.kept.emit()
        if self._unsaved() is None:  # saved meanwhile
            self.clear()

    def _not_kept(self, error: Exception) -> None:
        self.refused.emit(f"Unsaved work can't be kept for a rescue: {error}")

    def write_now(self) -> bool:
        """Keep what is unsaved; False, and said, where the disk refuses."""
        work = self._unsaved()
        if work is None:
            return True
        try:
            self.write(work)
        except JobError as trouble:
            self._not_kept(trouble)
            return False
        self.kept.emit()
        return True

    def write(self, work: Work) -> None:
        """Keep work. Raises JobError where the disk refuses."""
        make_folder(self._file.parent)
        place = {"path": str(work.path) if work.path else "", "seen": work.seen}
        content = {"process": this_process().as_data(), **place, "job": job_text(work.job)}
        write_whole(self._file, json.dumps(content).encode())

    def clear(self) -> None:
        """Nothing is unsaved any more."""
        self._timer.stop()
        self._worker.drop("rescue")
        with contextlib.suppress(OSError):
            self._file.unlink()

    def close(self) -> None:
        """The window ends: nothing waits, nothing needs a rescue."""
        self._timer.stop()
        self._worker.stop()
        self.clear()


def find_rescued() -> tuple[list[Rescued], list[Path]]:
    """Rescue files whose program no longer runs, newest first; and damaged ones, which were set aside."""
    rescues, damaged = [], []
    folder = rescue_folder()
    files = [file for file in folder.glob("*.json") if file.is_file()] if folder.is_dir() else []
    for file in sorted(files, key=_written, reverse=True):
        try:
            content = json.loads(read_whole(file))
            if _runs(content):
                continue
            job = parse_job(content["job"].encode(), file.name)
            path, seen = str(content["path"]), content.get("seen")
            work = Work(job, Path(path) if path else None, seen if isinstance(seen, str) else None)
            rescues.append(Rescued(file, work))
        except (ValueError, KeyError, TypeError, AttributeError, RecursionError, JobError):
            with contextlib.suppress(OSError):
                damaged.append(file.rename(file.with_suffix(".damaged")))
    return rescues, damaged


def _runs(content: dict[str, object]) -> bool:
    """Whether the program that wrote a rescue file still runs; older ones tell its number only."""
    process = Process.of_data(content.get("process"))
    return process.may_run if process is not None else runs(int(str(content["pid"])))


def _written(file: Path) -> float:
    try:
        return file.stat().st_mtime
    except OSError:
        return 0.0
