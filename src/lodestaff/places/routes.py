"""The ways of runs between what stands on walls: proposed, or as a person laid them."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import pairwise

from lodestaff.job import Job
from lodestaff.job.walls import Turn
from lodestaff.places.bodies import bodies, entries
from lodestaff.places.ways import CLOSED, Point, Terms, Way, Ways
from lodestaff.topology import Topology
from lodestaff.topology.model import Conductor

WITHIN = (
    "breaker",
    "rcd",
    "relay",
    "fuse",
    "block",
)  # that sit in a board where they have no place of their own
HOSTS = ("board", "block", "isolator", "gateway")
Link = tuple[str, str]


@dataclass(frozen=True)
class Route:
    """The way of a run: its length without slack, the parts that it joins, the passages that it goes by.

    `beyond_m` of the length are on the roof. `laid` says that a person laid it; `shallow` that it lies so
    shallow in a wall that it needs a residual-current device, `depth_mm` how deep (None: on the surface, or
    not known). `guardless` is the way that needs none, where there is one.
    """

    run: str
    length_m: float
    stops: tuple[str, ...]
    passages: tuple[str, ...]
    points: tuple[Point, ...]
    direct: bool = False
    laid: bool = False
    beyond_m: float = 0.0
    shallow: bool = False
    depth_mm: float | None = None
    guardless: "Route | None" = None

    @property
    def corners(self) -> int:
        """Right angles on its walls."""
        return sum(
            a[0] == b[0] and abs(a[1] - b[1]) > 1e-6 and abs(a[2] - b[2]) > 1e-6
            for a, b in pairwise(self.points)
        )


def routes(job: Job, topology: Topology) -> dict[str, Route]:
    """The way of every run whose ends stand on walls that are joined; others are left out. Those of AC come
    first: DC stays out of their conduits and trunkings where it can go otherwise."""
    net = _Net(job, topology)
    routes: dict[str, Route] = {}
    names = dict.fromkeys(conductor.run for conductor in topology.conductors if conductor.run)
    for direct in (False, True):
        for run in names:
            ends = net.ends_of(run)
            if ends is None or ends.direct is not direct:
                continue
            route = net.route(ends)
            if route is not None:
                routes[run] = route
        net.taken = frozenset(passage for route in routes.values() for passage in route.passages)
    return {run: routes[run] for run in names if run in routes}


@dataclass(frozen=True)
class Ends:
    """A run between places: the links of its parts, and the metres that lie beyond them on a roof."""

    run: str
    links: tuple[Link, ...]
    direct: bool
    beyond_m: float


class _Net:
    """What all runs of a job share."""

    def __init__(self, job: Job, topology: Topology) -> None:
        self.job, self.topology = job, topology
        self.walls = {wall.id: wall for wall in job.walls}
        self.courses = {course.id: course.by for course in job.courses}
        self.places: dict[str, Point] = {}
        self.beyond: dict[str, float] = {}
        self.taken: frozenset[str] = frozenset()
        self.nets: dict[Terms, Ways] = {}
        self.of_run: dict[str, list[Conductor]] = {}
        self.at_part: dict[str, list[Conductor]] = {}
        for conductor in topology.conductors:
            self.of_run.setdefault(conductor.run, []).append(conductor)
            for part in {conductor.a[0], conductor.b[0]}:
                self.at_part.setdefault(part, []).append(conductor)
        for body in (*bodies(job, topology), *entries(job, topology)):
            at = body.standing
            if at is None or body.rect is None or (body.kind == "array" and at.beyond_m is None):
                continue
            self.places[body.id] = (at.wall, *body.rect.middle)
            if body.kind == "array":
                self.beyond[body.id] = at.beyond_m or 0.0
        depth = job.pack.values.get("wall_depth_mm") if job.pack.conductor_rule == "IEC" else None
        metal = job.pack.values.get("array_dc_in_metal")
        self.depth_mm = depth.value if depth is not None else None
        self.metal = metal is not None and metal.value > 0

    def ends_of(self, run: str) -> Ends | None:
        """None where one of its parts has no place: an array whose cables come in nowhere, say."""
        mine = self.of_run[run]
        stands: dict[str, str] = {}
        for part in dict.fromkeys(end for conductor in mine for end in (conductor.a[0], conductor.b[0])):
            stands[part] = part if part in self.places else self._host(part, run)
        links = [(stands[conductor.a[0]], stands[conductor.b[0]]) for conductor in mine]
        links = [(a, b) for a, b in dict.fromkeys(links) if a != b]
        if not links or "" in stands.values():
            return None
        beyond = sum(self.beyond.get(part, 0.0) for part in dict.fromkeys(stands.values()))
        return Ends(run, tuple(links), _direct(mine), beyond)

    def _host(self, part: str, run: str) -> str:
        """Where a part without a place of its own sits: the nearest placed board or device that it is joined
        to; '' where it sits nowhere."""
        seen, waiting = {part}, [part]
        while waiting:
            here = waiting.pop(0)
            if self.topology.parts[here].kind not in WITHIN:
                continue
            for conductor in self.at_part.get(here, ()):
                if conductor.run == run:
                    continue
                there = conductor.b[0] if conductor.a[0] == here else conductor.a[0]
                if there in self.places and self.topology.parts[there].kind in HOSTS:
                    return there
                if there not in seen:
                    seen.add(there)
                    waiting.append(there)
        return ""

    def route(self, ends: Ends) -> Route | None:
        """The way as it was laid, where that can be gone; else the proposed one."""
        terms = Terms(ends.direct, self.metal, self.depth_mm)
        turns = self.courses.get(ends.run)
        laid = self._along(ends, terms, turns) if turns else None
        if laid is not None:
            return replace(laid, laid=True)
        way = None
        apart = frozenset(
            passage.id for passage in self.job.passages if passage.way in CLOSED and passage.id in self.taken
        )
        if ends.direct and apart:
            way = self._along(ends, replace(terms, without=apart))
        way = way or self._along(ends, terms)
        if way is not None and way.shallow:
            way = replace(way, guardless=self._along(ends, replace(terms, guardless=True)))
        return way

    def _along(self, ends: Ends, terms: Terms, turns: tuple[Turn, ...] = ()) -> Route | None:
        if terms not in self.nets:
            self.nets[terms] = Ways(self.job.passages, self.walls, terms)
        net = self.nets[terms]
        links: dict[Link, Way] = {}
        for a, b in ends.links:
            way = net.between(self.places[a], self.places[b])
            if way is None:
                return None
            links[a, b] = way
        stops = _longest(links)
        ways = [links[a, b] if (a, b) in links else links[b, a].back() for a, b in pairwise(stops)]
        if turns:
            by = [(turn.wall, turn.x_m, turn.y_m) for turn in turns]
            by_turns = _by_turns(net, [self.places[stop] for stop in stops], by)
            if by_turns is None:
                return None
            ways = by_turns
        points = tuple(point for way in ways for point in way.points)
        shallow = [self.walls[name] for name in _walls_of(ways) if terms.shallow(self.walls[name])]
        depths = [wall.cable_depth_mm for wall in shallow if wall.cable_depth_mm is not None]
        return Route(
            run=ends.run,
            length_m=round(sum(way.length_m for way in ways) + ends.beyond_m, 4),
            stops=tuple(stops),
            passages=tuple(name for way in ways for name in way.passages),
            points=points,
            direct=ends.direct,
            beyond_m=ends.beyond_m,
            shallow=bool(shallow),
            depth_mm=min(depths, default=None),
        )


def _direct(conductors: Iterable[Conductor]) -> bool:
    return any("DC" in core for conductor in conductors for core in conductor.cores)


def _walls_of(ways: Iterable[Way]) -> tuple[str, ...]:
    """Walls along which ways really go, not those whose passage they only leave by."""
    ids = [
        a[0]
        for way in ways
        for a, b in pairwise(way.points)
        if a[0] == b[0] and abs(a[1] - b[1]) + abs(a[2] - b[2]) > 1e-6
    ]
    return tuple(dict.fromkeys(ids))


def _by_turns(net: Ways, stops: list[Point], turns: list[Point]) -> list[Way] | None:
    """A way over all stops and all turns, each in its order, the turns shared out between the stops so that
    it is the shortest; None where a stretch can't be gone."""
    best: dict[int, tuple[float, list[Way]]] = {0: (0.0, [])}  # by how many turns are behind
    for a, b in pairwise(stops):
        after: dict[int, tuple[float, list[Way]]] = {}
        for begun, (length, ways) in best.items():
            here, so_far, walked = a, length, list(ways)
            for gone in range(begun, len(turns) + 1):
                last = net.between(here, b)
                if last is not None and so_far + last.length_m < after.get(gone, (float("inf"),))[0]:
                    after[gone] = (so_far + last.length_m, [*walked, last])
                if gone == len(turns) or (step := net.between(here, turns[gone])) is None:
                    break
                here, so_far, walked = turns[gone], so_far + step.length_m, [*walked, step]
        best = after
    return best[len(turns)][1] if len(turns) in best else None


def _longest(ways: dict[Link, Way]) -> list[str]:
    """The stops of a run from end to end; of one that branches those of its longest branch."""
    beside: dict[str, list[tuple[str, float]]] = {}
    for (a, b), way in ways.items():
        beside.setdefault(a, []).append((b, way.length_m))
        beside.setdefault(b, []).append((a, way.length_m))

    def furthest(start: str) -> tuple[float, list[str]]:
        best, waiting = (0.0, [start]), [(0.0, [start])]
        while waiting:
            length, path = waiting.pop()
            best = max(best, (length, path), key=lambda pair: pair[0])
            waiting += [
                (length + metres, [*path, there]) for there, metres in beside[path[-1]] if there not in path
            ]
        return best

    first = next(iter(ways))[0]
    end = furthest(first)[1][-1]
    path = furthest(end)[1]
    order = list(beside)
    return path if order.index(path[0]) <= order.index(path[-1]) else path[::-1]
