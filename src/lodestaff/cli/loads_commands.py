"""Subcommands of loads and the meter: ways of backup side by side, interval data, the library of circuits."""

import argparse
from dataclasses import asdict
from pathlib import Path
from typing import Any

from lodestaff.catalogue import load_pack
from lodestaff.catalogue.library import building_kinds, library
from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import FINE
from lodestaff.cli.output import write_job
from lodestaff.energy.metering import Logged, read_intervals, recognise
from lodestaff.job import Change, FileShape, IntervalFile, Job, edit
from lodestaff.job.attachments import attach
from lodestaff.quantities.disk import read_whole
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.from_library import circuit_of
from lodestaff.reckoning.metered import logged_of, reconcile
from lodestaff.reckoning.strategies import compare_strategies
from lodestaff.shelf.prices import load_prices


def strategies(options: argparse.Namespace) -> int:
    """Whole building, essential board, outlet, board and interlock: what trips, how long, what it costs."""
    job, reckoner = open_job(options)
    compared = compare_strategies(
        reckoner, job, load_prices(Path(options.prices) if options.prices else None)
    )
    if options.json:
        rows = asdict(compared)
        print_json({"job": job.id, **rows, "schools": rows["strategies"]})  # the key of old
        return FINE
    print(
        f"hours that {compared.percentile:g} of 100 outages fall short of, in the worst month; "
        f"{compared.wanted_h:g} h are wanted"
    )
    for strategy in compared.strategies:
        trip = (
            f"trips in {strategy.trip.hours_year:g} h a year "
            f"({strategy.trip.reason}, most in {strategy.trip.month})"
            if strategy.trip.hours_year
            else "never trips"
        )
        cost = (
            f"{compared.currency} {strategy.cost:.0f}"
            if strategy.cost is not None
            else f"open: {', '.join(strategy.open_prices)}"
        )
        print(
            f"{strategy.name}: {len(strategy.held)} backed up, {len(strategy.shed)} shed first; {trip}; full "
            f"{min(strategy.full_h):.1f} h, "
            f"reserve {min(strategy.reserve_h):.1f} h; "
            f"{strategy.moved} moved, {strategy.labour_h:g} h of work, {cost}"
        )
        if strategy.trip.circuits:
            print(f"  runs then: {', '.join(strategy.trip.circuits)}")
        if strategy.by_hand:
            print(f"  by hand in an outage: {', '.join(strategy.by_hand)}")
    return FINE


def intervals(options: argparse.Namespace) -> int:
    """Recognise a file of interval data, or say what the job's own explains."""
    job, reckoner = open_job(options)
    if options.file is None:
        return _own(options, job, reckoner)
    path = Path(options.file)
    raw = read_whole(path)
    zone, offset = job.time_zone, job.site.utc_offset_h
    recognition = recognise(raw, path.name, zone, offset, job.pack.month_first)
    shape = _changed(recognition.shape, options.set)
    log = read_intervals(raw, path.name, shape, zone, offset)
    if options.output:
        digest = attach(Path(options.output), path)
        taken = IntervalFile(sha256=digest, name=path.name, shape=shape, confirmed=options.confirm)
        made = edit(job, Change("site/metered", taken.model_dump(mode="json")))
        write_job(made, Path(options.output), Path(options.job))
    if options.json:
        print_json(
            {
                "job": job.id,
                "file": path.name,
                "shape": shape.model_dump(mode="json"),
                "doubts": recognition.doubts,
                "confirmed": bool(options.confirm),
                "logged": _logged(log),
            }
        )
        return FINE
    for key, value in shape.model_dump(mode="json").items():
        print(f"{key}: {value!r}")
    for doubt in recognition.doubts:
        print(f"in doubt: {doubt}")
    _print_log(log)
    return FINE


def _changed(shape: FileShape, texts: list[str]) -> FileShape:
    """The shape with keys typed over. Raises JobError that names the key and what it takes."""
    data: dict[str, Any] = shape.model_dump(mode="json")
    for text in texts:
        key, equals, value = text.partition("=")
        if not equals or key not in data:
            raise JobError(
                f"{text!r} is no key of a shape", "--set", f"key=value with one of {', '.join(data)}"
            )
        data[key] = int(value) if value.lstrip("-").isdigit() else value.replace("\\t", "\t")
    try:
        return FileShape.model_validate(data)
    except ValueError as trouble:
        words = str(trouble).splitlines()
        raise JobError(
            " ".join(words[2].split()) if len(words) > 2 else str(trouble), f"--set {words[1]}"
        ) from trouble


def _own(options: argparse.Namespace, job: Job, reckoner: Reckoner) -> int:
    log = logged_of(reckoner, job)
    if log is None:
        raise JobError("the job has no interval data", "intervals", "name a CSV file of the meter")
    explained = reconcile(reckoner, job, log)
    figures = {
        key: value
        for key, value in asdict(explained).items()
        if key.endswith("kwh") or key.startswith("base")
    }
    if options.json:
        print_json({"job": job.id, "logged": _logged(log), "reconciled": figures})
        return FINE
    _print_log(log)
    print(f"a year: logged {explained.measured_kwh:.0f} kWh, circuits {explained.circuits_kwh:.0f} kWh")
    print(
        f"in no circuit: {explained.unexplained_kwh:.0f} kWh; of the circuits' not logged: "
        f"{explained.over_kwh:.0f} kWh"
    )
    print(f"always drawn: logged {explained.base_kw:.2f} kW, circuits {explained.base_circuits_kw:.2f} kW")
    return FINE


def _logged(log: Logged) -> dict[str, Any]:
    kw, when = log.highest()
    first, last = log.span()
    return {
        "first": first,
        "last": last,
        "interval_min": log.interval_min,
        "days": log.days,
        "covered": log.covered,
        "total_kwh": log.total_kwh,
        "highest_kw": kw,
        "highest_at": when,
        "gaps": len(log.gaps),
        "notes": list(log.notes),
    }


def _print_log(log: Logged) -> None:
    row = _logged(log)
    print(
        f"{row['first']} to {row['last']}, {row['interval_min']} minutes: {row['total_kwh']:.0f} kWh, "
        f"{row['covered'] * 100:.1f} % of {row['days']:.0f} days, {row['gaps']} gaps"
    )
    print(f"highest {row['highest_kw']:.2f} kW on {row['highest_at']}")
    for note in log.notes:
        print(note)


def circuits(options: argparse.Namespace) -> int:
    """The library of ordinary circuits; with `--add` circuits of it are put into a job."""
    pack = load_pack(options.pack).beginning.circuits
    if options.plate:
        return _plate(options)
    if options.job:
        job, _ = open_job(options)
        pack = job.pack.beginning.circuits
        building = options.building or job.site.building or "house"
    else:
        job, building = None, options.building or ""
    if not building:
        kinds = [{"building": key, "title": title} for key, title in building_kinds().items()]
        if options.json:
            print_json({"buildings": kinds})
        else:
            print("\n".join(f"{kind['building']}: {kind['title']}" for kind in kinds))
        return FINE
    library_rows = library(building, pack, job is not None and job.site.latitude_deg < 0)
    if options.add:
        if job is None:
            raise JobError("--add needs a job", "circuits", "lodestaff circuits --job JOB --add ID -o FILE")
        return _add(options, job, building, library_rows)
    rows: list[dict[str, Any]] = [
        {
            "id": row.id,
            "name": row.name,
            "usual": row.usual,
            **{
                key: row.values.get(key)
                for key in ("running_w", "kwh_year", "role", "use", "start_multiple", "power_factor")
            },
        }
        for row in library_rows
    ]
    if options.json:
        print_json({"building": building, "pack": pack, "circuits": rows})
    else:
        for row in rows:
            print(
                f"{row['id']:<14} {row['name']:<28} {row['running_w']:>6} W {row['kwh_year']:>6} kWh  "
                f"{row['role']}"
            )
    return FINE


def _plate(options: argparse.Namespace) -> int:
    """A job with a circuit as its motor's plate has it: what the circuit draws, and how it starts."""
    from datetime import date

    from lodestaff.electrical.plate import plate_changes

    if not options.job or not options.output:
        raise JobError("--plate writes a job", "circuits", "name one with --job JOB and another with -o FILE")
    job, _ = open_job(options)
    id, text = options.plate
    circuit = next((circuit for circuit in job.circuits if circuit.id == id), None)
    if circuit is None:
        right = f"one of {', '.join(circuit.id for circuit in job.circuits)}"
        raise JobError(f"no circuit {id!r}", "--plate", right)
    words, changes = plate_changes(job, circuit, text, read_on=f"{date.today():%Y-%m-%d}")
    taken = edit(job, *changes)
    write_job(taken, Path(options.output), Path(options.job))
    now = taken.circuit(id)
    row = {key: getattr(now, key) for key in ("running_w", "power_factor", "start_multiple", "start_kva")}
    print_json({"job": job.id, "circuit": id, **row}) if options.json else print(f"{circuit.name} {words}")
    return FINE


def _add(options: argparse.Namespace, job: Job, building: str, kinds: Any) -> int:
    by_id = {row.id: row for row in kinds}
    rows = [c.model_dump(mode="json") for c in job.circuits]
    for id in options.add:
        if id not in by_id:
            raise JobError(f"no circuit {id!r} for {building}", "--add", f"one of {', '.join(by_id)}")
        rows.append(circuit_of(job, by_id[id], {row["id"] for row in rows}).model_dump(mode="json"))
    if not options.output:
        raise JobError("--add writes a job", "circuits", "name it with -o FILE")
    write_job(edit(job, Change("circuits", rows)), Path(options.output), Path(options.job))
    print_json({"job": job.id, "added": options.add}) if options.json else print(
        f"added: {', '.join(options.add)}"
    )
    return FINE
