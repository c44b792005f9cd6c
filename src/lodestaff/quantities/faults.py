"""Faults of the program itself: the trace goes into a file of its own, for whoever reports it."""

import sys
import traceback
from datetime import datetime
from pathlib import Path

from lodestaff import __version__


def faults_folder() -> Path:
    """Where traces are kept."""
    from platformdirs import user_state_path

    return user_state_path("lodestaff") / "faults"


def trace_of(error: BaseException) -> str:
    return "".join(traceback.format_exception(error))


def write_trace(error: BaseException, aloud: bool = False) -> Path | None:
    """Keep the trace of a fault, and say it on standard error too if asked; None where the disk refuses."""
    if aloud:
        print(trace_of(error), file=sys.stderr)
    path = faults_folder() / f"{datetime.now():%Y%m%dT%H%M%S%f}.txt"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        text = f"Lodestaff {__version__}\n{trace_of(error)}"
        path.write_text(text, encoding="utf-8", errors="backslashreplace")
    except (OSError, ValueError):
        return None
    return path
