"""The design on disk: one JSON document, read whole, replaced whole."""

import json
from pathlib import Path

from lodestaff.job.edit import validated
from lodestaff.job.migrate import migrated
from lodestaff.job.model import Job
from lodestaff.quantities.disk import read_whole, write_whole
from lodestaff.quantities.errors import JobError


def job_text(job: Job) -> str:
    """The design document as it is written."""
    return json.dumps(job.model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n"


def save_job(job: Job, path: Path) -> None:
    """Replace the design document at `path`. When this returns, the job is on disk."""
    write_whole(path, job_text(job).encode("utf-8"))


def load_job(path: Path) -> Job:
    """Read a design document, older versions too. Raises JobError with the place and the cure."""
    return parse_job(read_whole(path), path.name)


def parse_job(raw: bytes, name: str) -> Job:
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError as trouble:
        raise JobError(
            f"is not UTF-8 text at byte {trouble.start}", name, "restore it from a copy"
        ) from trouble
    if not text.strip():
        raise JobError("is empty", name, "restore it from a copy")
    try:
        data = json.loads(text, parse_constant=_no_constant)
    except json.JSONDecodeError as trouble:
        where = f"{name} line {trouble.lineno} column {trouble.colno}"
        raise JobError(
            f"is not JSON: {trouble.msg}", where, "mend it there or restore it from a copy"
        ) from trouble
    except (ValueError, RecursionError) as trouble:
        raise JobError(
            str(trouble) or "is nested too deeply", name, "mend it or restore it from a copy"
        ) from trouble
    return validated(migrated(data, name), name)


def _no_constant(name: str) -> float:
    raise ValueError(f"holds {name}, which is no number of a job")
