"""Ways of cables between what stands on walls: along the wall, through passages, the shortest by length.

A way on a wall goes level and upright only, as a neat installer runs it; passages have the length that was
typed. `scipy.sparse.csgraph` finds the shortest.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from scipy.sparse import csgraph, csr_array

from lodestaff.job import Job
from lodestaff.job.walls import Passage
from lodestaff.places.bodies import bodies
from lodestaff.topology import Topology

WITHIN = (
    "breaker",
    "rcd",
    "relay",
    "fuse",
    "block",
)  # that sit in a board where they have no place of their own
Point = tuple[str, float, float]  # wall, x, y


@dataclass(frozen=True)
class Route:
    """The way of a run: its length without slack, the parts that it joins, the passages that it goes by."""

    run: str
    length_m: float
    stops: tuple[str, ...]
    passages: tuple[str, ...]
    points: tuple[Point, ...]


def routes(job: Job, topology: Topology) -> dict[str, Route]:
    """The shortest way of every run whose ends stand on walls that are joined; others are left out."""
    places: dict[str, Point] = {}
    for body in bodies(job, topology):
        if body.standing is not None and body.rect is not None:
            places[body.id] = (body.standing.wall, *body.rect.middle)
    found = {}
    for run in dict.fromkeys(one.run for one in topology.conductors if one.run):
        route = _route(topology, job.passages, run, places)
        if route is not None:
            found[run] = route
    return found


def _route(
    topology: Topology, passages: Iterable[Passage], run: str, places: dict[str, Point]
) -> Route | None:
    mine = [one for one in topology.conductors if one.run == run]
    direct = any("DC" in core for one in mine for core in one.cores)
    stops = _stops(topology, run, places)
    if len(stops) < 2:
        return None
    net = Ways([passage for passage in passages if passage.dc or not direct], places)
    length = 0.0
    through: list[str] = []
    points: list[Point] = []
    for a, b in pairwise(stops):
        way = net.between(places[a], places[b])
        if way is None:
            return None
        length += way[0]
        through += way[1]
        points += way[2]
    return Route(run, length, tuple(stops), tuple(through), tuple(points))


def _stops(topology: Topology, run: str, places: dict[str, Point]) -> list[str]:
    """The parts with a place that a run joins, from its origin; one without stands where its board is."""
    order: dict[str, None] = {}
    for one in (one for one in topology.conductors if one.run == run):
        for part in (one.a[0], one.b[0]):
            stop = part if part in places else _host(topology, part, run, places)
            if stop:
                order.setdefault(stop)
    return list(order)


def _host(topology: Topology, part: str, run: str, places: dict[str, Point]) -> str:
    """Where a part without a place sits: the nearest placed part joined to it by no other run's length."""
    seen, waiting = {part}, [part]
    while waiting:
        here = waiting.pop(0)
        if topology.parts[here].kind not in WITHIN:
            continue
        for one in topology.conductors:
            ends = (one.a[0], one.b[0])
            if one.run == run or here not in ends:
                continue
            there = ends[1] if ends[0] == here else ends[0]
            if there in places and topology.parts[there].kind in ("board", "block", "isolator", "gateway"):
                return there
            if there not in seen:
                seen.add(there)
                waiting.append(there)
    return ""


class Ways:
    """The walls' passages as a graph; a way leaves a point level or upright, so corners cost nothing."""

    def __init__(self, passages: list[Passage], places: dict[str, Point]) -> None:
        self.passages = passages
        self.ends: list[Point] = []
        for one in passages:
            self.ends += [(one.a, one.a_x_m, one.a_y_m), (one.b, one.b_x_m, one.b_y_m)]

    def between(self, a: Point, b: Point) -> tuple[float, list[str], list[Point]] | None:
        """Length, passages by id and points of the shortest way; None where the walls aren't joined."""
        points = [a, b, *self.ends]
        rows, columns, lengths = [], [], []
        for i, one in enumerate(points):
            for j, other in enumerate(points[:i]):
                if one[0] == other[0]:
                    rows.append(i)
                    columns.append(j)
                    lengths.append(abs(one[1] - other[1]) + abs(one[2] - other[2]) + 1e-9)
        for place, passage in enumerate(self.passages):
            rows.append(2 + 2 * place)
            columns.append(3 + 2 * place)
            lengths.append(passage.length_m + 1e-9)
        size = len(points)
        graph: Any = csr_array((lengths, (rows, columns)), shape=(size, size))
        shortest: Any = csgraph.dijkstra
        distance, before = shortest(graph, directed=False, indices=0, return_predecessors=True)
        if not np.isfinite(distance[1]):
            return None
        order, at = [1], 1
        while at != 0:
            at = int(before[at])
            order.append(at)
        order.reverse()
        through = [
            self.passages[(i - 2) // 2].id
            for i, j in pairwise(order)
            if i >= 2 and j >= 2 and (i - 2) // 2 == (j - 2) // 2
        ]
        return round(float(distance[1]), 4), through, [points[i] for i in order]
