"""The journal: append-only JSON lines beside the design; corrected by a further entry, never undone.

A line ends with its entry's id and a checksum of what stands before. Lines without are older ones: they read
for ever, and are named by their number.
"""

import fcntl
import hashlib
import json
import os
import uuid
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from lodestaff.quantities.disk import cure_of, read_whole, shown_path, sync_folder
from lodestaff.quantities.errors import JobError

KINDS = ("reading", "snag", "serial", "decision", "setting", "work", "note", "correction")
FIELDS = ("kind", "text", "at", "by", "corrects", "data", "id")


@dataclass(frozen=True)
class Entry:
    """One line: what kind, what is said, when, by whom; a correction names the entry it corrects.

    `data` holds what a reading or serial is made of, for the program; `text` says it for people.
    """

    kind: str
    text: str
    at: str
    by: str
    corrects: str | int | None = None
    data: dict[str, Any] | None = None
    id: str = ""


@dataclass(frozen=True)
class Journal:
    """All entries that can be read, and of the lines that can't be what is wrong."""

    entries: tuple[Entry, ...] = ()
    damaged: tuple[str, ...] = ()


def journal_path(job_path: Path) -> Path:
    return job_path.with_name(job_path.stem + ".journal.jsonl")


def aside_path(job_path: Path) -> Path:
    """Where what was cut off is kept."""
    return job_path.with_name(job_path.stem + ".journal.aside")


def named(entries: Sequence[Entry]) -> Iterator[tuple[str, Entry]]:
    """Every entry with what it is named by: its id, or, where it has none, its number."""
    for number, entry in enumerate(entries, start=1):
        yield entry.id or str(number), entry


def standing(entries: Sequence[Entry], kind: str) -> Iterator[tuple[str, Entry]]:
    """Entries of a kind, with their data, that no correction has withdrawn."""
    withdrawn = {str(entry.corrects) for entry in entries if entry.kind == "correction"}
    for name, entry in named(entries):
        if entry.kind == kind and entry.data is not None and name not in withdrawn:
            yield name, entry


def append(
    job_path: Path,
    kind: str,
    text: str,
    by: str = "",
    corrects: str | int | None = None,
    data: dict[str, Any] | None = None,
) -> Entry:
    """Append an entry; when this returns, the entry is on disk. Where it raises, nothing of it is.

    A tail that a crash left is cut off first and kept aside. Raises JobError where the kind is unknown, the
    corrected entry is not there, or the disk refuses.
    """
    if kind not in KINDS:
        raise JobError(f"no kind of entry {kind!r}", "journal", f"kinds: {', '.join(KINDS)}")
    path = journal_path(job_path)
    if corrects is not None and str(corrects) not in {entry.id for entry in read(job_path)}:
        raise JobError(f"there is no line {corrects} to correct", path.name)
    at = datetime.now(UTC).isoformat(timespec="seconds")
    id = f"e{uuid.uuid4().hex[:12]}"
    entry = Entry(kind, text, at=at, by=by, corrects=corrects, data=data, id=id)
    append_entries(job_path, [entry])
    return entry


def append_entries(job_path: Path, entries: Sequence[Entry]) -> None:
    """Append whole entries, all or none; when this returns, they are on disk."""
    path = journal_path(job_path)
    if not entries:
        return
    try:
        fresh = not path.exists()
        with path.open("ab") as stream:
            fcntl.flock(stream, fcntl.LOCK_EX)
            end = _mended(job_path, stream.fileno())
            try:
                stream.write(b"".join(line_of(entry) for entry in entries))
                stream.flush()
                os.fsync(stream.fileno())
            except OSError as trouble:
                _taken_back(stream.fileno(), end, path, trouble)
                raise
        if fresh:
            sync_folder(path.parent)
    except (OSError, ValueError) as trouble:
        raise JobError("the entry could not be written", shown_path(path), cure_of(trouble)) from trouble


def _taken_back(descriptor: int, end: int, path: Path, trouble: OSError) -> None:
    """Leave nothing of what was refused. Raises JobError that says so where the disk refuses this too."""
    try:
        os.ftruncate(descriptor, end)
    except OSError:
        what = "the disk refuses everything: whether the entry is kept can't be told"
        raise JobError(what, shown_path(path), "read the journal anew") from trouble


def line_of(entry: Entry) -> bytes:
    """An entry as its line, checksum and all."""
    written = json.dumps({field: getattr(entry, field) for field in FIELDS}, ensure_ascii=False)
    return f'{written[:-1]}, "sum": "{_sum(written[:-1])}"}}\n'.encode("utf-8", errors="backslashreplace")


def _sum(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8", errors="backslashreplace")).hexdigest()[:16]


def _mended(job_path: Path, descriptor: int) -> int:
    """Bring the end of the journal to the end of a line; returns where it then ends."""
    path = journal_path(job_path)
    size = os.fstat(descriptor).st_size
    raw = read_whole(path) if size else b""
    whole, _, tail = raw.rpartition(b"\n")
    if not tail:
        return size
    if isinstance(_entry(tail.decode("utf-8", errors="replace")), Entry):
        os.write(descriptor, b"\n")
        return size + 1
    with aside_path(job_path).open("ab") as aside:
        aside.write(tail + b"\n")
        aside.flush()
        os.fsync(aside.fileno())
    end = len(whole) + 1 if raw.count(b"\n") else 0
    os.ftruncate(descriptor, end)
    return end


def put_aside(job_path: Path) -> Path:
    """Keep a journal under another name, so that the job begins a new one; returns that name."""
    old = journal_path(job_path)
    kept = old.with_name(f"{old.stem}-{datetime.now():%Y%m%dT%H%M%S%f}.jsonl")
    try:
        old.rename(kept)
    except OSError as trouble:
        raise JobError("the journal could not be put aside", shown_path(old), cure_of(trouble)) from trouble
    return kept


def read(job_path: Path) -> list[Entry]:
    """All entries that can be read."""
    return list(load(job_path).entries)


def load(job_path: Path) -> Journal:
    """Read a journal. A damaged line is left out and named; so is a last one that a crash cut off, which was
    never acknowledged. Raises JobError where the file can't be read at all."""
    path = journal_path(job_path)
    return parse(read_whole(path), path.name) if path.exists() else Journal()


def parse(raw: bytes, name: str) -> Journal:
    """A journal from its bytes."""
    lines = raw.decode("utf-8", errors="replace").split("\n")
    entries: list[Entry] = []
    damaged = []
    count = 0  # of all lines, read or not: old corrections name their line by it
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        count += 1
        outcome = _entry(line)
        if isinstance(outcome, Entry):
            entries.append(replace(outcome, id=outcome.id or str(count)))
        elif number == len(lines):
            damaged.append(
                f"{name} line {number} was cut off by a crash and never acknowledged; it is left out"
            )
        else:
            damaged.append(f"{name} line {number} {outcome}; it is left out, all others are read")
    return Journal(tuple(entries), tuple(damaged))


def _entry(line: str) -> Entry | str:
    """The entry of a line, or what is wrong with it."""
    try:
        fields = json.loads(line)
    except (ValueError, RecursionError):
        return "is no journal entry"
    if not isinstance(fields, dict):
        return "is no journal entry"
    told = fields.pop("sum", None)
    if told is not None and told != _sum(line.rstrip()[: line.rstrip().rfind(', "sum"')]):
        return "was changed"
    kinds = {"kind": str, "text": str, "at": str, "by": str, "id": str}
    kept = {key: value for key, value in fields.items() if key in FIELDS} if told is not None else fields
    try:
        entry = Entry(**kept)
    except TypeError:
        return "is no journal entry"
    right = all(isinstance(getattr(entry, key), kind) for key, kind in kinds.items())
    right = right and isinstance(entry.corrects, str | int | None) and isinstance(entry.data, dict | None)
    return entry if right else "is no journal entry"
