"""What the ways between places say of cables: length, depth in a wall, how many lie together. What was only
assumed takes them."""

import math
from dataclasses import dataclass
from typing import Any

from lodestaff.job import Cable, Change, Fact, Job, Known
from lodestaff.places import Route
from lodestaff.reckoning.containing import together
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.runs import runs

STEP_M = 0.1  # to which a length is rounded up
LEAST_M = 0.5  # ends and bends take some even where parts touch: common practice, no source
NOTE = "the way between its places on the walls"
MOST_TOGETHER = 6  # as far as the tables of packs go


@dataclass(frozen=True)
class Length:
    """A run with its way between its places, beside what its cable has (None: no cable yet).

    `typed` says that a person typed or read that cable: then it stays. `guardless_m` is the length of the
    way that needs no residual-current device, where the way needs one and another is there.
    """

    run: str
    name: str
    route: Route
    length_m: float
    now_m: float | None
    typed: bool
    wanted: tuple[tuple[str, Any], ...] = ()  # fields of its cable that the way says otherwise

    @property
    def changes(self) -> bool:
        return bool(self.wanted) and not self.typed

    @property
    def guardless_m(self) -> float | None:
        return None if self.route.guardless is None else rounded_m(self.route.guardless)


def lengths(reckoner: Reckoner, job: Job) -> tuple[Length, ...]:
    """Every run whose ends have places that are joined, in the order of the graph."""
    cables = {cable.id: cable for cable in job.cables}
    names = {run.id: run.name for run in runs(reckoner, job, False)}
    rows, beside = [], together(job, reckoner.routes(job))
    for run, route in reckoner.routes(job).items():
        cable = cables.get(run)
        rows.append(
            Length(
                run=run,
                name=names.get(run, run),
                route=route,
                length_m=rounded_m(route),
                now_m=cable.length_m if cable is not None else None,
                typed=cable is not None and (cable.existing or cable.known.firm),
                wanted=_wanted(cable, route, beside.get(run, 1)) if cable is not None else (),
            )
        )
    return tuple(rows)


def _wanted(cable: Cable, route: Route, count: int) -> tuple[tuple[str, Any], ...]:
    """What the way says otherwise than the cable has it. A depth that nothing on the walls gave stays, and so
    does a rating for more circuits together."""
    fields: dict[str, Any] = {}
    if abs(cable.length_m - rounded_m(route)) > 1e-9:
        fields["length_m"] = rounded_m(route)
    ours = cable.depth_mm is None or cable.known.note == NOTE
    if cable.depth_mm != route.depth_mm and (route.depth_mm is not None or ours):
        fields["depth_mm"] = route.depth_mm
    if count > cable.grouping:
        fields["grouping"] = min(count, MOST_TOGETHER)
    return tuple(fields.items())


def lying(reckoner: Reckoner, job: Job, route: Route) -> dict[str, Any]:
    """How a cable lies on its way: its depth in a wall, how many lie together."""
    count = together(job, reckoner.routes(job)).get(route.run, 1)
    return {"depth_mm": route.depth_mm, "grouping": min(count, MOST_TOGETHER)}


def rounded_m(route: Route) -> float:
    """A length to be ordered and reckoned with, m: rounded up."""
    return max(LEAST_M, round(math.ceil(route.length_m / STEP_M - 1e-9) * STEP_M, 3))


def taken(job: Job, measures: tuple[Length, ...]) -> tuple[Change, ...]:
    """The edit that gives assumed cables what their ways say; typed ones stay."""
    known = Fact[str](value="yes", known=Known.ASSUMED, note=NOTE).model_dump(mode="json")
    changes: list[Change] = []
    for length in measures:
        if length.changes:
            changes += [Change(f"cables/{length.run}/{field}", value) for field, value in length.wanted]
            changes.append(Change(f"cables/{length.run}/known", known))
    return tuple(changes)
