"""Records for the checks of where things stand."""

from collections.abc import Iterable, Iterator, Mapping

from lodestaff.checks.places import AboutBody, BatteryPlace, Handle
from lodestaff.job import Job
from lodestaff.job.walls import Feature, Wall
from lodestaff.places import Body, Rect, apart_m, bodies, storing
from lodestaff.places.room import free_above_m
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.topology.model import Conductor, Part

OPENINGS, GAS = ("door", "window", "vent"), ("gas meter", "gas appliance")
KEPT_FREE = ("door", "window", "vent", "hatch", "drain", "gas meter", "gas appliance", "socket", "obstacle")
LARGE = ("unit", "battery", "gateway", "generator")
HANDLES = ("isolator", "bypass", "throw", "board", "interlock")


def _rect(feature: Feature) -> Rect:
    return Rect(feature.x_m, feature.y_m, feature.width_m, feature.height_m)


def _name(feature: Feature) -> str:
    return feature.name or f"the {feature.kind}"


def _of_kind(wall: Wall, kinds: tuple[str, ...]) -> list[tuple[str, Rect]]:
    return [(_name(feature), _rect(feature)) for feature in wall.features if feature.kind in kinds]


def _nearest(rect: Rect, things: list[tuple[str, Rect]]) -> tuple[str, float] | None:
    near = [(name, apart_m(rect, other)) for name, other in things]
    return min(near, key=lambda pair: pair[1], default=None)


def _bodies(reckoner: Reckoner, job: Job) -> tuple[Body, ...]:
    """All parts that have a place, found once for a job."""
    return reckoner.of_job("bodies", job, lambda: bodies(job, reckoner.wiring(job).topology))


@makes
def battery_places(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[BatteryPlace]:
    every, stored = _bodies(reckoner, job), storing(job)
    for body in every:
        if body.id not in stored:
            continue
        wall, rect = body.wall, body.rect
        if wall is None or rect is None:
            yield _unplaced(job, body)
            continue
        others = [
            (other.name, other.rect)
            for other in every
            if other.id in stored and other is not body and other.wall is wall and other.rect is not None
        ]
        at = body.standing
        assert at is not None
        lined = {"does not burn": True, "burns": False, "none": False}.get(str(at.backing.value))
        masonry = wall.lined.value == "yes" or wall.build.value in ("masonry", "concrete")
        yield BatteryPlace(
            owner=body.id,
            name=body.name,
            wall=wall.name,
            rules=job.pack.places,
            room=wall.room,
            behind=wall.behind.value,
            opening=_nearest(rect, _of_kind(wall, OPENINGS)),
            gas=_nearest(rect, _of_kind(wall, GAS)),
            other=_nearest(rect, others),
            foot_m=rect.y,
            flood_m=wall.flood_m.value,
            sun=wall.sun.value,
            vehicles=wall.vehicles.value,
            backed=True if masonry or lined else lined,
            reach=None if masonry else (at.reach_side_m, at.reach_above_m),
            outside=wall.outside,
        )


def _unplaced(job: Job, body: Body) -> BatteryPlace:
    nothing = dict.fromkeys(
        ("behind", "opening", "gas", "other", "flood_m", "sun", "vehicles", "backed", "reach")
    )
    return BatteryPlace(
        owner=body.id,
        name=body.name,
        wall="",
        rules=job.pack.places,
        room="",
        foot_m=0.0,
        outside=False,
        **nothing,
    )


@makes
def about_bodies(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[AboutBody]:
    every = [other for other in _bodies(reckoner, job) if other.wall is not None]
    for body in every:
        wall, shadow, rect, at = body.wall, body.shadow, body.rect, body.standing
        assert wall is not None
        assert shadow is not None
        assert rect is not None
        assert at is not None
        beside = [
            other for other in every if other is not body and other.wall is wall and other.rect is not None
        ]
        blocked = [other.name for other in beside if other.rect is not None and shadow.meets(other.rect)]
        blocked += [
            _name(feature)
            for feature in wall.features
            if feature.kind in KEPT_FREE and shadow.meets(_rect(feature))
        ]
        if body.clear_above_m and shadow.top > wall.height_m + 1e-9:
            blocked.append("the ceiling")
        yield AboutBody(
            owner=body.id,
            name=body.name,
            wall=wall.name,
            in_the_way=tuple(blocked),
            fits=wall.holds(rect.x, rect.y, rect.width, rect.height),
            silent=body.silent,
            weather=body.weather,
            outside=wall.outside,
            rain=wall.rain.value,
            quiet=wall.quiet.value,
            loud={"generator": "generator", "unit": "unit"}.get(body.kind, ""),
            sized=body.sized,
            large=body.kind in LARGE,
            weight_kg=body.weight_kg,
            held=at.held.value,
            build=wall.build.value,
            grows_m=body.grows_m,
            above_m=free_above_m(wall, rect, [other.rect for other in beside if other.rect is not None]),
            front_m=_front(job, body),
            free_m=None if wall.free_m.value is None else max(0.0, wall.free_m.value - body.depth_m),
            spans_studs=None if wall.stud_pitch_m is None else body.width_m >= wall.stud_pitch_m - 1e-9,
        )


def _front(job: Job, body: Body) -> float:
    """What is wanted free in front: by its sheet, and by the pack where hands work on it."""
    rules = job.pack.places
    hands = rules.front_m if rules is not None and body.kind in HANDLES else None
    return max(body.clear_front_m, hands or 0.0)


@makes
def handles(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Handle]:
    rules, topology = job.pack.places, reckoner.wiring(job).topology
    every = {other.id: other for other in _bodies(reckoner, job)}
    for body in every.values():
        rect = body.rect
        if rules is None or rect is None or body.kind not in HANDLES:
            continue
        unit = _isolated(topology.conductors, topology.parts, body.id) if body.kind == "isolator" else None
        there = every[unit.id].wall if unit is not None and unit.id in every else None
        yield Handle(
            owner=body.id,
            name=body.name,
            middle_m=rect.middle[1],
            low_m=rules.reach_low_m,
            high_m=rules.reach_high_m,
            unit=unit.name if unit is not None else "",
            same_wall=None if there is None else there is body.wall,
        )


def _isolated(conductors: Iterable[Conductor], parts: Mapping[str, Part], isolator: str) -> Part | None:
    """What an isolator stands before: the generator where it is one's, else the unit."""
    beside = [
        parts[conductor.b[0] if conductor.a[0] == isolator else conductor.a[0]]
        for conductor in conductors
        if isolator in (conductor.a[0], conductor.b[0])
    ]
    return next((part for kind in ("generator", "unit") for part in beside if part.kind == kind), None)
