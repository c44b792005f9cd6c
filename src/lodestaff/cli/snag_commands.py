"""Subcommands for what the day left over: snags, and devices left otherwise than designed."""

import argparse
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import Any

from lodestaff.cli.answering import open_job, open_wiring, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.cli.journal_lines import entries_of
from lodestaff.cli.output import write_job
from lodestaff.commissioning.snags import Snag, closing_data, snag_data, snag_named, snags
from lodestaff.job import edit
from lodestaff.job.journal import append
from lodestaff.quantities.errors import JobError


def snag(options: argparse.Namespace) -> int:
    """List the snags of a job; with words, write one down; with --done, close one. 1 where one is late."""
    job, _ = open_job(options)
    path = Path(options.job)
    if options.done:
        open_one = snag_named(entries_of(path), options.done)
        how = " ".join(options.words)
        data = closing_data(open_one.id, how)
        append(path, "snag", f"{open_one.text}: {how}", by=options.by, data=data)
    elif options.words:
        data = snag_data(options.owner, options.due, options.step)
        append(path, "snag", " ".join(options.words), by=options.by, data=data)
    elif options.owner or options.due or options.step:
        raise JobError("a snag has no words", "snag", "say what is wrong, after the job's file")
    all_snags, today = snags(entries_of(path)), date.today()
    late = [flaw for flaw in all_snags if flaw.late(today)]
    if options.json:
        rows = [{**asdict(flaw), "open": not flaw.done, "late": flaw.late(today)} for flaw in all_snags]
        print_json({"job": job.id, "snags": rows})
    else:
        for flaw in all_snags:
            print(_snag_line(flaw, today))
        if not all_snags:
            print("no snags")
    return BLOCKED if late else FINE


def _snag_line(flaw: Snag, today: date) -> str:
    if flaw.done:
        return f"✓ {flaw.id} {flaw.text} · {flaw.owner} · {flaw.done}, {flaw.done_at[:10]}"
    late = ", late" if flaw.late(today) else ""
    return f"○ {flaw.id} {flaw.text} · {flaw.owner} · by {flaw.due}{late}"


def as_left(options: argparse.Namespace) -> int:
    """Settings and types that were read and aren't the design's; with --take, the design brought to them.
    1 where there are any that aren't taken."""
    from lodestaff.commissioning.as_left import as_left as left_of
    from lodestaff.commissioning.as_left import taking

    job, wiring = open_wiring(options)
    path = Path(options.job)
    differences = left_of(job, wiring.topology, entries_of(path))
    by_step = {difference.step: difference for difference in differences}
    taken = []
    for step in options.take:
        if step not in by_step:
            there = ", ".join(by_step) or "nothing was left otherwise than designed"
            raise JobError(f"no device was left otherwise at {step!r}", "--take", there)
        if by_step[step].why_not:
            raise JobError(f"can't be taken: {by_step[step].why_not}", step)
        taken.append(by_step[step])
    if options.take:
        if not options.output:
            raise JobError("nowhere to write the job to", "--take", "add -o FILE")
        made = edit(job, *(change for difference in taken for change in difference.changes))
        write_job(made, Path(options.output), path)
        for kind, text, corrects in taking(taken, entries_of(path)):
            append(Path(options.output), kind, text, by=options.by, corrects=corrects)
    rows: list[dict[str, Any]] = [
        {**asdict(difference), "taken": difference in taken} for difference in differences
    ]
    if options.json:
        print_json({"job": job.id, "as_left": rows, "file": options.output})
    else:
        for difference in differences:
            print(f"{'✓' if difference in taken else '○'} {difference.step}: {difference.text}")
            if difference.why_not:
                print(f"    can't flow back: {difference.why_not}")
            for again in difference.anew:
                print(f"    to be read anew: {again.step}: {again.why}")
        if not differences:
            print("nothing was left otherwise than designed")
    return BLOCKED if len(taken) < len(differences) else FINE
