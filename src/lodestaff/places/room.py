"""How much room a stack has at its place."""

from lodestaff.job import Job
from lodestaff.job.walls import Wall
from lodestaff.places.bodies import bodies
from lodestaff.places.geometry import Rect
from lodestaff.topology import Topology


def free_above_m(wall: Wall, rect: Rect, beside: list[Rect]) -> float:
    """How much is free above a rectangle, m: to the next thing above it, or the wall's edge."""
    column = Rect(rect.x, rect.top, rect.width, max(0.0, wall.height_m - rect.top))
    things = [
        *beside,
        *(Rect(feature.x_m, feature.y_m, feature.width_m, feature.height_m) for feature in wall.features),
    ]
    ceiling = min((body.y for body in things if column.meets(body)), default=wall.height_m)
    return max(0.0, ceiling - rect.top)


def modules_that_fit(job: Job, topology: Topology, bank_id: str) -> int | None:
    """How many modules the place of a stack takes, one upon the other; None where it has no place, or where
    its size was measured as a whole."""
    every = bodies(job, topology)
    body = next((other for other in every if other.id == bank_id), None)
    bank = next((other for other in job.banks if other.id == bank_id), None)
    if body is None or bank is None or body.wall is None or body.rect is None or body.sized == "measured":
        return None
    sheet = job.sheets.batteries[bank.sheet]
    each = sheet.body_height_m or body.height_m / bank.modules
    beside = [other.rect for other in every if other is not body and other.rect and other.wall is body.wall]
    free = free_above_m(body.wall, body.rect, beside) - body.clear_above_m
    rows = round(body.height_m / each)
    columns = max(1, -(-bank.modules // rows))
    return columns * (rows + max(0, int(free / each + 1e-9)))
