"""The subcommand that puts two copies of a job together."""

import argparse
from dataclasses import asdict
from pathlib import Path

from lodestaff.cli.answering import print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.job import load_job
from lodestaff.job.laying import lay, take_journal
from lodestaff.job.merging import merge as merge_jobs


def merge(options: argparse.Namespace) -> int:
    """Two copies part by part; 1 where both changed something otherwise and nothing says which is taken."""
    base = load_job(Path(options.base)) if options.base else None
    ours, theirs = Path(options.job), Path(options.theirs)
    merged_jobs = merge_jobs(base, load_job(ours), load_job(theirs), options.take or "ours")
    settled = not merged_jobs.clashes or bool(options.take)
    if options.output and settled:
        target = Path(options.output)
        lay(merged_jobs.job, target, homes=(ours, theirs), journal_of=ours)
        if theirs.resolve() != target.resolve():
            take_journal(theirs, target)
    written = options.output if settled else None
    if options.json:
        clashes = [asdict(other) for other in merged_jobs.clashes]
        print_json(
            {"job": merged_jobs.job.id, "taken": merged_jobs.taken, "clashes": clashes, "file": written}
        )
        return FINE if settled else BLOCKED
    for path in merged_jobs.taken:
        print(f"taken    {path}")
    for clash in merged_jobs.clashes:
        print(f"clashes  {clash.path}: {_short(clash.ours)} here, {_short(clash.theirs)} there")
    if not settled:
        print("nothing is written: say --take ours or --take theirs")
    return FINE if settled else BLOCKED


def _short(value: object) -> str:
    words = "nothing" if value is None else str(value)
    return words if len(words) <= 60 else f"{words[:57]}..."
