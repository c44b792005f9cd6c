"""Unsaved work after a crash: every edit is written to a rescue file, removed at a clean end."""

import json
import os
import sys
import traceback
import uuid
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from lodestaff import __version__
from lodestaff.desktop.settings import faults_folder, rescue_folder
from lodestaff.job import Job
from lodestaff.job.file import job_text, parse_job
from lodestaff.quantities.disk import runs, write_whole
from lodestaff.quantities.errors import JobError


@dataclass(frozen=True)
class Rescued:
    """A job found after a crash, and the file it was opened from ('' if it never had one)."""

    file: Path
    job: Job
    path: str


class Rescue:
    """The rescue file of one running window."""

    def __init__(self) -> None:
        self._file = rescue_folder() / f"{os.getpid()}-{uuid.uuid4().hex[:8]}.json"

    def write(self, job: Job, path: Path | None) -> None:
        """Keep a job. Raises JobError where the disk refuses."""
        try:
            self._file.parent.mkdir(parents=True, exist_ok=True)
        except OSError as trouble:
            raise JobError(
                "the rescue folder cannot be made", str(self._file.parent), str(trouble.strerror)
            ) from trouble
        content = {"pid": os.getpid(), "path": str(path) if path else "", "job": job_text(job)}
        write_whole(self._file, json.dumps(content).encode())

    def clear(self) -> None:
        self._file.unlink(missing_ok=True)


def write_trace(error: BaseException) -> Path | None:
    """Keep the trace of a fault in a file of its own, and on standard error; None where the disk refuses."""
    details = "".join(traceback.format_exception(error))
    print(details, file=sys.stderr)
    path = faults_folder() / f"{datetime.now():%Y%m%dT%H%M%S%f}.txt"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f"Lodestaff {__version__}\n{details}", encoding="utf-8")
    except OSError:
        return None
    return path


def find_rescued() -> list[Rescued]:
    """Rescue files whose program no longer runs, newest first; what can't be read is left where it is."""
    found = []
    folder = rescue_folder()
    files = (
        sorted(folder.glob("*.json"), key=lambda file: file.stat().st_mtime, reverse=True)
        if folder.is_dir()
        else []
    )
    for file in files:
        try:
            content = json.loads(file.read_text(encoding="utf-8"))
            if runs(int(content["pid"])):
                continue
            found.append(Rescued(file, parse_job(content["job"].encode(), file.name), str(content["path"])))
        except (OSError, ValueError, KeyError, TypeError, AttributeError, JobError):
            continue
    return found
