"""What carries parts on their walls, stands behind and before them: things that are bought and fitted."""

from collections.abc import Sequence
from dataclasses import dataclass

from lodestaff.job import Job
from lodestaff.places.bodies import Body
from lodestaff.places.geometry import Rect, apart_m
from lodestaff.quantities.convention import plain

BOARD, FIREBOARD, TIE, POST = "support-board", "support-fireboard", "support-tie-back", "support-post"
JOINS_M = 0.3  # boards nearer than this are one (common practice, no source)


@dataclass(frozen=True)
class Support:
    """One of them, of a part: how much of what, as price lists call it."""

    part: str
    item: str
    words: str
    count: float
    unit: str


@dataclass
class _Board:
    """A board while it grows over neighbours: where it lies, what stands on it, whether it carries them."""

    wall: str
    rect: Rect
    fire: bool
    bodies: list[Body]
    carries: bool

    def meets(self, other: "_Board") -> bool:
        return (self.wall, self.fire) == (other.wall, other.fire) and apart_m(
            self.rect, other.rect
        ) <= JOINS_M

    def with_(self, other: "_Board") -> "_Board":
        x, y = min(self.rect.x, other.rect.x), min(self.rect.y, other.rect.y)
        right, top = max(self.rect.right, other.rect.right), max(self.rect.top, other.rect.top)
        both = [*self.bodies, *other.bodies]
        return _Board(
            self.wall, Rect(x, y, right - x, top - y), self.fire, both, self.carries or other.carries
        )


def supports(job: Job, bodies: Sequence[Body]) -> tuple[Support, ...]:
    """What the places of new parts ask for: a board behind as it was decided, a tie-back, a post.

    A board that doesn't burn reaches beyond its part as far as its place says, and carries it where it is
    held on a board; a stack that may grow has its board high enough for it. Neighbours share a board.
    """
    there = {unit.id for unit in job.units if unit.existing}
    there |= {bank.id for bank in job.banks if bank.unit in there}
    new = [body for body in bodies if body.standing is not None and body.id not in there]
    boards = [board for body in new if (board := _board(body)) is not None]
    all_supports = [_board_of(other) for other in _joined(boards)]
    for body in new:
        at = body.standing
        if at is not None and at.held.value == "on the floor, tied back":
            all_supports.append(Support(body.id, TIE, f"Tie-back of {body.name} to the wall", 1, "sets"))
        if at is not None and at.guard:
            all_supports.append(Support(body.id, POST, f"Post or kerb before {body.name}", 1, "pieces"))
    return tuple(all_supports)


def _board(body: Body) -> _Board | None:
    """The board that one part asks for, as large as it must be for it alone."""
    at, rect = body.standing, body.rect
    if at is None or rect is None:
        return None
    carries, fire = at.held.value == "on a board", at.backing.value == "does not burn"
    if not (carries or fire):
        return None
    side, above = (at.reach_side_m or 0.0, at.reach_above_m or 0.0) if fire else (0.0, 0.0)
    return _Board(at.wall, rect.grown(side, side, body.grows_m + above, 0.0), fire, [body], carries)


def _joined(boards: list[_Board]) -> list[_Board]:
    """Boards with their neighbours', until none meet."""
    for place, group in enumerate(boards):
        for other in boards[place + 1 :]:
            if group.meets(other):
                rest = [board for board in boards if board is not group and board is not other]
                return _joined([*rest[:place], group.with_(other), *rest[place:]])
    return boards


def _board_of(board: _Board) -> Support:
    wide, high = board.rect.width, board.rect.height
    size = f"{plain(wide, 2)} × {plain(high, 2)} m"
    more = f" and {len(board.bodies) - 1} more" if len(board.bodies) > 1 else ""
    names = f"{board.bodies[0].name}{more}"
    words = f"Board across the studs for {names}, {size}"
    if board.fire:
        carries = (", fixed to carry them" if more else ", fixed to carry it") if board.carries else ""
        words = f"Board that doesn't burn behind {names}, {size}{carries}"
    return Support(board.bodies[0].id, FIREBOARD if board.fire else BOARD, words, round(wide * high, 3), "m²")
