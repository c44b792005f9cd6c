"""Walls and the passages between them as a graph of ways for cables; `scipy.sparse.csgraph` finds the best.

A way on a wall goes level and upright only, as a neat installer runs it; passages have the length that was
typed. DC is kept short indoors: a metre there counts as several when ways are compared, never when they are
measured.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any, Literal

import numpy as np
from scipy.sparse import csgraph, csr_array

from lodestaff.job.walls import Passage, Wall

INDOORS_DC = 3.0  # what a metre of DC indoors counts for (common practice, no source)
NEXT_TO_NOTHING = 1e-9
CLOSED: tuple[Literal["conduit", "trunking"], ...] = ("conduit", "trunking")
Point = tuple[str, float, float]  # wall, x, y


@dataclass(frozen=True)
class Terms:
    """What one run may take: whether it is DC, whether DC indoors has to lie in metal, how deep a cable must
    be in a wall (mm) to need no residual-current device, whether it has to go without one, and which passages
    stay without it."""

    direct: bool = False
    metal: bool = False
    depth_mm: float | None = None
    guardless: bool = False
    without: frozenset[str] = frozenset()

    def may(self, passage: Passage, inside: bool) -> bool:
        """Whether a passage may be taken."""
        if passage.id in self.without:
            return False
        if not self.direct:
            return passage.ac
        return passage.dc and not (self.metal and inside and passage.metal is False)

    def shallow(self, wall: Wall | None) -> bool:
        """Whether cables lie so shallow in a wall, or may, that they need a residual-current device."""
        if self.direct or self.depth_mm is None or wall is None or wall.cables != "in the wall":
            return False
        return wall.cable_depth_mm is None or wall.cable_depth_mm < self.depth_mm


@dataclass(frozen=True)
class Way:
    """From one point to another: metres, passages by id, points."""

    length_m: float
    passages: tuple[str, ...]
    points: tuple[Point, ...]

    def back(self) -> "Way":
        return Way(self.length_m, self.passages[::-1], self.points[::-1])


@dataclass
class Ways:
    """All ways over some walls, by the terms of one run. A way leaves a point level or upright, so corners
    cost nothing."""

    passages: Sequence[Passage]
    walls: dict[str, Wall] = field(default_factory=dict)
    terms: Terms = Terms()

    def __post_init__(self) -> None:
        self.open = [passage for passage in self.passages if self.terms.may(passage, self._indoors(passage))]
        self.ends: list[Point] = []
        for passage in self.open:
            self.ends += [
                (passage.a, passage.a_x_m, passage.a_y_m),
                (passage.b, passage.b_x_m, passage.b_y_m),
            ]

    def between(self, a: Point, b: Point) -> Way | None:
        """The best way; None where no allowed way joins the two."""
        points = [a, b, *self.ends]
        rows, columns, lengths, counted = [], [], [], []

        def edge(i: int, j: int, metres: float, weight: float) -> None:
            rows.append(i)
            columns.append(j)
            lengths.append(metres)
            counted.append(metres * weight + NEXT_TO_NOTHING)

        for i, point in enumerate(points):
            wall = self.walls.get(point[0])
            shut = self.terms.guardless and self.terms.shallow(wall)
            for j, other in enumerate(points[:i]):
                if point[0] == other[0]:
                    metres = abs(point[1] - other[1]) + abs(point[2] - other[2])
                    if shut and metres > NEXT_TO_NOTHING:
                        continue
                    edge(i, j, metres, self._weight(wall is not None and not wall.outside))
        for place, passage in enumerate(self.open):
            edge(2 + 2 * place, 3 + 2 * place, passage.length_m, self._weight(self._indoors(passage)))
        size = len(points)
        graph: Any = csr_array((_least(rows, columns, counted)), shape=(size, size))
        shortest: Any = csgraph.dijkstra
        distance, before = shortest(graph, directed=False, indices=0, return_predecessors=True)
        if not np.isfinite(distance[1]):
            return None
        order, at = [1], 1
        while at != 0:
            at = int(before[at])
            order.append(at)
        order.reverse()
        return self._way(order, points)

    def _way(self, order: list[int], points: list[Point]) -> Way:
        """The way by its points: through a passage where both ends of one follow each other and no wall
        joins them as well or better."""
        length, through = 0.0, []
        for i, j in pairwise(order):
            point, other = points[i], points[j]
            on_wall = (
                abs(point[1] - other[1]) + abs(point[2] - other[2]) if point[0] == other[0] else float("inf")
            )
            passage = self.open[(i - 2) // 2] if min(i, j) >= 2 and (i - 2) // 2 == (j - 2) // 2 else None
            if passage is not None and passage.length_m <= on_wall:
                through.append(passage.id)
                length += passage.length_m
            else:
                length += on_wall
        return Way(round(length, 4), tuple(through), tuple(points[i] for i in order))

    def _weight(self, indoors: bool) -> float:
        return INDOORS_DC if self.terms.direct and indoors else 1.0

    def _indoors(self, passage: Passage) -> bool:
        """Whether a passage lies in a building: a loft does, a trench doesn't, another where both its ends
        do."""
        if passage.way in ("loft", "trench"):
            return passage.way == "loft"
        ends = [self.walls.get(name) for name in (passage.a, passage.b)]
        return all(wall is not None and not wall.outside for wall in ends)


def _least(rows: list[int], columns: list[int], counted: list[float]) -> tuple[Any, Any]:
    """Edges for a sparse matrix, which would add those that stand twice: the least of them."""
    distances: dict[tuple[int, int], float] = {}
    for i, j, value in zip(rows, columns, counted, strict=True):
        key = (max(i, j), min(i, j))
        distances[key] = min(value, distances.get(key, float("inf")))
    places = list(distances)
    return list(distances.values()), ([i for i, _ in places], [j for _, j in places])
