"""The design on disk: one JSON document, read whole, replaced whole."""

import json
from pathlib import Path

from lodestaff.job.edit import validated
from lodestaff.job.migrate import migrated
from lodestaff.job.model import Job
from lodestaff.quantities.disk import read_whole, write_whole
from lodestaff.quantities.json_text import read_json


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
    """A design document from its bytes. Raises JobError with the place and the cure."""
    return validated(migrated(read_json(raw, name), name), name)
