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
Way = tuple[float, list[str], list[Point]]  # its length, passages by id, points


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
    """The way of a run; None where one of its parts has no place: an array on its roof, say."""
    mine = [one for one in topology.conductors if one.run == run]
    stands: dict[str, str] = {}
    for part in dict.fromkeys(end for one in mine for end in (one.a[0], one.b[0])):
        stands[part] = part if part in places else _host(topology, part, run, places)
    links = [(stands[one.a[0]], stands[one.b[0]]) for one in mine]
    links = [(a, b) for a, b in dict.fromkeys(links) if a != b]
    if not links or "" in stands.values():
        return None
    direct = any("DC" in core for one in mine for core in one.cores)
    net = Ways([passage for passage in passages if passage.dc or not direct])
    ways = {(a, b): net.between(places[a], places[b]) for a, b in links}
    if any(way is None for way in ways.values()):
        return None
    found = {link: way for link, way in ways.items() if way is not None}
    stops = _longest(found)
    length, through, points = 0.0, [], []
    for a, b in pairwise(stops):
        forth = (a, b) in found
        metres, by, over = found[(a, b) if forth else (b, a)]
        length += metres
        through += by if forth else by[::-1]
        points += over if forth else over[::-1]
    return Route(run, length, tuple(stops), tuple(through), tuple(points))


def _longest(ways: dict[tuple[str, str], Way]) -> list[str]:
    """The stops of a run from end to end; of one that branches those of its longest branch."""
    beside: dict[str, list[tuple[str, float]]] = {}
    for (a, b), (metres, *_) in ways.items():
        beside.setdefault(a, []).append((b, metres))
        beside.setdefault(b, []).append((a, metres))

    def furthest(start: str) -> tuple[float, list[str]]:
        best, waiting = (0.0, [start]), [(0.0, [start])]
        while waiting:
            length, path = waiting.pop()
            best = max(best, (length, path), key=lambda one: one[0])
            waiting += [
                (length + metres, [*path, there]) for there, metres in beside[path[-1]] if there not in path
            ]
        return best

    first = next(iter(ways))[0]
    end = furthest(first)[1][-1]
    path = furthest(end)[1]
    order = list(beside)
    return path if order.index(path[0]) <= order.index(path[-1]) else path[::-1]


def _host(topology: Topology, part: str, run: str, places: dict[str, Point]) -> str:
    """Where a part without a place of its own sits: the nearest placed board or device that it is joined to;
    '' where it sits nowhere."""
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

    def __init__(self, passages: list[Passage]) -> None:
        self.passages = passages
        self.ends: list[Point] = []
        for one in passages:
            self.ends += [(one.a, one.a_x_m, one.a_y_m), (one.b, one.b_x_m, one.b_y_m)]

    def between(self, a: Point, b: Point) -> Way | None:
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
