"""The page of places: walls, what stands where on them, and the ways of the cables between."""

from collections.abc import Iterator
from typing import Any

from lodestaff.checks.places import PLACE_RULES
from lodestaff.handover.built_page import photos_of
from lodestaff.handover.model import Block, Page, Table, Text, Walls
from lodestaff.job import Fact, Job
from lodestaff.job.walls import Wall
from lodestaff.places import bodies, entries, numbered
from lodestaff.places.supports import supports
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import answers
from lodestaff.reckoning.lengths import lengths

FROM = "Metres from the lower left corner of each wall as one faces it."


def place_page(reckoner: Reckoner, job: Job) -> Page:
    """Walls, parts, ways; what has no place yet is missing, and what the checks say stands below."""
    topology = reckoner.wiring(job).topology
    every = bodies(job, topology)
    parts = [
        (
            str(number),
            body.name,
            body.wall.name,
            text_of(body.rect.x, "m"),
            text_of(body.rect.y, "m"),
            f"{plain(body.width_m)} × {plain(body.height_m)} m",
            _word(body.standing.held),
            _word(body.standing.backing),
        )
        for number, body in numbered((*every, *entries(job, topology)))
        if body.standing is not None and body.wall is not None and body.rect is not None
    ]
    blocks: list[Block] = [
        Walls(),
        *photos_of(job, [""]),
        Text(FROM),
        Table(("Wall", "Where", "Size", "Build", "Behind it", "Known of it"),
              tuple(_wall(wall) for wall in job.walls), (24, 14, 14, 12, 14, 22), name="Walls"),
        Table(("", "Part", "Wall", "Along", "Up", "Size", "Held", "Behind it stands"),
              tuple(parts), (4, 22, 18, 8, 8, 14, 14, 12), name="Parts on the walls"),
    ]  # fmt: skip
    ways = [
        (way.name, text_of(way.length_m, "m"), "-" if way.now_m is None else text_of(way.now_m, "m"),
         ", ".join(way.route.passages) or "-")
        for way in lengths(reckoner, job)
    ]  # fmt: skip
    if ways:
        columns = ("Run", "Between its places", "Its cable", "By the ways")
        blocks.append(Table(columns, tuple(ways), (40, 20, 20, 20), name="Ways of the cables"))
    held = tuple((support.words, text_of(support.count, support.unit, 2)) for support in supports(job, every))
    if held:
        blocks.append(Table(("To be fitted", "How much"), held, (80, 20), name="Supports"))
    told = [
        finding for finding in answers(reckoner, job, *PLACE_RULES) if finding.status in ("blocks", "warns")
    ]
    blocks += [Text(finding.text) for finding in told]
    loose = [body.name for body in every if body.standing is None]
    missing = (f"no place yet: {', '.join(loose)}",) if loose else ()
    return Page("places", "Where things stand", tuple(blocks), missing)


def _word(fact: Fact[Any]) -> str:
    return str(fact.value or "not read")


def _wall(wall: Wall) -> tuple[str, ...]:
    size = f"{plain(wall.width_m)} × {plain(wall.height_m)} m"
    return (wall.name, wall.room or "outside", size, _word(wall.build), _word(wall.behind),
            "; ".join(_known(wall)) or "-")  # fmt: skip


def _known(wall: Wall) -> Iterator[str]:
    """What was read of a wall, in words."""
    if wall.sun.value == "yes":
        yield "direct sun"
    if wall.rain.value == "yes":
        yield "rain"
    if wall.quiet.value == "yes":
        yield "people sleep near"
    if wall.vehicles.value == "yes":
        yield "vehicles"
    if wall.flood_m.value:
        yield f"water up to {text_of(wall.flood_m.value, 'm')}"
    if wall.low_c.value is not None and wall.high_c.value is not None:
        yield f"{text_of(wall.low_c.value, '°C')} to {text_of(wall.high_c.value, '°C')}"
