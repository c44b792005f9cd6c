"""How much room a stack has at its place."""

from lodestaff.job import Job
from lodestaff.job.walls import Wall
from lodestaff.places.bodies import bodies
from lodestaff.places.geometry import Rect
from lodestaff.topology import Topology


def free_above_m(wall: Wall, rect: Rect, beside: list[Rect]) -> float:
    """How much is free above a rectangle, m: to the next thing above it, or the wall's edge."""
    column = Rect(rect.x, rect.top, rect.width, max(0.0, wall.height_m - rect.top))
    things = [*beside, *(Rect(one.x_m, one.y_m, one.width_m, one.height_m) for one in wall.features)]
    ceiling = min((one.y for one in things if column.meets(one)), default=wall.height_m)
    return max(0.0, ceiling - rect.top)


def modules_that_fit(job: Job, topology: Topology, bank_id: str) -> int | None:
    """How many modules the place of a stack takes, one upon the other; None where it has no place, or where
    its size was measured as a whole."""
    every = bodies(job, topology)
    body = next((one for one in every if one.id == bank_id), None)
    bank = next((one for one in job.banks if one.id == bank_id), None)
    if body is None or bank is None or body.wall is None or body.rect is None or body.sized == "measured":
        return None
    sheet = job.sheets.batteries[bank.sheet]
    each = sheet.body_height_m or body.height_m / bank.modules
    beside = [one.rect for one in every if one is not body and one.rect and one.wall is body.wall]
    free = free_above_m(body.wall, body.rect, beside) - body.clear_above_m
    rows = round(body.height_m / each)
    columns = max(1, -(-bank.modules // rows))
    return columns * (rows + max(0, int(free / each + 1e-9)))
