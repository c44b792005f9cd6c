"""What a command may write where: a file of Lodestaff's own of that kind is replaced, any other is not."""

import argparse
import io
import json
import sys
import zipfile
import zlib
from collections.abc import Sequence
from contextlib import AbstractContextManager, nullcontext
from pathlib import Path
from typing import TYPE_CHECKING

from lodestaff.job.lock import only_writer
from lodestaff.quantities.disk import read_whole, shown_path
from lodestaff.quantities.errors import JobError

if TYPE_CHECKING:
    from lodestaff.job import Job

WRITES_JOB = frozenset(
    [
        "split",
        "adjust",
        "cables",
        "place",
        "visits",
        "merge",
        "built",
        "intervals",
        "edition",
        "horizon",
        "circuits",
        "replace",
        "pack-check",
        "new",
        "arrange",
        "tariff",
        "best",
    ]
)
MOST_LOOKED_AT = 64 * 1024**2


def guard(options: argparse.Namespace) -> None:
    """Before anything is computed: whether what the command would write may be written there.

    Raises JobError where the folder is missing, or what lies there is no file of that kind of Lodestaff's own
    and `--force` is not given.
    """
    given = getattr(options, "output", None)
    if options.command == "pack":
        given = options.file
    elif options.command == "simulate":
        given = options.csv
    elif options.command == "shelf" and options.what == "export" and options.words:
        given = options.words[0]
    if given:
        target = Path(given)
        _guarded(target, ".job" if options.command in WRITES_JOB else target.suffix.lower(), options.force)
    if options.command == "report" and options.notify:
        _guarded(Path(options.notify), ".notify", options.force)
    if options.command == "schedules" and options.labels:
        _guarded(Path(options.labels), ".pdf", options.force)
    if options.command == "place" and options.sheets:
        _guarded(Path(options.sheets), ".pdf", options.force)
    if options.command == "visits" and options.print:
        _guarded(Path(options.print), Path(options.print).suffix.lower(), options.force)
    if options.command == "tariff" and options.write:
        _guarded(Path(options.write), ".tariff", options.force)


def _guarded(target: Path, kind: str, force: bool) -> None:
    """One file that is to be written."""
    if target.is_dir():
        raise JobError("is a folder", shown_path(target), "name a file in it")
    if not target.parent.is_dir():
        raise JobError("that folder does not exist", shown_path(target.parent), "make it first")
    if force or not target.exists():
        return
    if not target.is_file():
        raise JobError("is no plain file", shown_path(target), "name another file")
    if not _own(target, kind):
        what = {".job": "job", ".tariff": "tariff"}.get(kind, f"{kind} file")
        right = "name another file, or add --force to replace it"
        raise JobError(f"is there and is no {what} of Lodestaff's", shown_path(target), right)


def alone(options: argparse.Namespace) -> AbstractContextManager[None]:
    """Hold the lock of the job that a command reads, changes and writes in its place, or writes over."""
    if options.command not in WRITES_JOB:
        return nullcontext()
    in_place = options.command == "adjust" and (options.add or options.remove)
    in_place = in_place or (options.command == "pack-check" and options.job)
    target = options.output or (options.job if in_place else None)
    return nullcontext() if target is None else only_writer(Path(target))


def write_job(job: "Job", target: Path, source: Path | None = None) -> None:
    """Write the job that a command made, with the attachments and the journal of the one it was made from."""
    from lodestaff.job.laying import lay

    laid = lay(job, target, homes=() if source is None else (source,), journal_of=source)
    if laid.words:
        print(f"lodestaff: {laid.words}", file=sys.stderr)


def _own(path: Path, kind: str) -> bool:
    """Whether a file is one that Lodestaff writes, of that kind."""
    try:
        raw = read_whole(path, MOST_LOOKED_AT)
    except JobError:
        return False
    match kind:
        case ".job":
            return _has_keys(raw, ("schema_version", "circuits"))
        case ".tariff":
            return _has_keys(raw, ("import_high", "import_low", "standing_per_day"))
        case ".notify":
            return _has_keys(raw, ("registered_kva", "units"))
        case ".json":
            return _has_keys(raw, ("entries",))
        case ".pdf":
            return raw.startswith(b"%PDF-") and b"/Creator (Lodestaff)" in raw
        case ".svg":
            return b"<desc>Lodestaff" in raw
        case ".dxf":
            return b"Creator" in raw and b"Lodestaff" in raw
        case ".ics":
            return raw.startswith(b"BEGIN:VCALENDAR") and b"PRODID:-//Lodestaff//" in raw
        case ".csv":
            return raw.startswith((b"start,load_kw", b"kind,id,"))
        case ".xlsx":
            return b"Lodestaff" in _member(raw, "docProps/core.xml")
        case _:
            return _has_keys(_member(raw, "job.json"), ("schema_version", "circuits"))


def _has_keys(raw: bytes, keys: Sequence[str]) -> bool:
    try:
        data = json.loads(raw)
    except (ValueError, RecursionError):
        return False
    return isinstance(data, dict) and all(key in data for key in keys)


def _member(raw: bytes, name: str) -> bytes:
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive, archive.open(name) as stream:
            return stream.read(MOST_LOOKED_AT)
    except (zipfile.BadZipFile, zlib.error, KeyError, NotImplementedError, RuntimeError, OSError, EOFError):
        return b""
