"""What is drilled: parts with their holes as they stand beside each other on a wall, in millimetres."""

from collections.abc import Sequence
from dataclasses import dataclass

from lodestaff.catalogue.body import Hole
from lodestaff.places.bodies import Body
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError


@dataclass(frozen=True)
class Piece:
    """A part of a template: its lower left corner from that of the template, its sides, its holes."""

    name: str
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    fixings: tuple[Hole, ...]
    entries: tuple[Hole, ...]

    @property
    def holes(self) -> tuple[tuple[str, float, float, float], ...]:
        """Every hole of it: what for, middle from the template's lower left corner, diameter, mm."""
        return tuple(
            (what, self.x_mm + hole.x_mm, self.y_mm + hole.y_mm, hole.diameter_mm)
            for what, holes in (("fixing", self.fixings), ("entry", self.entries))
            for hole in holes
        )


@dataclass(frozen=True)
class Template:
    """Parts that are drilled for together; `place` says where its lower left corner lies on the wall, `gaps`
    what its sheets don't give."""

    name: str
    pieces: tuple[Piece, ...]
    place: str
    gaps: tuple[str, ...]

    @property
    def width_mm(self) -> float:
        return max(piece.x_mm + piece.width_mm for piece in self.pieces)

    @property
    def height_mm(self) -> float:
        return max(piece.y_mm + piece.height_mm for piece in self.pieces)


def template(bodies: Sequence[Body], wanted: Sequence[str]) -> Template:
    """The template of one part, or of several that meet on one wall.

    Raises JobError for a part that isn't there, that has no place beside others, or that lies outside its own
    outline.
    """
    there = {body.id: body for body in bodies}
    unknown = [name for name in wanted if name not in there]
    if unknown or not wanted:
        name = unknown[0] if unknown else ""
        raise JobError(f"no part {name!r} to drill for", "template", f"parts: {', '.join(there)}")
    chosen = [there[name] for name in wanted]
    if len(chosen) > 1:
        walls = {body.wall.id if body.wall is not None else "" for body in chosen}
        if len(walls) > 1 or "" in walls:
            raise JobError("they don't stand on one wall", "template", "parts beside each other on one wall")
    left = min((body.rect.x for body in chosen if body.rect), default=0.0)
    foot = min((body.rect.y for body in chosen if body.rect), default=0.0)
    pieces = tuple(_piece(body, left, foot) for body in chosen)
    wall = chosen[0].wall
    place = (
        f"{wall.name}: lower left corner {plain(left, 2)} m along, {plain(foot, 2)} m up"
        if wall is not None
        else "no place yet"
    )
    gaps = tuple(
        f"{piece.name}: {what} not on its sheet, read them of the part itself"
        for piece in pieces
        for what, holes in (("fixings", piece.fixings), ("entries", piece.entries))
        if not holes
    )
    return Template(", ".join(piece.name for piece in pieces), pieces, place, gaps)


def _piece(body: Body, left_m: float, foot_m: float) -> Piece:
    rect = body.rect
    piece = Piece(
        body.name,
        x_mm=1000 * (rect.x - left_m) if rect else 0.0,
        y_mm=1000 * (rect.y - foot_m) if rect else 0.0,
        width_mm=1000 * body.width_m,
        height_mm=1000 * body.height_m,
        fixings=body.fixings,
        entries=body.entries,
    )
    for what, holes in (("fixing", body.fixings), ("entry", body.entries)):
        for hole in holes:
            if hole.x_mm > piece.width_mm + 1e-6 or hole.y_mm > piece.height_mm + 1e-6:
                raise JobError(
                    f"the {what} at {hole.x_mm:g}, {hole.y_mm:g} mm lies beside it",
                    body.name,
                    f"within {piece.width_mm:g} × {piece.height_mm:g} mm from its lower left corner",
                )
    return piece
