"""A step of shutting down put elsewhere: its place and why, typed as one (`3: its lock hangs there`)."""

import re

from lodestaff.job import Change, Job
from lodestaff.quantities.errors import JobError
from lodestaff.topology import Topology
from lodestaff.wiring.isolation import isolation

TYPED = re.compile(r"\s*(?P<place>[0-9]{1,3})\s*(?::\s*(?P<why>.*?))?\s*")
RIGHT = "a place and why, as in 3: its lock hangs there; nothing puts it back"


def reordered(job: Job, topology: Topology, number: int, text: str) -> Change:
    """The change that puts the step at `number` (from 0) to the place typed, or back to its own.

    Raises JobError for what is neither.
    """
    order = [step.part for step in isolation(job, topology).shutdown]
    part = order[number]
    moves = [move.model_dump(mode="json") for move in job.reorderings]
    if not text.strip():
        return Change("reorderings", [move for move in moves if move["part"] != part])
    typed = TYPED.fullmatch(text)
    if typed is None or not 1 <= int(typed["place"]) <= len(order):
        raise JobError(f"no place {text!r} among {len(order)} steps", "step", RIGHT)
    place, why = typed["place"], typed["why"] or ""
    if len(why) < 3:
        raise JobError("no reason is given", "step", RIGHT)
    others = [each for each in order if each != part]
    before = others[int(place) - 1] if int(place) <= len(others) else ""
    if moves and moves[-1]["part"] == part:
        moves.pop()  # an earlier one stays where another step goes by it
    return Change("reorderings", [*moves, {"part": part, "before": before, "why": why}])
