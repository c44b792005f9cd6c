"""What every command begins and ends with: a job opened, an answer printed."""

import argparse
import json
import math
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from lodestaff.cli.terminal import takes_all_signs
from lodestaff.job import Job, load_job
from lodestaff.job.attachments import read_attachment

if TYPE_CHECKING:
    from lodestaff.reckoning import Reckoner
    from lodestaff.reckoning.wired import Wiring


def open_wiring(options: argparse.Namespace) -> "tuple[Job, Wiring]":
    """A job and its graph, for commands that reckon no energy."""
    from lodestaff.reckoning.wired import Wiring
    from lodestaff.topology import build

    job = load_job(Path(options.job))
    return job, Wiring(build(job))


def open_job(options: argparse.Namespace) -> "tuple[Job, Reckoner]":
    """A job and what reckons its figures."""
    from lodestaff.reckoning import Reckoner

    path = Path(options.job)
    return load_job(path), Reckoner(lambda digest: read_attachment(path, digest))


def _plain(value: Any) -> Any:
    """A value as JSON has it: what is not known, or without bound, is null."""
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    if isinstance(value, dict):
        return {key: _plain(inner) for key, inner in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(item) for item in value]
    return value


def print_json(value: Any) -> None:
    json.dump(_plain(value), sys.stdout, indent=1, ensure_ascii=not takes_all_signs(), allow_nan=False)
    print()
