"""Subcommands for equipment and money: shelf, replace, cost."""

import argparse
from dataclasses import asdict
from pathlib import Path
from typing import Any

from lodestaff.catalogue.entry import shown, typed
from lodestaff.catalogue.kinds import kind_named
from lodestaff.catalogue.reference import reference_page
from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.cli.output import write_job
from lodestaff.job import Known, load_job
from lodestaff.quantities import text_of
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.compare import compare, difference_text
from lodestaff.shelf import Entry, Shelf, load_shelf, save_shelf
from lodestaff.shelf.prices import doubts, load_prices, one_more_module
from lodestaff.shelf.replace import offers, replaced


def _shelf_of(options: argparse.Namespace) -> tuple[Shelf, Path | None]:
    path = Path(options.shelf) if options.shelf else None
    if path is not None and not path.exists() and options.what in ("import", "set"):
        return Shelf(), path
    return load_shelf(path), path


def shelf(options: argparse.Namespace) -> int:
    """The shelf: list, show, fields, check, import, export, set, remove, offers."""
    doing = {"list": _list, "show": _show, "fields": _fields, "check": _check, "import": _import,
             "export": _export,
             "set": _set, "remove": _remove, "offers": _offers}  # fmt: skip
    return doing[options.what](options)


def _need(options: argparse.Namespace, count: int, words: str) -> list[str]:
    given: list[str] = options.words
    if len(given) < count:
        raise JobError(f"`shelf {options.what}` needs {words}", "shelf")
    return given


def _entry_dict(entry: Entry) -> dict[str, Any]:
    return {
        "id": entry.id,
        "kind": entry.kind,
        "name": entry.name,
        "values": entry.values,
        "known": {row.key: str(entry.known_of(row.key)) for row in entry.of.rows if row.key in entry.values},
        "missing": list(entry.missing),
        "remarks": [asdict(remark) for remark in entry.remarks],
        "note": entry.note,
        "file": entry.file,
    }


def _list(options: argparse.Namespace) -> int:
    own_shelf, _ = _shelf_of(options)
    kinds = [kind_named(word).id for word in options.words]
    entries = [entry for entry in own_shelf.entries if not kinds or entry.kind in kinds]
    if options.json:
        print_json({"entries": [_entry_dict(entry) for entry in entries]})
        return FINE
    for entry in entries:
        missing = f"  missing: {', '.join(entry.missing)}" if entry.missing else ""
        print(f"{entry.kind:13} {entry.id:18} {entry.name}{missing}")
    return FINE


def _show(options: argparse.Namespace) -> int:
    own_shelf, _ = _shelf_of(options)
    entry = own_shelf.get(_need(options, 1, "an id")[0])
    if options.json:
        print_json(_entry_dict(entry))
        return FINE
    for row in entry.of.rows:
        value = shown(row, entry.values.get(row.key)) or "-"
        known = str(entry.known_of(row.key)) if row.key in entry.values else ""
        print(f"{row.words:44} {value:>24} {row.unit:6} {known}")
    for remark in entry.remarks:
        print(f"{remark.weight}: {remark.words}")
    return FINE


def _fields(options: argparse.Namespace) -> int:
    if options.page:
        print(reference_page(), end="")
        return FINE
    kind = kind_named(_need(options, 1, "a kind")[0])
    if options.json:
        print_json({"kind": kind.id, "words": kind.words, "fields": [asdict(row) for row in kind.rows]})
        return FINE
    for row in kind.rows:
        units = ", ".join(unit for unit in (row.unit, *row.also) if unit)
        print(
            f"{row.key:24} {row.words:46} {row.kind:13} {units:18} {'needed' if row.required else '':7} "
            f"{row.bounds}"
        )
    return FINE


def _check(options: argparse.Namespace) -> int:
    own_shelf, _ = _shelf_of(options)
    bad: list[dict[str, Any]] = []
    for entry in own_shelf.entries:
        wrong = [remark.words for remark in entry.remarks if remark.weight == "wrong"]
        try:
            entry.sheet()
            trouble = ""
        except JobError as error:
            trouble = str(error)
        if trouble or wrong:
            bad.append({"id": entry.id, "trouble": trouble, "wrong": wrong})
    if options.json:
        print_json({"entries": len(own_shelf.entries), "bad": bad})
    else:
        for damaged in bad:
            troubles = [*([damaged["trouble"]] if damaged["trouble"] else []), *damaged["wrong"]]
            print(f"{damaged['id']:18} {'; '.join(troubles)}")
        print(f"{len(own_shelf.entries)} entries, {len(bad)} that no job can take")
    return BLOCKED if bad else FINE


def _import(options: argparse.Namespace) -> int:
    from lodestaff.exchange.shelf_tables import read_shelf_file

    own_shelf, path = _shelf_of(options)
    source = Path(_need(options, 1, "a file")[0])
    entries = read_shelf_file(source, options.row)
    for entry in entries:
        own_shelf = own_shelf.with_entry(entry)
    save_shelf(own_shelf, path)
    if options.json:
        print_json({"imported": [_entry_dict(entry) for entry in entries]})
    else:
        for entry in entries:
            print(f"{entry.kind:13} {entry.id:18} {entry.name}")
    return FINE


def _export(options: argparse.Namespace) -> int:
    from lodestaff.exchange.shelf_tables import shelf_bytes

    own_shelf, _ = _shelf_of(options)
    given = _need(options, 1, "a file (and a kind for CSV)")
    kind = kind_named(given[1]).id if len(given) > 1 else ""
    target = Path(given[0])
    write_whole(target, shelf_bytes(own_shelf, target, kind))
    if options.json:
        print_json({"file": str(target)})
    else:
        print(target)
    return FINE


def _set(options: argparse.Namespace) -> int:
    """Type values of an entry: `shelf set KIND ID key=value ...`."""
    own_shelf, path = _shelf_of(options)
    name, entry_id, *pairs = _need(options, 2, "a kind, an id and key=value pairs")
    kind = kind_named(name)
    try:
        before = own_shelf.get(entry_id)
    except JobError:
        before = Entry(id=entry_id, kind=kind.id, values={})
    if before.kind != kind.id:
        raise JobError(f"{entry_id} is a {before.of.words}", "shelf set", "choose another id")
    values, known = dict(before.values), dict(before.known)
    for pair in pairs:
        key, sign, text = pair.partition("=")
        if not sign:
            raise JobError(f"{pair!r} is no key=value", "shelf set")
        value = typed(kind.row(key), text, values)
        if value is None:
            values.pop(key, None)
        else:
            values[key] = value
            known[key] = Known(options.known)
    entry = Entry(id=entry_id, kind=kind.id, values=values, known=known, note=before.note, file=before.file)
    save_shelf(own_shelf.with_entry(entry), path)
    if options.json:
        print_json(_entry_dict(entry))
    else:
        print(
            f"{entry.id}: {len(entry.values)} "
            f"values{', missing: ' + ', '.join(entry.missing) if entry.missing else ''}"
        )
        for remark in entry.remarks:
            print(f"{remark.weight}: {remark.words}")
    return FINE


def _remove(options: argparse.Namespace) -> int:
    own_shelf, path = _shelf_of(options)
    name = _need(options, 1, "an id")[0]
    save_shelf(own_shelf.without(name), path)
    if options.json:
        print_json({"removed": name})
    return FINE


def _offers(options: argparse.Namespace) -> int:
    own_shelf, _ = _shelf_of(options)
    job = load_job(Path(_need(options, 1, "a job file")[0]))
    rows = offers(job, own_shelf)
    if options.json:
        print_json(
            {
                "job": job.id,
                "offers": [
                    {"kind": row.kind, "id": row.id, "fields": [list(f) for f in row.fields]} for row in rows
                ],
            }
        )
        return FINE
    for row in rows:
        for words, mine, theirs in row.fields:
            print(f"{row.kind:8} {row.id:16} {words:40} in the job {mine}, on the shelf {theirs}")
    return FINE


def replace(options: argparse.Namespace) -> int:
    """A part of a job replaced by one of the shelf: what changes; with -o the job is written."""
    job, reckoner = open_job(options)
    own_shelf = load_shelf(Path(options.shelf) if options.shelf else None)
    made = replaced(job, "" if options.old == "none" else options.old, own_shelf.get(options.new))
    rows = compare(reckoner, job, reckoner, made)
    if options.output:
        write_job(made, Path(options.output), Path(options.job))
    if options.json:
        print_json(
            {
                "job": job.id,
                "old": options.old,
                "new": options.new,
                "file": options.output,
                "rows": [{**asdict(row), "same": row.same} for row in rows],
            }
        )
        return FINE
    for row in rows:
        if not row.same:
            print(f"{row.group:9} {row.name:44} {row.a:>22} {row.b:>22} {difference_text(row):>14}")
    return FINE


def cost(options: argparse.Namespace) -> int:
    """What a design costs; what has no price is named, never taken as zero."""
    from lodestaff.reckoning.costing import design_cost

    job, reckoner = open_job(options)
    book = load_prices(Path(options.prices) if options.prices else None)
    costs = design_cost(reckoner, job, book)
    if options.json:
        lines = [{**asdict(line), "total": line.total} for line in costs.lines]
        more = {bank.id: one_more_module(job, bank.id, book) for bank in job.banks}
        print_json(
            {
                "job": job.id,
                "currency": costs.currency,
                "lines": lines,
                "net": costs.net,
                "tax": costs.tax,
                "gross": costs.gross,
                "open": list(costs.open),
                "doubts": list(doubts(book)),
                "one_more_module": more,
            }
        )
        return FINE
    for line in costs.lines:
        each = "open" if line.each is None else text_of(line.each, costs.currency)
        total = "open" if line.total is None else text_of(line.total, costs.currency)
        print(f"{line.words:36} {line.count:8g} {line.unit:7} {each:>14} {total:>14}  {line.supplier}")
    print(f"{'net':36} {'':16} {'':>14} {text_of(costs.net, costs.currency):>14}")
    print(f"{'with tax':36} {'':16} {'':>14} {text_of(costs.gross, costs.currency):>14}")
    if costs.open:
        print(f"open, not in the sums: {', '.join(costs.open)}")
    for doubt in doubts(book):
        print(f"can that be? {doubt}")
    return FINE


def pack_check(options: argparse.Namespace) -> int:
    """Whether a pack of one's own is sound; with --job and -o it is laid over the job's pack."""
    from lodestaff.catalogue.overlay import laid_over, parse_overlay
    from lodestaff.quantities.disk import read_whole

    path = Path(options.file)
    overlay = parse_overlay(read_whole(path), path.name)
    written = None
    if options.job:
        job = load_job(Path(options.job))
        made = job.model_copy(update={"pack": laid_over(job.pack, overlay, path.name)})
        written = options.output or options.job
        write_job(type(job).model_validate(made.model_dump()), Path(written), Path(options.job))
    counts = {"values": len(overlay.values), "words": len(overlay.words), "tables": len(overlay.tables)}
    if options.json:
        print_json({"name": overlay.name, "over": overlay.over, **counts, "file": written})
    else:
        print(
            f"{overlay.name} over {overlay.over}: "
            f"{', '.join(f'{n} {what}' for what, n in counts.items())}, sound"
        )
    return FINE
