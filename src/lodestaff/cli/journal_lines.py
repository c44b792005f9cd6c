"""The journal beside a job, as commands read it."""

import sys
from pathlib import Path

from lodestaff.job.journal import Entry, load


def entries_of(job_path: Path) -> tuple[Entry, ...]:
    """All entries that can be read; lines that can't are named on standard error."""
    from lodestaff.commissioning.record import usable

    journal = load(job_path)
    entries, wrong = usable(journal.entries)
    for words in (*journal.damaged, *wrong):
        print(f"lodestaff: {words}", file=sys.stderr)
    return entries
