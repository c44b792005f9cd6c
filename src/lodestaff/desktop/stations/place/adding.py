"""Walls, openings, passages and first places put into the job: one named step each."""

from functools import partial

from PySide6.QtWidgets import QMenu

from lodestaff.desktop.stations.place.menus import Doing
from lodestaff.desktop.store import Store
from lodestaff.job import Change, Job
from lodestaff.job.walls import Wall
from lodestaff.places import Body, Rect, bodies, storing

WALL = {"width_m": 4.0, "height_m": 2.4}
ROOMS = ("garage", "utility room", "plant room", "outbuilding", "hall", "")  # '' is outside
FEATURES = {  # width, height, height of the lower edge, m (common practice)
    "door": (0.9, 2.0, 0.0),
    "window": (1.2, 1.1, 1.0),
    "vent": (0.2, 0.2, 2.0),
    "gas meter": (0.4, 0.5, 0.5),
    "drain": (0.4, 0.2, 0.0),
    "hatch": (0.6, 0.6, 0.6),
    "socket": (0.15, 0.1, 0.3),
    "obstacle": (0.5, 0.5, 0.0),
}
Corners = tuple[tuple[float, float], ...]
GABLE_SIZE = {"width_m": 7.0, "height_m": 6.0}
GABLE: Corners = ((0, 0), (7, 0), (7, 3), (3.5, 6), (0, 3))
GAP_M, HANGS_M, GRID_M = 0.15, 1.2, 0.05


def fill_menu(menu: QMenu, store: Store, doing: Doing) -> None:
    """What can be put in."""
    menu.clear()
    job = store.job
    if job is None:
        return
    walls = menu.addMenu("Wall")
    walls.addAction("gable end, outside", partial(add_wall, store, "", GABLE))
    for room in ROOMS:
        walls.addAction(f"in the {room}" if room else "outside", partial(add_wall, store, room))
    for wall in job.walls:
        sub = menu.addMenu(f"On {wall.name}")
        for kind in FEATURES:
            sub.addAction(kind, partial(add_feature, store, wall.id, kind))
    if len(job.walls) > 1:
        ways = menu.addMenu("Way for cables from")
        for a, b in zip(job.walls, job.walls[1:]):
            ways.addAction(f"{a.name} to {b.name}", partial(add_passage, store, a.id, b.id))
    if job.walls:
        photos = menu.addMenu("Photo under a wall")
        for wall in job.walls:
            if wall.photo is None:
                photos.addAction(f"{wall.name}…", partial(doing.ask_photo, wall))
            else:
                photos.addAction(f"{wall.name}: scale by two points", partial(doing.measure_photo, wall))
                photos.addAction(f"{wall.name}: take it away", partial(doing.without_photo, wall))


def free_id(taken: set[str], stem: str) -> str:
    return next(name for number in range(1, 200) if (name := f"{stem}-{number}") not in taken)


def add_wall(store: Store, room: str, outline: Corners = ()) -> bool:
    """A wall of a usual size; its own are typed in the table."""
    job = store.job
    if job is None:
        return False
    name = f"{room[0].upper()}{room[1:]} wall" if room else "Outside wall"
    names = {wall.name for wall in job.walls}
    shown = next(
        candidate
        for number in range(1, 30)
        if (candidate := name if number == 1 else f"{name} {number}") not in names
    )
    wall = {"id": free_id({wall.id for wall in job.walls}, "wall"), "name": shown, "room": room,
            **(WALL if not outline else {"outline": outline, **GABLE_SIZE})}  # fmt: skip
    rows = [other.model_dump(mode="json") for other in job.walls]
    return store.edit(f"Add {shown}", Change("walls", [*rows, wall]))


def add_feature(store: Store, wall_id: str, kind: str) -> bool:
    """An opening or a thing, right of what is there already."""
    job = store.job
    if job is None:
        return False
    wall = next(other for other in job.walls if other.id == wall_id)
    width, height, up = FEATURES[kind]
    right = max((feature.x_m + feature.width_m for feature in wall.features), default=0.0)
    x = min(right + GAP_M, max(0.0, wall.width_m - width))
    made = {"id": free_id({feature.id for feature in wall.features}, kind.replace(" ", "-")), "kind": kind,
            "x_m": round(x, 2), "y_m": up, "width_m": min(width, wall.width_m),
            "height_m": min(height, wall.height_m)}  # fmt: skip
    rows = [feature.model_dump(mode="json") for feature in wall.features]
    return store.edit(f"Add a {kind} to {wall.name}", Change(f"walls/{wall_id}/features", [*rows, made]))


def add_passage(store: Store, a: str, b: str) -> bool:
    """A way between neighbours: from the right end of one to the left end of the other."""
    job = store.job
    if job is None:
        return False
    walls = {wall.id: wall for wall in job.walls}
    made = {"id": free_id({passage.id for passage in job.passages}, "way"), "a": a, "a_x_m": walls[a].width_m,
            "a_y_m": 2.0, "b": b, "b_x_m": 0.0, "b_y_m": 2.0, "length_m": 0.5}  # fmt: skip
    rows = [passage.model_dump(mode="json") for passage in job.passages]
    words = f"Add a way from {walls[a].name} to {walls[b].name}"
    return store.edit(words, Change("passages", [*rows, made]))


def stand_all(job: Job, store: Store) -> Change | None:
    """First places for all that wait: from the left of each wall in turn, where nothing is in the way, stacks
    on the floor; a person moves them. None where no wall has room or nothing waits."""
    every = bodies(job, store.reckoner.wiring(job).topology)
    rows = [standing.model_dump(mode="json") for standing in job.standing]
    taken = {
        wall.id: [(body.rect, body.shadow) for body in every if body.rect and body.wall is wall]
        + [(rect, rect) for rect in _features(wall)]
        for wall in job.walls
    }
    for body in (body for body in every if body.standing is None):
        for wall in (wall for wall in job.walls if _may_stand(job, body, wall)):
            spot = _free_spot(body, wall, taken[wall.id])
            if spot is not None:
                rows.append({"id": body.id, "wall": wall.id, "x_m": spot.x, "y_m": spot.y})
                taken[wall.id].append((spot, _about(body, spot)))
                break
    return Change("standing", rows) if len(rows) > len(job.standing) else None


def _may_stand(job: Job, body: Body, wall: Wall) -> bool:
    """Whether a first place may be here: no battery in a room that the pack forbids, generators outside."""
    rules = job.pack.places
    forbidden = rules is not None and body.id in storing(job) and wall.room in rules.not_in
    return not forbidden and (body.kind != "generator" or wall.outside)


def _features(wall: Wall) -> list[Rect]:
    return [Rect(feature.x_m, feature.y_m, feature.width_m, feature.height_m) for feature in wall.features]


def _about(body: Body, spot: Rect) -> Rect:
    """A place with the room that its part wants."""
    side = max(GAP_M, body.clear_side_m)
    return spot.grown(side, side, body.clear_above_m, body.clear_below_m)


def _free_spot(body: Body, wall: Wall, taken: list[tuple[Rect, Rect | None]]) -> Rect | None:
    """The first place from the left where a part fits with the room that it and its neighbours want."""
    on_floor = body.on_floor or (body.on_floor is None and body.kind in ("battery", "generator"))
    up = 0.0 if on_floor else min(HANGS_M, max(0.0, wall.height_m - body.height_m))
    for step in range(int((wall.width_m - body.width_m) / GRID_M) + 1):
        spot = Rect(round(step * GRID_M, 3), round(up, 3), body.width_m, body.height_m)
        about = _about(body, spot)
        free = not any(about.meets(rect) or spot.meets(shadow or rect) for rect, shadow in taken)
        if free and wall.holds(spot.x, spot.y, spot.width, spot.height):
            return spot
    return None
