"""What of an installation is new: the parts that the job brings, and those that are there already."""

from lodestaff.job import Job
from lodestaff.job.plan import Board
from lodestaff.topology import Topology, normalised
from lodestaff.topology.model import Part

NEVER = ("supply", "fuse", "circuit", "block", "relay")  # there, final circuits, or inside something else


def standing_boards(job: Job) -> set[str]:
    """Boards that are there: those of final circuits as they were found, unless one was found unfit.

    A board for the circuits that are held, an outlet, or one behind a contactor comes with the job.
    """
    unfit = {
        thing.part for thing in job.site.found if thing.what == "board" and thing.condition.value == "unfit"
    }
    boards = {thing.part for thing in job.site.found if thing.what == "board"}
    parts = normalised(job).parts
    switched = {part.id for part in parts if part.kind == "contactor"}
    there = set()
    for part in parts:
        if not isinstance(part, Board) or part.id in unfit:
            continue
        main = part.holds in ("all", "rest") or (part.holds == "named only" and bool(part.building))
        if part.id in boards or (main and not part.outlet and part.fed_from not in switched):
            there.add(part.id)
    return there


def new_parts(job: Job, topology: Topology) -> tuple[Part, ...]:
    """The parts that the job brings, in the order of the graph."""
    of_boards = {f"parts/{board}" for board in standing_boards(job)}
    old = {unit.id for unit in job.units if unit.existing}
    replaced = {thing.part for thing in job.site.found if thing.part and thing.condition.value != "unfit"}

    def there(part: Part) -> bool:
        if part.kind in NEVER or part.decided_by.startswith("site/supply") or part.way == "supply":
            return True
        if part.of in old or part.id in old or part.id in replaced:
            return not part.decided_by.startswith("adjustments/") or part.kind != "meter"
        return part.decided_by in of_boards and part.kind in ("board", "isolator", "rcd")

    return tuple(part for part in topology.parts.values() if not there(part))
