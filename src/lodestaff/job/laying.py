"""The one way to lay a job down: its attachments and its journal come along, the design is written last."""

import hashlib
import os
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from lodestaff.job.attachments import carry
from lodestaff.job.file import load_job, save_job
from lodestaff.job.journal import Entry, append_entries, aside_path, journal_path, put_aside, read
from lodestaff.job.model import Job
from lodestaff.quantities.disk import read_whole, shown_path, write_whole
from lodestaff.quantities.errors import JobError


@dataclass(frozen=True)
class Laid:
    """What came of it: attachments found nowhere, and a journal of another job that was put aside."""

    lost: tuple[str, ...] = ()
    aside: Path | None = None

    @property
    def words(self) -> str:
        """What a person must know of it; '' where nothing."""
        swept = []
        if self.lost:
            names = ", ".join(digest[:12] for digest in self.lost)
            swept.append(f"{len(self.lost)} attachments were found nowhere: {names}")
        if self.aside is not None:
            swept.append(f"the journal of another job that lay there is kept as {self.aside.name}")
        return "; ".join(swept)


def lay(job: Job, target: Path, homes: Sequence[Path] = (), journal_of: Path | None = None) -> Laid:
    """Save a job at a path; when this returns, all of it is on disk.

    `homes` are jobs beside which its attachments may lie, `journal_of` the one whose journal is this job's. A
    journal that lies there already is added to where it is the same job's, kept aside where it is another's.
    """
    if not target.parent.is_dir():
        raise JobError("that folder does not exist", shown_path(target.parent), "make it first")
    lost = carry(job, homes, target)
    aside = None
    if journal_of is None or not _same(journal_of, target):
        if journal_path(target).exists() and not _lies_there(job, target):
            aside = put_aside(target)
        if journal_of is not None and journal_path(journal_of).exists():
            take_journal(journal_of, target)
    save_job(job, target)
    return Laid(lost, aside)


def _lies_there(job: Job, target: Path) -> bool:
    try:
        return load_job(target).id == job.id
    except JobError:
        return False


def _same(a: Path, b: Path) -> bool:
    return os.path.realpath(a) == os.path.realpath(b)


def take_journal(source: Path, target: Path) -> None:
    """Bring a job's journal to where another copy of it lies: whole, or what that copy's doesn't have yet."""
    if not journal_path(target).exists():
        for find in (aside_path, journal_path):
            if find(source).exists():
                write_whole(find(target), read_whole(find(source)))
        return
    append_entries(target, merged(read(target), read(source)))


def merged(there: Sequence[Entry], others: Sequence[Entry]) -> list[Entry]:
    """Entries of another journal of the same job that this one lacks. They keep their ids; older ones, which
    have a number only, are told by what they say, and corrections follow them."""
    known = {_lasting(entry): entry.id for entry in there}
    names = {entry.id: known.get(_lasting(entry), _lasting(entry)) for entry in others}
    entries = []
    for entry in others:
        if _lasting(entry) not in known:
            corrects = None if entry.corrects is None else names.get(str(entry.corrects), str(entry.corrects))
            entries.append(replace(entry, id=_lasting(entry), corrects=corrects))
    return entries


def _lasting(entry: Entry) -> str:
    """The id of an entry in whatever journal it stands; one with a number only gets one of what it says."""
    if not entry.id.isdigit():
        return entry.id
    words = repr((entry.kind, entry.text, entry.at, entry.by, entry.corrects, entry.data))
    return f"e{hashlib.sha256(words.encode('utf-8', errors='replace')).hexdigest()[:12]}"
