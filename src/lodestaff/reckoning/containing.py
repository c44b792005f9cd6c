"""Conduits and trunkings that follow from the ways of cables: what lies in them, their bends, their size."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from lodestaff.checks.fill import wire_fill
from lodestaff.checks.finding import Verdict
from lodestaff.job import Change, Containment, Fact, Job, Known
from lodestaff.places import CLOSED, Route
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.fill import filled_with

Form = Literal["conduit", "trunking"]
BEND_DEG = 90.0
TUBE = "EMT"  # metal by its name
NOTE = "from the ways of cables on the walls"


@dataclass(frozen=True)
class Lying:
    """Runs that lie in one conduit or trunking: of a passage, or of a wall."""

    id: str
    place: str
    form: Form
    runs: tuple[str, ...]
    what: str = ""


def together(job: Job, routes: Mapping[str, Route]) -> dict[str, int]:
    """How many circuits lie with each run in the fullest conduit or trunking of its way."""
    counts: dict[str, int] = {}
    for lot in _full(job, routes):
        for run in lot.runs:
            counts[run] = max(counts.get(run, 1), len(lot.runs))
    return counts


def containments(reckoner: Reckoner, job: Job) -> tuple[Containment, ...]:
    """The job's containments with those of its ways: runs and bends follow the ways, a size that was read
    stays, else the smallest of the pack in which they lie well.

    A conduit or trunking of a way that no cable takes any more goes.
    """
    standing = {containment.id: containment for containment in job.containments}
    made = {
        containment.id: _sized(reckoner, job, containment, form, standing)
        for containment, form in _wanted(job, reckoner)
    }
    kept = [
        containment
        for containment in job.containments
        if containment.id in made or containment.known.note != NOTE
    ]
    return (*(made.pop(containment.id, containment) for containment in kept), *made.values())


def contained(reckoner: Reckoner, job: Job) -> tuple[Change, ...]:
    """The edit that gives the job the containments of its ways; nothing where it has them."""
    changes = containments(reckoner, job)
    if changes == job.containments:
        return ()
    return (Change("containments", [containment.model_dump(mode="json") for containment in changes]),)


def _wanted(job: Job, reckoner: Reckoner) -> Iterator[tuple[Containment, Form]]:
    """A containment for each conduit or trunking that cables go by, not yet sized."""
    walls, routes = {wall.id: wall for wall in job.walls}, reckoner.routes(job)
    passages = {passage.id: passage for passage in job.passages}
    known = Fact[Literal["yes"]](value="yes", known=Known.ASSUMED, note=NOTE)
    for lot in _full(job, routes):
        if not _sizes(job, lot.form):
            continue  # the pack has no such sizes: one is typed in Wire
        made = Containment(id=lot.id, name=lot.form, size="", runs=lot.runs, known=known)
        passage = passages.get(lot.place)
        if passage is not None:
            ends = [walls[passage.a], walls[passage.b]]
            words = f"{lot.form.capitalize()} {ends[0].name} to {ends[1].name}"
            inside = not all(wall.outside for wall in ends)
            bends, metal = passage.bends_deg, passage.metal
        else:
            wall, metal = walls[lot.place], None
            words, inside = f"{lot.form.capitalize()}{lot.what} on {wall.name}", not wall.outside
            bends = _corners(routes[lot.runs[0]], wall.id) * BEND_DEG if lot.form == "conduit" else None
        said = {"name": words[:60], "bends_deg": bends, "metal": metal, "inside": inside}
        yield made.model_copy(update=said), lot.form


def _full(job: Job, routes: Mapping[str, Route]) -> Iterator[Lying]:
    """Every conduit and trunking by passage or wall with the runs that go by it; on a wall each run has a
    conduit of its own, a trunking takes those of AC, another those of DC."""
    for passage in job.passages:
        runs = tuple(run for run, route in routes.items() if passage.id in route.passages)
        form = next((form for form in CLOSED if passage.way == form), None)
        if form is not None and runs:
            yield Lying(passage.id, passage.id, form, runs)
    for wall in job.walls:
        runs = tuple(run for run, route in routes.items() if _along(route, wall.id))
        for direct, what in ((False, ""), (True, " for DC")) if wall.cables == "trunking" else ():
            mine = tuple(run for run in runs if routes[run].direct is direct)
            if mine:
                yield Lying(f"{wall.id}-trunking{'-dc' if direct else ''}", wall.id, "trunking", mine, what)
        for run in runs if wall.cables == "conduit" else ():
            yield Lying(f"{wall.id}-{run}", wall.id, "conduit", (run,))


def _along(route: Route, wall: str) -> bool:
    """Whether a way goes along a wall, and doesn't only end on it."""
    return any(a[0] == b[0] == wall and a != b for a, b in pairwise(route.points))


def _corners(route: Route, wall: str) -> int:
    """Right angles of a way on one wall."""
    steps = [(b[1] - a[1], b[2] - a[2]) for a, b in pairwise(route.points) if a[0] == b[0] == wall]
    return sum(abs(across) > 1e-6 and abs(up) > 1e-6 for across, up in steps)


def _sized(
    reckoner: Reckoner, job: Job, containment: Containment, form: Form, standing: Mapping[str, Containment]
) -> Containment:
    """With the smallest size of the pack that its check lets pass, the largest where none does."""
    before = standing.get(containment.id)
    if before is not None and before.known.firm:
        return before.model_copy(update={"runs": containment.runs})
    metal = containment.metal if before is None or containment.metal is not None else before.metal
    tries = [
        containment.model_copy(update={"size": size, "metal": True if size.startswith(TUBE) else metal})
        for size in _sizes(job, form)
    ]
    return next((tried for tried in tries if not _too_full(reckoner, job, tried)), tries[-1])


def _sizes(job: Job, form: Form) -> list[str]:
    """The pack's sizes of a form, the smallest first; a size says by its name what it is."""
    sizes = sorted((area, size) for size, area in job.pack.containment_sizes.items())
    return [size for _, size in sizes if ("trunking" in size) == (form == "trunking")]


def _too_full(reckoner: Reckoner, job: Job, containment: Containment) -> bool:
    """Whether its check blocks it for what lies in it."""
    findings = wire_fill(filled_with(reckoner, job, containment))
    return any(finding.verdict is Verdict.BLOCKS and not finding.quantity for finding in findings)
