"""Lengths of cables from the places on the walls: what was only assumed takes the way of the cable."""

import math
from dataclasses import dataclass

from lodestaff.job import Change, Fact, Job, Known
from lodestaff.places import Route
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.runs import runs

STEP_M = 0.1  # to which a length is rounded up
LEAST_M = 0.5  # ends and bends take some even where parts touch: common practice, no source


@dataclass(frozen=True)
class Length:
    """A run with its way between its places, beside the length that its cable has (None: no cable yet).

    `typed` says that a person typed or read that length: then it stays.
    """

    run: str
    name: str
    route: Route
    length_m: float
    now_m: float | None
    typed: bool

    @property
    def changes(self) -> bool:
        return self.now_m is not None and not self.typed and abs(self.now_m - self.length_m) > 1e-9


def lengths(reckoner: Reckoner, job: Job) -> tuple[Length, ...]:
    """Every run whose ends have places that are joined, in the order of the graph."""
    cables = {cable.id: cable for cable in job.cables}
    names = {run.id: run.name for run in runs(reckoner, job, False)}
    found = []
    for run, route in reckoner.routes(job).items():
        cable = cables.get(run)
        found.append(
            Length(
                run=run,
                name=names.get(run, run),
                route=route,
                length_m=rounded_m(route),
                now_m=cable.length_m if cable is not None else None,
                typed=cable is not None and (cable.existing or cable.known.firm),
            )
        )
    return tuple(found)


def rounded_m(route: Route) -> float:
    """A length to be ordered and reckoned with, m: rounded up."""
    return max(LEAST_M, round(math.ceil(route.length_m / STEP_M - 1e-9) * STEP_M, 3))


def taken(job: Job, found: tuple[Length, ...]) -> tuple[Change, ...]:
    """The edit that gives assumed cables the lengths of their ways; typed ones stay."""
    note = "the way between its places on the walls"
    known = Fact[str](value="yes", known=Known.ASSUMED, note=note).model_dump(mode="json")
    changes: list[Change] = []
    for one in found:
        if one.changes:
            changes += [
                Change(f"cables/{one.run}/length_m", one.length_m),
                Change(f"cables/{one.run}/known", known),
            ]
    return tuple(changes)
