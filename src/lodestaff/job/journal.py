"""The journal: append-only JSON lines beside the design; corrected by a further entry, never undone."""

import errno
import json
import os
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from lodestaff.quantities.disk import CURES, read_whole
from lodestaff.quantities.errors import JobError

KINDS = ("reading", "snag", "serial", "decision", "setting", "note", "correction")


@dataclass(frozen=True)
class Entry:
    """One line: what kind, what is said, when, by whom; a correction names the line it corrects.

    `data` holds what a reading or serial is made of, for the program; `text` says it for people.
    """

    kind: str
    text: str
    at: str
    by: str
    corrects: int | None = None
    data: dict[str, Any] | None = None


def journal_path(job_path: Path) -> Path:
    return job_path.with_name(job_path.stem + ".journal.jsonl")


def append(
    job_path: Path,
    kind: str,
    text: str,
    by: str = "",
    corrects: int | None = None,
    data: dict[str, Any] | None = None,
) -> Entry:
    """Append an entry; when this returns, the entry is on disk.

    Raises JobError where the kind is unknown, the corrected line is not there, or the disk refuses.
    """
    if kind not in KINDS:
        raise JobError(f"no kind of entry {kind!r}", "journal", f"kinds: {', '.join(KINDS)}")
    path = journal_path(job_path)
    if corrects is not None and not 1 <= corrects <= len(read(job_path)):
        raise JobError(f"there is no line {corrects} to correct", path.name)
    entry = Entry(
        kind, text, at=datetime.now(UTC).isoformat(timespec="seconds"), by=by, corrects=corrects, data=data
    )
    line = json.dumps(entry.__dict__, ensure_ascii=False) + "\n"
    try:
        ends_cleanly = not path.exists() or path.stat().st_size == 0 or _last_byte(path) == b"\n"
        with path.open("ab") as stream:
            stream.write((b"" if ends_cleanly else b"\n") + line.encode("utf-8"))
            stream.flush()
            os.fsync(stream.fileno())
    except OSError as trouble:
        cure = CURES.get(trouble.errno or errno.EIO, str(trouble.strerror))
        raise JobError("the entry could not be written", str(path), cure) from trouble
    return entry


def _last_byte(path: Path) -> bytes:
    with path.open("rb") as stream:
        stream.seek(-1, os.SEEK_END)
        return stream.read(1)


def read(job_path: Path) -> list[Entry]:
    """Read all entries. A last line cut off by a crash was never acknowledged and is passed over."""
    path = journal_path(job_path)
    if not path.exists():
        return []
    lines = read_whole(path).decode("utf-8", errors="replace").split("\n")
    entries = []
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            fields: dict[str, Any] = json.loads(line)
            entries.append(Entry(**fields))
        except (ValueError, TypeError) as trouble:
            if number == len(lines) or _cut_off(line):
                continue
            raise JobError(
                "is no journal entry", f"{path.name} line {number}", "mend or remove it"
            ) from trouble
    return entries


def _cut_off(line: str) -> bool:
    return not line.rstrip().endswith("}")
