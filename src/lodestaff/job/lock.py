"""One writer of a job: a lock beside it that names the process. What no longer runs here holds nothing."""

import contextlib
import errno
import fcntl
import json
import os
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from lodestaff.quantities.disk import cure_of, read_whole, shown_path, write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.process import Process, this_process

MOST_BYTES = 4096
PATIENCE_S = 10.0
CLOSED = (errno.EACCES, errno.EPERM, errno.EROFS)


def lock_path(job_path: Path) -> Path:
    """Where the lock of a job lies: beside the file itself, wherever a link to it stands."""
    real = Path(os.path.realpath(job_path))
    return real.with_name(f".{real.name[:200]}.lock")


class Lock:
    """The lock of one job, held or not by whoever made this object."""

    def __init__(self, job_path: Path) -> None:
        self.path = lock_path(job_path)
        self._mark = uuid.uuid4().hex
        self._text = json.dumps({**this_process().as_data(), "mark": self._mark}).encode()
        self.read_only = False  # the folder can't be written: nobody can hold it here

    def take(self) -> bool:
        """Hold the lock if nobody does who still runs. Raises JobError where the disk refuses otherwise."""
        with _alone_in(self.path.parent):
            if self.mine:
                return True
            holder = self.holder()
            if holder is not None and holder.may_run:
                return False
            try:
                write_whole(self.path, self._text)
            except JobError as trouble:
                self.release()  # it may be there, half made
                self.read_only = getattr(trouble.__cause__, "errno", None) in CLOSED
                if self.read_only:
                    return False
                raise
            return True

    def take_over(self) -> None:
        """Hold the lock whoever does now; that one learns of it. Raises JobError where the disk refuses."""
        write_whole(self.path, self._text)

    @property
    def mine(self) -> bool:
        return self._raw() == self._text

    def holder(self) -> Process | None:
        """Who holds it; None where nobody does."""
        try:
            return Process.of_data(json.loads(self._raw()))
        except (ValueError, RecursionError):
            return None

    def _raw(self) -> bytes:
        try:
            return read_whole(self.path, MOST_BYTES)
        except JobError:
            return b""

    def release(self) -> None:
        """Let it go, where it is still held here."""
        if self.mine:
            with contextlib.suppress(OSError):
                self.path.unlink()


@contextmanager
def _alone_in(folder: Path) -> Iterator[None]:
    """No other process looks for a lock in this folder meanwhile, where its file system can tell."""
    try:
        descriptor = os.open(folder, os.O_RDONLY)
    except OSError as trouble:
        raise JobError("can't be locked", shown_path(folder), cure_of(trouble)) from trouble
    try:
        with contextlib.suppress(OSError):
            fcntl.flock(descriptor, fcntl.LOCK_EX)
        yield
    finally:
        os.close(descriptor)


@contextmanager
def only_writer(job_path: Path, patience_s: float = PATIENCE_S) -> Iterator[None]:
    """Hold the lock of a job while something is done to it; waits for whoever holds it for a moment.

    Raises JobError that names who holds it when the wait is over.
    """
    lock = Lock(job_path)
    end = time.monotonic() + patience_s
    while not lock.take() and not lock.read_only:
        if time.monotonic() > end:
            holder = lock.holder()
            who = holder.words if holder else "another program"
            right = "close it there, or write elsewhere with -o"
            raise JobError(f"is open in {who}", shown_path(job_path), right)
        time.sleep(0.02)
    try:
        yield
    finally:
        lock.release()
