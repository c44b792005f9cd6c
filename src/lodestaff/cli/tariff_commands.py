"""Subcommand of the tariff: what a kWh costs by season, day and hour; as an open file in and out."""

import argparse
import json
from pathlib import Path
from typing import Any

import numpy as np

from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import FINE
from lodestaff.cli.output import write_job
from lodestaff.energy.calendar import MONTH_NAMES, month_of_step
from lodestaff.job import Change, Job, Tariff, edit
from lodestaff.job.attachments import attach
from lodestaff.quantities.disk import read_whole, write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner


def tariff(options: argparse.Namespace) -> int:
    """The tariff of a job: shown, taken from a file (`--read`), or written to one (`--write`)."""
    job, reckoner = open_job(options)
    if (options.read or options.hourly) and not options.output:
        raise JobError("no file to write", "tariff", "give -o FILE: the job with the tariff")
    if options.read:
        job = edit(job, Change("tariff", _from_file(Path(options.read), job)))
    if options.hourly:
        source = Path(options.hourly)
        prices = _checked(source)
        digest = attach(Path(options.output), source)
        job = edit(job, Change("tariff/hourly", {"sha256": digest, "name": source.name}))
        reckoner = Reckoner(lambda _: prices)
    if options.output:
        write_job(job, Path(options.output), Path(options.job))
    if options.write:
        write_whole(Path(options.write), (json.dumps(_plain(job), indent=1) + "\n").encode())
    return _shown(options, job, reckoner)


def _checked(source: Path) -> bytes:
    """Hourly prices that can be read. Raises JobError for others."""
    from lodestaff.reckoning.prices import hourly_prices

    data = read_whole(source)
    hourly_prices(data, source.name)
    return data


def _plain(job: Job) -> dict[str, Any]:
    return job.tariff.model_dump(mode="json")


def _from_file(path: Path, job: Job) -> dict[str, Any]:
    """A tariff file's fields over those of the job. Raises JobError for what is none."""
    try:
        data = json.loads(read_whole(path))
    except (ValueError, UnicodeDecodeError) as trouble:
        raise JobError(f"no JSON: {trouble}", path.name, "a tariff file as --write makes it") from trouble
    known = set(Tariff.model_fields)
    if not isinstance(data, dict) or not set(data) <= known:
        strange = sorted(set(data) - known) if isinstance(data, dict) else [type(data).__name__]
        raise JobError(f"unknown: {', '.join(strange)}", path.name, f"keys: {', '.join(sorted(known))}")
    return {**_plain(job), **data}


def _shown(options: argparse.Namespace, job: Job, reckoner: Reckoner) -> int:
    price, pay, month = reckoner.import_price(job), reckoner.export_price(job), month_of_step()
    low = reckoner.low_band(job)
    rows = [
        {
            "month": number + 1,
            "import_least": float(price[month == number].min()),
            "import_mean": float(price[month == number].mean()),
            "import_most": float(price[month == number].max()),
            "export_mean": float(pay[month == number].mean()),
            "cheap_share": float(low[month == number].mean()),
        }
        for number in range(12)
    ]
    if options.json:
        print_json({"job": job.id, "tariff": _plain(job), "months": rows})
        return FINE
    print(f"{job.tariff.currency} a kWh, import: least, mean, most; export; share of cheap hours")
    for row in rows:
        print(
            f"{MONTH_NAMES[int(row['month']) - 1][:3]}  {row['import_least']:.3f}  {row['import_mean']:.3f}  "
            f"{row['import_most']:.3f}   {row['export_mean']:.3f}   {100 * row['cheap_share']:.0f} %"
        )
    print(f"standing {job.tariff.standing_per_day:.2f} a day", end="")
    demand = job.tariff.demand_per_kw_month
    print(f"; {demand:.2f} for each kW of a month's highest quarter of an hour" if np.sign(demand) else "")
    return FINE
