"""One function per subcommand: read, ask the reckoner, print words or JSON."""

import argparse
import json
from dataclasses import asdict, fields
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from lodestaff.catalogue import load_pack
from lodestaff.catalogue.pack import pack_names
from lodestaff.checks import CHECKS, Finding
from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.job import Job, load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import grouped, plain
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner

if TYPE_CHECKING:
    from lodestaff.job.handed import PackPart


def finding_dict(finding: Finding) -> dict[str, Any]:
    """The documented keys of a finding."""
    figure = finding.figure
    return {
        "code": finding.code,
        "rule": finding.rule,
        "owner": finding.owner,
        "verdict": str(finding.verdict),
        "open": finding.open,
        "open_because": list(finding.open_because),
        "status": finding.status,
        "text": finding.text,
        "advice": finding.advice,
        "state": finding.state,
        "subjects": list(finding.subjects),
        "value": finding.value,
        "unit": finding.unit,
        "limit": finding.limit,
        "margin": finding.margin,
        "limit_source": None if finding.limit_source is None else str(finding.limit_source),
        "quantity": finding.quantity,
        "working": None
        if figure is None
        else {
            "name": figure.name,
            "formula": figure.formula,
            "inputs": [asdict(each) for each in figure.inputs],
            "source": str(figure.source),
            "note": figure.note,
        },
        "remedies": [
            {"name": remedy.name, "changes": [asdict(change) for change in remedy.changes]}
            for remedy in finding.remedies
        ],
    }


def check(options: argparse.Namespace) -> int:
    """Findings of a job; 1 where one blocks."""
    from lodestaff.cli.journal_lines import entries_of
    from lodestaff.commissioning.record import proof_of
    from lodestaff.reckoning.findings import findings

    job, reckoner = open_job(options)
    proof = proof_of(job, reckoner.wiring(job).topology, entries_of(Path(options.job)))
    answers = findings(reckoner, job, proof=proof)
    blocking = sum(finding.blocks for finding in answers)
    if options.json:
        print_json(
            {
                "job": job.id,
                "title": job.title,
                "blocks": blocking,
                "findings": [finding_dict(finding) for finding in answers],
            }
        )
    else:
        for finding in answers:
            print(f"{finding.status:7} {finding.code:12} {finding.text}")
            if finding.status != "passed":
                for why in finding.open_because:
                    print(f"{'':20} open: {why}")
                for remedy in finding.remedies:
                    print(f"{'':20} remedy: {remedy.name}")
        print(f"{len(answers)} findings, {blocking} that block")
    return BLOCKED if blocking else FINE


def checks(options: argparse.Namespace) -> int:
    """The registered checks, or what one of them is."""
    from lodestaff.checks.table import checks_named

    named_checks = checks_named(options.code) if options.code else CHECKS
    rows = [
        {
            "code": c.code,
            "rule": c.rule,
            "station": c.station,
            "question": c.question,
            "limit_from": c.limit_from,
            "rests_on": [field.name for field in fields(c.record)],
            "packs": [name for name in pack_names() if c.applies(load_pack(name))],
        }
        for c in named_checks
    ]
    if options.json:
        print_json(rows)
        return FINE
    for c, row in zip(named_checks, rows, strict=True):
        if not options.code:
            print(f"{c.code:12} {c.station:7} {c.question} Limit: {c.limit_from}.")
            continue
        print(f"{c.rule}\n  asks: {c.question}\n  station: {c.station}\n  limit from: {c.limit_from}")
        print(f"  rests on: {', '.join(row['rests_on'])}\n  packs: {', '.join(row['packs'])}")
    return FINE


def simulate(options: argparse.Namespace) -> int:
    """The year's figures, and the series as CSV on request."""
    from lodestaff.reckoning.figures import imbalance_kwh
    from lodestaff.reckoning.spread import spread

    job, reckoner = open_job(options)
    figures, year = reckoner.figures(job), reckoner.year(job)
    imbalance = imbalance_kwh(year, reckoner.converters(job))
    ranges = spread(reckoner, job) if options.spread else None
    if options.csv:
        _write_series(Path(options.csv), job, reckoner)
    if options.json:
        values = asdict(figures)
        money = values.pop("money")
        values |= {
            "bill": figures.bill,
            "bill_without": money["without"],
            "saving": figures.money.saving,
            "import_cost": money["import_cost"],
            "export_income": money["export_income"],
            "standing": money["standing"],
            "currency": job.tariff.currency,
        }
        if figures.off_grid:  # nothing is bought or sold
            values |= dict.fromkeys(
                ("bill", "bill_without", "saving", "import_cost", "export_income", "standing")
            )
        print_json(
            {
                "job": job.id,
                "weather": reckoner.weather(job).source,
                "steps": year.load_kw.shape[1],
                "figures": values,
                "largest_imbalance_kwh": imbalance,
                "spread": {name: asdict(band) for name, band in ranges.items()} if ranges else None,
            }
        )
        return FINE
    past = (("of it past the limit", figures.past_limit_kwh),) if figures.past_limit_kwh > 0 else ()
    grid = (("imported", figures.import_kwh), ("exported", figures.export_kwh), *past)
    generator = (("of the generator", figures.generator_kwh),) if figures.generator_h > 0 else ()
    rows = (
        ("produced", figures.pv_kwh),
        ("asked for by circuits" if figures.off_grid else "taken by the circuits", figures.load_kwh),
        ("own use of units", figures.own_use_kwh),
        *((("unserved", figures.unserved_kwh), *generator) if figures.off_grid else grid),
        ("curtailed", figures.curtailed_kwh),
        ("clipped", figures.clipped_kwh),
        ("out of the battery", figures.battery_out_kwh),
    )
    for name, value in rows:
        print(f"{name:24} {text_of(value, 'kWh'):>14}")
    if not figures.off_grid:
        print(f"{'own sun used on site':24} {figures.self_consumption * 100:>12.1f} %")
    words = "served" if figures.off_grid else "met without import"
    print(f"{words:24} {figures.self_sufficiency * 100:>12.1f} %")
    print(f"{'battery cycles':24} {figures.cycles:>14.0f}")
    if figures.generator_h > 0:
        fuel = "fuel unknown" if figures.fuel_litres is None else text_of(figures.fuel_litres, "l", 0)
        starts = f"{figures.generator_starts} start{'s' if figures.generator_starts != 1 else ''}"
        runs = f"{starts}, {fuel}"
        print(f"{'generator runs':24} {text_of(figures.generator_h, 'h', 0):>14}  ({runs})")
    if not figures.off_grid:
        print(
            f"{'bill':24} {grouped(figures.bill):>10} {job.tariff.currency}  (without: "
            f"{grouped(figures.money.without)})"
        )
    if ranges is not None:
        unit = {"bill": job.tariff.currency, "cycles": "", "generator_h": "h"}
        for name, band in ranges.items():
            share = 100.0 if name.startswith("self_") else 1.0
            if (name != "bill" or not figures.off_grid) and band.high > 0:
                ends = " to ".join(plain(band.rounded(value) * share, 0) for value in (band.low, band.high))
                words = "%" if share > 1 else unit.get(name, "kWh")
                print(f"{name.removesuffix('_kwh').replace('_', ' '):24} {ends} {words} in ten years")
    print(f"balance of every step within {max(imbalance.values()):.1e} kWh")
    return FINE


def _write_series(path: Path, job: Job, reckoner: Reckoner) -> None:
    import pandas as pd

    from lodestaff.energy.calendar import STEP_H, STEPS, YEAR
    from lodestaff.reckoning.selectors import energy_phases

    year = reckoner.year(job)
    offset = job.site.utc_offset_h
    zone = f"{'-' if offset < 0 else '+'}{int(abs(offset)):02d}:{round(abs(offset) % 1 * 60):02d}"
    start = pd.date_range(f"{YEAR}-01-01", periods=STEPS, freq=pd.Timedelta(hours=STEP_H))
    columns: dict[str, Any] = {"start": start.strftime("%Y-%m-%dT%H:%M") + zone}
    for p, phase in enumerate("+".join(group) for group in energy_phases(job)):
        columns[f"load_kw_{phase}"] = year.load_kw[p]
        columns[f"own_use_kw_{phase}"] = year.own_use_kw[p]
        columns[f"grid_kw_{phase}"] = year.series.grid_kw[p]
        if year.surplus_kw is not None:
            columns[f"surplus_kw_{phase}"] = year.surplus_kw[p]
    if year.island is not None:
        columns |= {"generator_kw": year.island.generator_kw, "unserved_kw": year.island.unserved_kw}
    for u, unit in enumerate(job.units):
        for name in (
            "pv_ac_kw",
            "battery_ac_kw",
            "pv_dc_kw",
            "battery_dc_kw",
            "clipped_kw",
            "curtailed_kw",
            "energy_kwh",
        ):
            columns[f"{name}_{unit.id}"] = getattr(year.series, name)[u]
    text = pd.DataFrame(columns).to_csv(index=False, float_format="%.6g", lineterminator="\n")
    write_whole(path, text.encode("utf-8"))


def diff(options: argparse.Namespace) -> int:
    """Two versions side by side."""
    from lodestaff.commissioning.again import read_anew
    from lodestaff.commissioning.procedure import procedure
    from lodestaff.reckoning.compare import compare, difference_text

    def opened(path: Path) -> tuple[Job, Reckoner]:
        return load_job(path), Reckoner(lambda digest: read_attachment(path, digest))

    (a, reckoner_a), (b, reckoner_b) = opened(Path(options.a)), opened(Path(options.b))
    rows = compare(reckoner_a, a, reckoner_b, b)
    before, after = (procedure(j, r.wiring(j).topology) for j, r in ((a, reckoner_a), (b, reckoner_b)))
    anew = read_anew(before, after)
    if options.json:
        told = [{**asdict(row), "same": row.same} for row in rows]
        print_json({"a": options.a, "b": options.b, "rows": told, "anew": [asdict(each) for each in anew]})
        return FINE
    for row in rows:
        print(f"{row.group:9} {row.name:44} {row.a:>22} {row.b:>22} {difference_text(row):>14}")
    for each in anew:
        print(f"to take anew ({each.why}): {each.text}")
    return FINE


def pack_parts(text: str | None) -> "tuple[PackPart, ...]":
    """Parts of the pack as they were typed; () for those that the job has. Raises JobError for one that is
    none."""
    from lodestaff.handover import PART_NAMES

    parts = tuple(part.strip() for part in text.split(",")) if text else ()
    for part in parts:
        if part not in PART_NAMES:
            raise JobError(f"no part {part!r}", "--parts", f"choose from {', '.join(PART_NAMES)}")
    return tuple(part for part in PART_NAMES if part in parts)


def report(options: argparse.Namespace) -> int:
    """Write the pack: PDF, workbook or diagram by the file's ending."""
    from lodestaff.cli.journal_lines import entries_of
    from lodestaff.exchange import written
    from lodestaff.handover import HandoverInput, pages
    from lodestaff.handover.other_parts import operator_data
    from lodestaff.register import load_register
    from lodestaff.shelf.prices import load_prices

    job, reckoner = open_job(options)
    target = Path(options.output) if options.output else Path(options.job).with_suffix(".pdf")
    register = load_register(Path(options.register) if options.register else None)
    prices = load_prices(Path(options.prices)) if options.prices else None
    given = HandoverInput(
        job,
        entries_of(Path(options.job)),
        register=register,
        printed=date.today(),
        prices=prices,
        parts=pack_parts(options.parts),
        workings=options.workings,
    )
    sheets = pages(reckoner, given)
    if options.notify:
        write_whole(Path(options.notify), json.dumps(operator_data(job, register), indent=1).encode() + b"\n")
    write_whole(target, written(target, reckoner, given, sheets))
    missing = [{"page": page.id, "missing": list(page.missing)} for page in sheets if page.missing]
    if options.json:
        print_json(
            {"job": job.id, "file": str(target), "pages": [page.id for page in sheets], "missing": missing}
        )
        return FINE
    print(target)
    for page in sheets:
        for gap in page.missing:
            print(f"  {page.title}: {gap}")
    return FINE


def schema(options: argparse.Namespace) -> int:
    """The JSON Schema of the design document."""
    from lodestaff.job.schema import job_schema

    print_json(job_schema())
    return FINE


def pack(options: argparse.Namespace) -> int:
    """One file of all three."""
    from lodestaff.job.packing import pack as pack_job

    names = pack_job(Path(options.job), Path(options.file), options.incomplete)
    if options.json:
        print_json({"file": options.file, "holds": names})
    else:
        print(f"{options.file}: {', '.join(names)}")
    return FINE


def unpack(options: argparse.Namespace) -> int:
    """A packed job laid out."""
    from lodestaff.job.packing import unpack as unpack_job

    names = unpack_job(Path(options.file), Path(options.job), options.journal, options.incomplete)
    if options.json:
        print_json({"job": options.job, "holds": names})
    else:
        print(f"{options.job}: {', '.join(names)}")
    return FINE
