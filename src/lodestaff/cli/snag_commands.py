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
    found, today = snags(entries_of(path)), date.today()
    late = [one for one in found if one.late(today)]
    if options.json:
        rows = [{**asdict(one), "open": not one.done, "late": one.late(today)} for one in found]
        print_json({"job": job.id, "snags": rows})
    else:
        for one in found:
            print(_snag_line(one, today))
        if not found:
            print("no snags")
    return BLOCKED if late else FINE


def _snag_line(one: Snag, today: date) -> str:
    if one.done:
        return f"✓ {one.id} {one.text} · {one.owner} · {one.done}, {one.done_at[:10]}"
    late = ", late" if one.late(today) else ""
    return f"○ {one.id} {one.text} · {one.owner} · by {one.due}{late}"


def as_left(options: argparse.Namespace) -> int:
    """Settings and types that were read and aren't the design's; with --take, the design brought to them.
    1 where there are any that aren't taken."""
    from lodestaff.commissioning.as_left import as_left as left_of
    from lodestaff.commissioning.as_left import taking

    job, wiring = open_wiring(options)
    path = Path(options.job)
    found = left_of(job, wiring.topology, entries_of(path))
    by_step = {one.step: one for one in found}
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
        made = edit(job, *(change for one in taken for change in one.changes))
        write_job(made, Path(options.output), path)
        for kind, text, corrects in taking(taken, entries_of(path)):
            append(Path(options.output), kind, text, by=options.by, corrects=corrects)
    rows: list[dict[str, Any]] = [{**asdict(one), "taken": one in taken} for one in found]
    if options.json:
        print_json({"job": job.id, "as_left": rows, "file": options.output})
    else:
        for one in found:
            print(f"{'✓' if one in taken else '○'} {one.step}: {one.text}")
            if one.why_not:
                print(f"    can't flow back: {one.why_not}")
            for again in one.anew:
                print(f"    to be read anew: {again.step}: {again.why}")
        if not found:
            print("nothing was left otherwise than designed")
    return BLOCKED if len(taken) < len(found) else FINE
