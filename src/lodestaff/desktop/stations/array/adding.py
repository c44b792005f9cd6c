"""Roofs of the usual forms, things on a face and things around, put into the job: one named step each."""

from functools import partial

from PySide6.QtWidgets import QMenu

from lodestaff.desktop.store import Store
from lodestaff.job import Change, Face, Job
from lodestaff.roof.forms import NAMES, Building, Form, faces_of

THINGS = {  # words: width, depth and rise in m; how high a chimney is nobody can guess
    "Chimney": (0.9, 0.9, None),
    "Dormer": (1.6, 1.8, None),
    "Roof window": (0.78, 1.18, 0.0),
    "Vent pipe": (0.15, 0.15, None),
}
AROUND = {
    "Tree": {"shape": "round", "width_m": 6.0, "height_m": 10.0, "base_m": 2.0, "light_bare": 0.5},
    "Building": {"shape": "box", "width_m": 8.0, "depth_m": 8.0, "height_m": 8.0},
}


def fill_menu(menu: QMenu, store: Store) -> None:
    """What can be put in, by where it stands."""
    menu.clear()
    job = store.job
    if job is None:
        return
    roofs = menu.addMenu("Roof")
    for form, words in NAMES.items():
        roofs.addAction(words, partial(add_roof, store, form))
    for face in job.faces:
        sub = menu.addMenu(f"On {face.name}")
        for name in THINGS:
            sub.addAction(name, partial(add_thing, store, face.id, name))
    around = menu.addMenu("Around the roof")
    for name in AROUND:
        around.addAction(name, partial(add_around, store, name))


def add_roof(store: Store, form: Form) -> bool:
    """Faces of a usual size, beside those that are there; their sizes are typed in the table of faces."""
    job = store.job
    if job is None:
        return False
    module = job.faces[0].module if job.faces else next(iter(job.sheets.modules), "")
    if not module:
        store.trouble.emit("edit", "Not changed. The job has no module's sheet: take one from the shelf.")
        return False
    east = max((face.origin.east_m + face.width_m for face in job.faces if face.origin), default=-5.0) + 5.0
    made = faces_of(form, Building(east_m=east), module, frozenset(face.id for face in job.faces))
    rows = [face.model_dump(mode="json") for face in (*job.faces, *made)]
    return store.edit(f"Add {NAMES[form].partition(',')[0].lower()}", Change("faces", rows))


def add_thing(store: Store, face_id: str, name: str) -> bool:
    """Something at the first free place of a face, from its upper right corner on."""
    job = store.job
    if job is None:
        return False
    face = next(face for face in job.faces if face.id == face_id)
    wide, deep, rises = THINGS[name]
    number = next(n for n in range(1, 200) if f"obstacle-{n}" not in {thing.id for thing in face.obstacles})
    x, y = _free_place(job, face, wide, deep)
    rows = [thing.model_dump(mode="json") for thing in face.obstacles]
    rows.append(
        {
            "id": f"obstacle-{number}",
            "name": name,
            "x_m": x,
            "y_m": y,
            "w_m": wide,
            "h_m": deep,
            "height_m": rises,
        }
    )
    return store.edit(f"Add {name.lower()} on {face.name}", Change(f"faces/{face_id}/obstacles", rows))


def _free_place(job: Job, face: Face, wide: float, deep: float) -> tuple[float, float]:
    """Where nothing lies yet, searched from the upper right in steps of a quarter metre; else beyond the
    modules' reach, where the job will say what it covers."""
    sheet = job.sheets.modules[face.module]
    boxes = [(m.x_m, m.y_m, *face.size_of(m, sheet)) for m in face.modules]
    boxes += [(o.x_m, o.y_m, o.w_m, o.h_m) for o in face.obstacles]
    rows, columns = int(max(0.0, face.height_m - deep) * 4), int(max(0.0, face.width_m - wide) * 4)
    for row in range(rows, -1, -1):
        for column in range(columns, -1, -1):
            x, y = column / 4, row / 4
            if not any(
                x < bx + w and bx < x + wide and y < by + h and by < y + deep for bx, by, w, h in boxes
            ):
                return x, y
    return max(0.0, face.width_m - wide), max(0.0, face.height_m - deep)


def add_around(store: Store, name: str) -> bool:
    """A tree or a building before the noon sun, to be moved to where it stands."""
    job = store.job
    if job is None:
        return False
    number = next(n for n in range(1, 200) if f"around-{n}" not in {thing.id for thing in job.surroundings})
    south = -15.0 if job.site.latitude_deg >= 0 else 15.0
    fresh = {"id": f"around-{number}", "name": name, "east_m": 5.0, "north_m": south, **AROUND[name]}
    rows = [thing.model_dump(mode="json") for thing in job.surroundings]
    return store.edit(f"Add {name.lower()}", Change("surroundings", [*rows, fresh]))
