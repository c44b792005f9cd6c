"""The subcommand of places: what stands where, what may not stand so, and the ways of the cables between."""

import argparse
from pathlib import Path
from typing import Any

from lodestaff.cli.answering import open_job, print_json
from lodestaff.cli.exits import BLOCKED, FINE
from lodestaff.cli.output import write_job
from lodestaff.job import edit
from lodestaff.quantities import text_of
from lodestaff.quantities.errors import JobError


def place(options: argparse.Namespace) -> int:
    """Bodies on their walls with what the checks say of them; with `--lengths` the lengths go into cables."""
    from lodestaff.checks.places import PLACE_RULES
    from lodestaff.places import bodies
    from lodestaff.reckoning.findings import answers
    from lodestaff.reckoning.lengths import lengths, taken

    job, reckoner = open_job(options)
    if options.output and not options.lengths:
        raise JobError("nothing to write", "-o", "give --lengths as well")
    found = lengths(reckoner, job)
    if options.output:
        write_job(edit(job, *taken(job, found)), Path(options.output), Path(options.job))
    told = answers(reckoner, job, *PLACE_RULES)
    every = bodies(job, reckoner.wiring(job).topology)
    walls = [
        {"id": wall.id, "name": wall.name, "width_m": wall.width_m, "height_m": wall.height_m,
         "room": wall.room, "features": [one.model_dump(mode="json") for one in wall.features]}
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
                {"code": one.code, "verdict": one.status, "text": one.text}
                for one in told
                if body.id in one.subjects
            ],
        }
        for body in every
    ]
    ways = [
        {"run": one.run, "name": one.name, "length_m": one.length_m, "now_m": one.now_m,
         "typed": one.typed, "stops": one.route.stops, "passages": one.route.passages}
        for one in found
    ]  # fmt: skip
    if options.json:
        print_json({"job": job.id, "walls": walls, "parts": rows, "ways": ways, "file": options.output})
    else:
        _print(rows, ways)
    return BLOCKED if any(one.blocks for one in told) else FINE


def _print(rows: list[dict[str, Any]], ways: list[dict[str, Any]]) -> None:
    for row in rows:
        where = f"{row['wall']} at {row['x_m']:g}, {row['y_m']:g} m" if row["wall"] else "no place yet"
        print(f"{row['name']}: {where}")
        for finding in row["findings"]:
            print(f"    {finding['verdict']:7} {finding['code']:10} {finding['text']}")
    for way in ways:
        now = "no cable yet" if way["now_m"] is None else f"its cable has {text_of(way['now_m'], 'm')}"
        kept = ", as typed" if way["typed"] else ""
        print(f"{way['name']}: {text_of(way['length_m'], 'm')} between its places; {now}{kept}")
