"""What throws shade on a face: the things that rise from it, other faces with the house below them, and what
stands around. Each is a convex solid between upright sides and a top."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from lodestaff.energy.shade import MONTHS_OPAQUE, Solid, Standing
from lodestaff.job import Job
from lodestaff.job.array import Face, Obstacle, Surrounding
from lodestaff.quantities.recent import Recent
from lodestaff.roof.frame import frame_of

RAISED_M = 0.1  # a module's glass above its roof; common practice, no source
ROUND_SIDES = 12
UP = np.array((0.0, 0.0, 1.0))
IN_LEAF_NORTH = (4, 5, 6, 7, 8, 9)  # May to October, counted from 0; common practice, no source
Points = NDArray[np.float64]
_SHAPES = Recent(32)
PlaceOn = tuple[str, float, float, float, float]  # a module's id, its lower left corner, width and height


@dataclass(frozen=True, eq=False)
class Prism:
    """A thing between upright sides: its name, the corners of its top, how high above the ground it begins,
    and the solid that it is."""

    name: str
    top: Points
    base_m: float
    solid: Solid


def standings(job: Job, face: Face) -> Mapping[str, Standing]:
    """The modules of a face as they stand in space, by id, with all that can throw shade on it; empty where
    nothing can."""
    sheet = job.sheets.modules[face.module]
    places = tuple((m.id, m.x_m, m.y_m, *face.size_of(m, sheet)) for m in face.modules)
    return _standing(_shape(face), places, around(job, face))


@lru_cache(maxsize=64)
def _standing(face: Face, places: tuple[PlaceOn, ...], solids: tuple[Solid, ...]) -> dict[str, Standing]:
    """The same objects again for the same places: their years are found by them."""
    if not solids:
        return {}
    frame = frame_of(face)
    return {
        name: Standing(
            _vector(frame.at(x, y) + RAISED_M * frame.out),
            _vector(w * frame.along),
            up=_vector(h * frame.up),
            groups_along=h >= w,
            around=solids,
        )
        for name, x, y, w, h in places
    }


def around(job: Job, face: Face) -> tuple[Solid, ...]:
    """The solids that rise above a face's plane.

    A face whose place isn't told sees only what stands on itself. Things of unknown height are left out.
    """
    return tuple(prism.solid for prism in prisms(job, face))


def prisms(job: Job, face: Face) -> tuple[Prism, ...]:
    """The same with their names and corners."""
    others = tuple(_shape(other) for other in job.faces if other.id != face.id and other.origin is not None)
    return _rising_above(
        _shape(face), others if face.origin is not None else (), job.surroundings, job.site.latitude_deg
    )


def _shape(face: Face) -> Face:
    """A face without its modules: what it hides of the sun goes by its shape alone. The same object for equal
    shapes, so that what rests on them is found at once."""
    return _SHAPES.get("shape", face, lambda: _known(face.model_copy(update={"modules": ()})))


@lru_cache(maxsize=64)
def _known(shape: Face) -> Face:
    return shape


@lru_cache(maxsize=256)
def _rising_above(
    face: Face, others: tuple[Face, ...], surroundings: tuple[Surrounding, ...], latitude_deg: float
) -> tuple[Prism, ...]:
    bodies = [_rising(face, thing) for thing in face.obstacles if thing.height_m]
    for other in others:
        bodies.append(_house_below(other))
        bodies += [_rising(other, thing) for thing in other.obstacles if thing.height_m]
    if face.origin is not None:
        bodies += [_thing(thing, latitude_deg) for thing in surroundings]
    frame = frame_of(face)
    return tuple(
        prism for prism in bodies if ((prism.top - frame.corner) @ frame.out > RAISED_M + 1e-6).any()
    )


def unknown_heights(job: Job, face: Face) -> tuple[str, ...]:
    """What is still to be learnt before a face's shade is whole."""
    missing = [
        f"how high {thing.name} rises above {face.name}" for thing in face.obstacles if thing.height_m is None
    ]
    if job.surroundings and face.origin is None:
        missing.append(
            f"where {face.name} stands among {', '.join(thing.name for thing in job.surroundings)}"
        )
    return tuple(missing)


def _vector(point: Points) -> tuple[float, float, float]:
    x, y, z = (float(value) for value in point)
    return x, y, z


def _rising(face: Face, thing: Obstacle) -> Prism:
    """A thing on a face: upright sides over its foot, its top level, so high above the face at its middle."""
    frame = frame_of(face)
    left, right, low, high = thing.x_m, thing.x_m + thing.w_m, thing.y_m, thing.y_m + thing.h_m
    foot = np.array([frame.at(x, y) for x, y in ((left, low), (right, low), (right, high), (left, high))])
    top = foot.copy()
    top[:, 2] = foot[:, 2].mean() + (thing.height_m or 0.0)
    return _upright(thing.name, top, UP)


def _house_below(face: Face) -> Prism:
    """A face with the house below it, to the ground; an outline that is not convex counts as its hull."""
    frame = frame_of(face)
    return _upright(face.name, np.array([frame.at(x, y) for x, y in _hull(face)]), frame.out)


def _thing(thing: Surrounding, latitude_deg: float) -> Prism:
    """A building or a tree around: an upright box, or a round one, turned clockwise from north."""
    middle = np.array((thing.east_m, thing.north_m))
    if thing.shape == "round":
        turns = np.arange(ROUND_SIDES) * 2 * np.pi / ROUND_SIDES
        outer = thing.width_m / 2 / np.cos(np.pi / ROUND_SIDES)
        flat = middle + outer * np.column_stack((np.cos(turns), np.sin(turns)))
    else:
        angle = np.radians(thing.turned_deg)
        along, back = np.array((np.cos(angle), -np.sin(angle))), np.array((np.sin(angle), np.cos(angle)))
        half_w, half_d = thing.width_m / 2, (thing.depth_m or thing.width_m) / 2
        corners = ((-1, -1), (1, -1), (1, 1), (-1, 1))
        flat = np.array([middle + a * half_w * along + b * half_d * back for a, b in corners])
    top = np.column_stack((flat, np.full(len(flat), thing.height_m)))
    months = IN_LEAF_NORTH if latitude_deg >= 0 else tuple((month + 6) % 12 for month in IN_LEAF_NORTH)
    through = tuple(thing.light_in_leaf if month in months else thing.light_bare for month in range(12))
    return _upright(thing.name, top, UP, thing.base_m, through)


def _upright(
    name: str,
    top: Points,
    normal: Points,
    base_m: float = 0.0,
    lets_through: tuple[float, ...] = MONTHS_OPAQUE,
) -> Prism:
    """Upright sides through the edges of a top, counter-clockwise and in a plane of this normal."""
    sides = []
    for a, b in zip(top, np.roll(top, -1, axis=0), strict=True):
        edge = b - a
        side = np.array((edge[1], -edge[0], 0.0))
        long = float(np.linalg.norm(side))
        if long > 1e-9:
            side /= long
            sides.append((float(side[0]), float(side[1]), 0.0, float(side @ a)))
    sides += [(*_vector(normal), float(normal @ top[0])), (0.0, 0.0, -1.0, -base_m)]
    low = np.column_stack((top[:, :2], np.full(len(top), min(base_m, float(top[:, 2].min())))))
    corners = np.vstack((top, low))
    centre = (corners.min(axis=0) + corners.max(axis=0)) / 2
    radius = float(np.linalg.norm(corners - centre, axis=1).max())
    return Prism(name, top, base_m, Solid(tuple(sides), _vector(centre), radius, lets_through))


def _hull(face: Face) -> tuple[tuple[float, float], ...]:
    """The convex hull of a face's outline, counter-clockwise."""
    if not face.outline:
        return face.corners
    from scipy.spatial import ConvexHull

    return tuple(face.corners[int(index)] for index in ConvexHull(np.array(face.corners)).vertices)
