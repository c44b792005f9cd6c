"""Shade from solid things near by: which share of the beam each group of a module's cells gets in each step,
and how much of the sky the module sees. Metres; axes point east, north and up."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from lodestaff.energy.calendar import Floats, Ints, month_of_step
from lodestaff.energy.compiled import njit
from lodestaff.energy.sun import Sun

GROUPS, HALVES, POINTS = (
    3,
    2,
    2,
)  # bypass groups of a module, halves of each, points along each side of a half
SKY_RINGS, SKY_SECTORS = 18, 72  # patches of the sky, 5 degrees each way
Vector = tuple[float, float, float]
MONTHS_OPAQUE = (0.0,) * 12


@dataclass(frozen=True)
class Solid:
    """A convex thing that throws shade.

    `sides` are (nx, ny, nz, d): inside is where n·p <= d for all of them. `centre` and `radius` are of a
    sphere around it. `lets_through` is the share of the beam that comes through it, by month.
    """

    sides: tuple[tuple[float, float, float, float], ...]
    centre: Vector
    radius: float
    lets_through: tuple[float, ...] = MONTHS_OPAQUE

    def __hash__(self) -> int:
        return self._hash  # asked often, for many keys hold it

    @cached_property
    def _hash(self) -> int:
        return hash((self.sides, self.centre, self.radius, self.lets_through))


@dataclass(frozen=True)
class Standing:
    """A module in space: its lower left corner, its two sides as vectors, and what stands around it.

    `groups_along` says whether its bypass groups lie side by side along the first side (an upright module).
    """

    corner: Vector
    across: Vector
    up: Vector
    groups_along: bool
    around: tuple[Solid, ...]

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.corner, self.across, self.up, self.groups_along, self.around))


def normal_of(module: Standing) -> Floats:
    """The unit vector that the module looks along."""
    square = np.cross(module.across, module.up)
    return np.asarray(square / np.linalg.norm(square))


def beam_share(module: Standing, sun: Sun) -> Floats:
    """Share of the beam on each bypass group, shape (3, step): 1 unshaded, also while the sun is behind it.

    A group's half carries the current of its most shaded cells; its two halves lie in parallel, so the group
    has their mean (common practice for modules of half cells).
    """
    return beam_share_along(module, sun.directions, month_of_step())


@dataclass(frozen=True)
class Rays:
    """What light reaches a module, whatever the weather: the steps in which some of its groups have less than
    the whole beam, their shares then, shape (3, those steps), and its share of an even sky."""

    steps: Ints
    share: Floats
    sky: float

    def beam(self, steps: int) -> Floats:
        """Share of the beam on each group, shape (3, step)."""
        whole = np.ones((GROUPS, steps))
        whole[:, self.steps] = self.share
        return whole


def rays_of(module: Standing, sun: Sun) -> Rays:
    """The rays of a year on a module."""
    share = beam_share(module, sun)
    steps = np.flatnonzero((share < 1).any(axis=0))
    return Rays(steps, share[:, steps].copy(), sky_share(module))


def beam_share_along(module: Standing, directions: Floats, months: Ints) -> Floats:
    """The same for any directions to the sun, shape (n, 3), each in a month counted from 0."""
    centre, reach = _middle(module)
    return np.asarray(
        _lit(
            _points(module),
            np.ascontiguousarray(directions),
            months.astype(np.int64),
            normal_of(module),
            centre,
            reach,
            *_arrays(module.around),
        )
    )


def sky_share(module: Standing) -> float:
    """Share of the light of an even sky that still reaches the module, 1 with nothing around it.

    Patches of 5 degrees, each weighted by the cosine of its incidence; a tree counts as in its fullest month.
    Derived.
    """
    elevation = np.radians((np.arange(SKY_RINGS) + 0.5) * 90 / SKY_RINGS)
    azimuth = np.radians((np.arange(SKY_SECTORS) + 0.5) * 360 / SKY_SECTORS)
    high, around = (grid.ravel() for grid in np.meshgrid(elevation, azimuth, indexing="ij"))
    patches = np.column_stack((np.cos(high) * np.sin(around), np.cos(high) * np.cos(around), np.sin(high)))
    weight = np.cos(high) * np.clip(patches @ normal_of(module), 0, None)
    darkest = int(np.argmin([sum(solid.lets_through[m] for solid in module.around) for m in range(12)]))
    seen = beam_share_along(module, patches, np.full(len(patches), darkest)).mean(axis=0)
    return float((seen * weight).sum() / weight.sum())


def _points(module: Standing) -> Floats:
    """Where cells are looked at, shape (group, half, point, 3)."""
    corner, across, up = (np.array(side) for side in (module.corner, module.across, module.up))
    by_group, by_half = (across, up) if module.groups_along else (up, across)
    spread = (np.arange(POINTS) + 0.5) / POINTS
    points = np.empty((GROUPS, HALVES, POINTS * POINTS, 3))
    for group in range(GROUPS):
        for half in range(HALVES):
            for index in range(POINTS * POINTS):
                u = (group + spread[index // POINTS]) / GROUPS
                v = (half + spread[index % POINTS]) / HALVES
                points[group, half, index] = corner + u * by_group + v * by_half
    return points


def _middle(module: Standing) -> tuple[Floats, float]:
    across, up = np.array(module.across), np.array(module.up)
    return np.array(module.corner) + (across + up) / 2, float(np.linalg.norm(across + up) / 2)


def _arrays(solids: tuple[Solid, ...]) -> tuple[Floats, Ints, Floats, Floats, Floats]:
    sides = np.array([side for solid in solids for side in solid.sides], dtype=float).reshape(-1, 4)
    first = np.cumsum([0, *(len(solid.sides) for solid in solids)]).astype(np.int64)
    centres = np.array([solid.centre for solid in solids], dtype=float).reshape(-1, 3)
    radii = np.array([solid.radius for solid in solids], dtype=float)
    through = np.array([solid.lets_through for solid in solids], dtype=float).reshape(-1, 12)
    return sides, first, centres, radii, through


@njit(cache=True, nogil=True, error_model="numpy")
def _hits(
    px: float, py: float, pz: float, dx: float, dy: float, dz: float, sides: Floats, low: int, high: int
) -> bool:
    """Whether a ray from a point meets the solid of these sides, more than a millimetre away."""
    enter, leave = 1e-3, 1e12
    for side in range(low, high):
        nx, ny, nz = sides[side, 0], sides[side, 1], sides[side, 2]
        along = nx * dx + ny * dy + nz * dz
        room = sides[side, 3] - (nx * px + ny * py + nz * pz)
        if abs(along) < 1e-12:
            if room < 0:
                return False
        elif along < 0:
            enter = max(enter, room / along)
        else:
            leave = min(leave, room / along)
        if enter >= leave:
            return False
    return True


@njit(cache=True, nogil=True, error_model="numpy")
def _lit(
    points: Floats,
    directions: Floats,
    months: Ints,
    normal: Floats,
    centre: Floats,
    reach: float,
    sides: Floats,
    first: Ints,
    centres: Floats,
    radii: Floats,
    through: Floats,
) -> Floats:
    groups, halves, count = points.shape[0], points.shape[1], points.shape[2]
    out = np.ones((groups, directions.shape[0]))
    near = np.empty(radii.size, dtype=np.int64)
    for step in range(directions.shape[0]):
        dx, dy, dz = directions[step, 0], directions[step, 1], directions[step, 2]
        if dz <= 0.0 or dx * normal[0] + dy * normal[1] + dz * normal[2] <= 0.0:
            continue
        count_near = 0
        for solid in range(radii.size):
            if through[solid, months[step]] < 1.0 and _line_is_near(
                dx, dy, dz, centre, reach, centres[solid], radii[solid]
            ):
                near[count_near] = solid
                count_near += 1
        if count_near == 0:
            continue
        for group in range(groups):
            total = 0.0
            for half in range(halves):
                least = 1.0
                for index in range(count):
                    share = 1.0
                    point = points[group, half, index]
                    for place in range(count_near):
                        solid = near[place]
                        if _hits(
                            point[0], point[1], point[2], dx, dy, dz, sides, first[solid], first[solid + 1]
                        ):
                            share *= through[solid, months[step]]
                            if share == 0.0:
                                break
                    least = min(least, share)
                    if least == 0.0:
                        break
                total += least
            out[group, step] = total / halves
    return out


@njit(cache=True, nogil=True, error_model="numpy")
def _line_is_near(
    dx: float, dy: float, dz: float, centre: Floats, reach: float, other: Floats, radius: float
) -> bool:
    """Whether the line from a module towards the sun passes a solid's sphere at all."""
    x, y, z = other[0] - centre[0], other[1] - centre[1], other[2] - centre[2]
    far, room = x * x + y * y + z * z, (reach + radius) ** 2
    if far <= room:
        return True
    along = x * dx + y * dy + z * dz
    return bool(along > 0.0 and far - along * along <= room)
