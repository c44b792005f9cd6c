"""The subcommand of places: what stands where, what may not stand so, the ways of the cables between, ways to
stand it all side by side, templates of what is drilled."""

import argparse
import re
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.cli.output import write_job
from lodestaff.cli.values import bounded
from lodestaff.job import Change, Job, edit
from lodestaff.quantities import text_of
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError

if TYPE_CHECKING:
    from lodestaff.reckoning import Reckoner
    from lodestaff.reckoning.standings import Compared, Stands

POINT = re.compile(r"([a-z0-9-]+):([^,]+),([^,]+)")
CHANGES = ("lengths", "containments", "way", "keep", "choose")


def place(options: argparse.Namespace) -> int:
    """Bodies on their walls with what the checks say of them, the ways of their cables; what is asked to be
    changed is, in the order of the help."""
    from lodestaff.checks.places import PLACE_RULES
    from lodestaff.places import bodies, entries
    from lodestaff.reckoning.findings import answers
    from lodestaff.reckoning.lengths import lengths

    job, reckoner = open_job(options)
    if options.output and not any(getattr(options, name) for name in CHANGES):
        raise JobError("nothing to write", "-o", f"give {', '.join(f'--{name}' for name in CHANGES)} as well")
    job, said = _changed(reckoner, job, options)
    if options.output:
        write_job(job, Path(options.output), Path(options.job))
    topology = reckoner.wiring(job).topology
    every = bodies(job, topology)
    if options.template:
        _drill(options, job, [*every])
    compared = said if options.compare or options.choose else None
    told = answers(reckoner, job, *PLACE_RULES)
    walls = [
        {"id": wall.id, "name": wall.name, "width_m": wall.width_m, "height_m": wall.height_m,
         "room": wall.room, "cables": wall.cables,
         "features": [feature.model_dump(mode="json") for feature in wall.features]}
        for wall in job.walls
    ]  # fmt: skip
    rows: list[dict[str, Any]] = [
        {
            "id": body.id,
            "name": body.name,
            "wall": body.wall.id if body.wall is not None else None,
            "x_m": body.standing.x_m if body.standing is not None else None,
            "y_m": body.standing.y_m if body.standing is not None else None,
            "width_m": body.width_m,
            "height_m": body.height_m,
            "sized": body.sized,
            "findings": [
                {"code": finding.code, "verdict": finding.status, "text": finding.text}
                for finding in told
                if body.id in finding.subjects
            ],
        }
        for body in (*every, *(entry for entry in entries(job, topology) if entry.standing is not None))
    ]
    ways = [
        {"run": length.run, "name": length.name, "length_m": length.length_m, "now_m": length.now_m,
         "typed": length.typed, "stops": length.route.stops, "passages": length.route.passages,
         "laid": length.route.laid, "depth_mm": length.route.depth_mm, "guardless_m": length.guardless_m,
         "takes": dict(length.wanted)}
        for length in lengths(reckoner, job)
    ]  # fmt: skip
    if options.json:
        answer: dict[str, Any] = {"job": job.id, "walls": walls, "parts": rows, "ways": ways}
        answer |= {"arrangements": _dumped(compared), "template": options.sheets, "file": options.output}
        print_json(answer)
    else:
        _print(rows, ways)
        for way in compared.ways if compared is not None else ():
            _print_stands(way, compared is not None and way.id == compared.now)
    return BLOCKED if any(finding.blocks for finding in told) else FINE


def _changed(reckoner: "Reckoner", job: Job, options: argparse.Namespace) -> tuple[Job, "Compared | None"]:
    """The job as it was asked for, and all arrangements where they were asked for."""
    from lodestaff.reckoning.containing import contained
    from lodestaff.reckoning.lengths import lengths, taken
    from lodestaff.reckoning.standings import as_chosen, compared, keep, stood
    from lodestaff.shelf.prices import load_prices

    if options.way:
        job = edit(job, _course(reckoner, job, options.way, options.by or []))
    if options.lengths:
        job = edit(job, *taken(job, lengths(reckoner, job)))
    if options.containments:
        job = edit(job, *contained(reckoner, job))
    if options.keep:
        job = edit(job, keep(job, options.keep))
    if not (options.compare or options.choose):
        return job, None
    said = compared(reckoner, job, load_prices(Path(options.prices) if options.prices else None))
    if options.choose:
        arrangement = next(
            (each for each in job.arrangements if options.choose in (each.id, each.name)), None
        )
        if arrangement is None:
            kept = ", ".join(each.name for each in job.arrangements) or "none is kept yet: --keep NAME"
            raise JobError(f"no arrangement {options.choose!r}", "--choose", kept)
        made = as_chosen(
            job,
            said,
            arrangement.id,
            why=options.why or "",
            by=options.who or "",
            date=f"{date.today():%Y-%m-%d}",
        )
        choices = [*(each.model_dump(mode="json") for each in job.choices), made.model_dump(mode="json")]
        job = edit(job, *stood(arrangement), Change("choices", choices))
    return job, said


def _course(reckoner: "Reckoner", job: Job, run: str, points: list[str]) -> Change:
    """The edit that lays a run by points like garage:1.2,2.1; without any it is proposed again."""
    runs = sorted(reckoner.wiring(job).topology.runs)
    if run not in runs:
        raise JobError(f"no run {run!r}", "--way", f"runs: {', '.join(runs)}")
    rows = [course.model_dump(mode="json") for course in job.courses if course.id != run]
    if points:
        rows.append({"id": run, "by": [_turn(text) for text in points]})
    return Change("courses", rows)


def _turn(text: str) -> dict[str, Any]:
    match = POINT.fullmatch(text)
    if match is None:
        raise JobError(f"{text!r} is no point on a wall", "--by", "a point like garage:1.2,2.1")
    wall, along, up = match.groups()
    try:
        x_m = bounded(along, "m", 0.0, 100.0, "metres along from 0 to 100")
        return {"wall": wall, "x_m": x_m, "y_m": bounded(up, "m", 0.0, 20.0, "metres up from 0 to 20")}
    except argparse.ArgumentTypeError as trouble:
        raise JobError(str(trouble), "--by", "a point like garage:1.2,2.1") from None


def _drill(options: argparse.Namespace, job: Job, every: list[Any]) -> None:
    from lodestaff.exchange.drilling import drilling_sheets
    from lodestaff.places.templates import template

    if not options.sheets:
        raise JobError("nowhere to write the template", "--sheets", "give --sheets FILE.pdf as well")
    made = template(every, [name.strip() for name in options.template.split(",")])
    write_whole(Path(options.sheets), drilling_sheets(made, options.paper or job.pack.paper, job.title))


def _dumped(comparison: "Compared | None") -> list[dict[str, Any]] | None:
    if comparison is None:
        return None
    return [
        {"id": way.id, "name": way.name, "now": way.id == comparison.now, "cable_m": way.cable_m,
         "drop_pct": way.drop_pct, "drop_of": way.drop_of, "money": way.money, "currency": way.currency,
         "open_prices": list(way.open_prices), "hours": way.hours, "hours_without_power": way.dark_h,
         "blocks": [each.text for each in way.told("blocks")],
         "warns": [each.text for each in way.told("warns")], "no_place": list(way.left)}
        for way in comparison.ways
    ]  # fmt: skip


def _print(rows: list[dict[str, Any]], ways: list[dict[str, Any]]) -> None:
    for row in rows:
        where = f"{row['wall']} at {row['x_m']:g}, {row['y_m']:g} m" if row["wall"] else "no place yet"
        print(f"{row['name']}: {where}")
        for finding in row["findings"]:
            print(f"    {finding['verdict']:7} {finding['code']:10} {finding['text']}")
    for way in ways:
        now = "no cable yet" if way["now_m"] is None else f"its cable has {text_of(way['now_m'], 'm')}"
        kept = ", as typed" if way["typed"] else ""
        laid = "as it was laid, " if way["laid"] else ""
        other = way["guardless_m"]
        beside = f"; {text_of(other, 'm')} by a way that needs no residual-current device" if other else ""
        length = text_of(way["length_m"], "m")
        print(f"{way['name']}: {laid}{length} between its places; {now}{kept}{beside}")


def _print_stands(way: "Stands", now: bool) -> None:
    print(f"{way.name}{' (as it stands now)' if now and way.id else ''}")
    drop = "not known" if way.drop_pct is None else f"{text_of(way.drop_pct, '%', 2)} ({way.drop_of})"
    opened = f", {len(way.open_prices)} prices open" if way.open_prices else ""
    print(f"    cable {text_of(way.cable_m, 'm')}; largest drop {drop}")
    print(
        f"    {text_of(way.money, way.currency)} before tax{opened}; {way.hours:g} h of hands, "
        f"{way.dark_h:g} h without power"
    )
    for status in ("blocks", "warns"):
        for each in way.told(status):
            print(f"    {status:7} {each.code:10} {each.text}")
    if way.left:
        print(f"    no place yet: {', '.join(way.left)}")
