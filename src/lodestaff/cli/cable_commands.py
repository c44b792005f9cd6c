"""The subcommand of cables: every run, what flows in it, what is proposed for it."""

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from lodestaff.checks import Finding
from lodestaff.checks.runs import Run
from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.cli.output import write_job
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError

if TYPE_CHECKING:
    from lodestaff.reckoning.cabling import Proposed


def cables(options: argparse.Namespace) -> int:
    """Runs as they stand; with `--propose` or `--anew` what the pack's tables would give them."""
    from lodestaff.reckoning.cabling import Proposed, findings_of, proposed, taking
    from lodestaff.reckoning.records.runs import runs

    job, reckoner = open_job(options)
    proposing = options.propose or options.anew
    if options.output and not proposing:
        raise JobError("nothing to write", "-o", "give --propose or --anew as well")
    if proposing:
        proposals = proposed(reckoner, job, only=options.run, anew=options.anew)
    else:
        proposals = tuple(
            Proposed(run, run.cable, findings_of(run) if run.cable is not None else ())
            for run in runs(reckoner, job, False)
            if options.run in ("", run.id)
        )
        if options.run and not proposals:
            raise JobError(f"no run {options.run!r}", "--run", "leave --run out to see them")
    if options.output:
        write_job(taking(job, proposals), Path(options.output), Path(options.job))
    rows = [_row(job, proposal, proposing) for proposal in proposals]
    if options.json:
        print_json({"job": job.id, "proposed": proposing, "runs": rows, "file": options.output})
    else:
        for proposal in proposals:
            _print(proposal.run, proposal.findings, proposal.why_not)
        if not proposals:
            print("every run has a cable")
    return BLOCKED if any(finding.blocks for proposal in proposals for finding in proposal.findings) else FINE


def _row(job: Job, proposal: "Proposed", proposing: bool) -> dict[str, Any]:
    run, cable, standing = proposal.run, proposal.run.cable, proposal.standing
    fields = cable.model_dump(mode="json") if cable is not None else {}
    return {
        "id": run.id,
        "name": run.name,
        "use": run.use,
        "current_a": run.design_a,
        "state": run.state,
        "load_a": dict(run.load_a),
        "source_a": dict(run.source_a),
        "size": job.pack.size_words(cable.size_mm2) if cable is not None else None,
        "cable": fields or None,
        "standing": standing.model_dump(mode="json") if standing is not None and proposing else None,
        "why_not": proposal.why_not,
        "findings": [
            {"code": each.code, "verdict": str(each.verdict), "text": each.text} for each in proposal.findings
        ],
    }


def _print(run: Run, findings: tuple[Finding, ...], why_not: str) -> None:
    cable, state = run.cable, f" ({run.state})" if run.state else ""
    head = f"{run.name}: {text_of(run.design_a, 'A')}{state}"
    if why_not or cable is None:
        print(f"{head}: {why_not or 'no cable chosen yet'}")
        return
    device = f", {cable.curve or ''}{plain(cable.device_a)} A" if cable.device_a else ""
    guard = f", {plain(cable.rcd_ma)} mA type {cable.rcd_type or '?'}" if cable.rcd_ma else ""
    earth = f", PE {run.pack.size_words(cable.cpc_mm2)}" if cable.cpc_mm2 else ""
    print(
        f"{head}: {run.pack.size_words(cable.size_mm2)} {cable.table}, {plain(cable.length_m)} m"
        f"{device}{earth}{guard}{f'; {cable.why}' if cable.why else ''}"
    )
    for finding in findings:
        print(f"    {finding.status:7} {finding.code:10} {finding.text}")


def schedules(options: argparse.Namespace) -> int:
    """Schedules as rows; `--csv` writes each as a file of numbers and words, headings with their units."""
    from lodestaff.exchange.cells import csv_text
    from lodestaff.reckoning.costing import all_schedules as made
    from lodestaff.reckoning.schedules import label_schedule
    from lodestaff.shelf.prices import load_prices

    job, reckoner = open_job(options)
    book = load_prices(Path(options.prices) if options.prices else None)
    tables = made(reckoner, job, book)
    if options.only:
        known = ", ".join(schedule.id for schedule in tables)
        tables = tuple(schedule for schedule in tables if schedule.id == options.only)
        if not tables:
            raise JobError(f"no schedule {options.only!r}", "--only", f"schedules: {known}")
    written = []
    if options.csv:
        folder = Path(options.csv)
        folder.mkdir(parents=True, exist_ok=True)
        for schedule in tables:
            target = folder / f"{job.id}-{schedule.id}.csv"
            if target.exists() and not options.force:
                raise JobError("a file is there already", str(target), "give another folder, or --force")
            write_whole(
                target, csv_text(tuple(head.words for head in schedule.heads), schedule.rows).encode()
            )
            written.append(str(target))
    if options.labels:
        from lodestaff.exchange.label_sheet import label_sheet

        labels = [(str(text), str(place)) for place, text, _ in label_schedule(reckoner, job).rows]
        target = Path(options.labels)
        write_whole(target, label_sheet(labels, job.pack.paper, job.title))
        written.append(str(target))
    if options.json:
        rows = [
            {
                "id": schedule.id,
                "title": schedule.title,
                "columns": [{"heading": head.heading, "unit": head.unit} for head in schedule.heads],
                "rows": [list(row) for row in schedule.rows],
            }
            for schedule in tables
        ]
        print_json({"job": job.id, "schedules": rows, "files": written})
        return FINE
    for schedule in tables:
        print(f"{schedule.title}: {len(schedule.rows)}")
        for texts in schedule.texts():
            print("  " + "; ".join(texts))
    return FINE
