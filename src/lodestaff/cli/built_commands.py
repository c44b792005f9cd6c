"""The subcommand of what was built: the plan that is kept, differences from it, who stands for them."""

import argparse
import tempfile
from datetime import date
from pathlib import Path
from typing import Any

from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.cli.output import write_job
from lodestaff.job import Job, edit
from lodestaff.job.attachments import attach
from lodestaff.quantities.errors import JobError


def built(options: argparse.Namespace) -> int:
    """What was built otherwise than planned; 1 where nobody has confirmed some of it."""
    from lodestaff.reckoning.built import as_built, confirming

    job, reckoner = open_job(options)
    day = f"{date.today():%Y-%m-%d}"
    if (options.plan or options.confirm is not None) and not options.output:
        raise JobError("nowhere to write the job", "-o", "give -o FILE as well")
    if options.plan:
        job = _planned(job, Path(options.output), by=options.by or "", day=day)
        write_job(job, Path(options.output), Path(options.job))
        return _told(options, job, ())
    built = as_built(job, reckoner.attachment)
    if built is None:
        raise JobError("no plan is kept", "as built", "keep one: --plan -o FILE")
    if options.confirm is not None:
        change = confirming(job, built, options.confirm, by=options.by or "", date=day, why=options.why or "")
        job = edit(job, change)
        write_job(job, Path(options.output), Path(options.job))
        built = as_built(job, reckoner.attachment)
        assert built is not None
    return _told(options, job, built.rows)


def _planned(job: Job, target: Path, *, by: str, day: str) -> Job:
    """The job with itself as the plan, attached where it is written to."""
    from lodestaff.reckoning.built import plan_text, planning

    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "plan.json"
        source.write_bytes(plan_text(job))
        digest = attach(target, source)
    return edit(job, *planning(digest, by=by, date=day))


def _told(options: argparse.Namespace, job: Job, rows: tuple[Any, ...]) -> int:
    plan = job.handed.plan
    left = [row for row in rows if row.confirmed is None]
    if options.json:
        dumped = [
            {"path": row.path, "planned": row.planned, "built": row.built,
             "confirmed": row.confirmed.model_dump(mode="json") if row.confirmed else None}
            for row in rows
        ]  # fmt: skip
        kept = plan.model_dump(mode="json") if plan else None
        print_json({"job": job.id, "plan": kept, "differences": dumped, "file": options.output})
    else:
        for row in rows:
            by = f"confirmed by {row.confirmed.by}" if row.confirmed else "nobody has confirmed it"
            print(f"{row.path}: {row.planned} planned, {row.built} built; {by}")
        if not rows:
            print("built as planned" if plan else "no plan is kept")
    return BLOCKED if left else FINE
