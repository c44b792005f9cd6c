"""Records for what carries the modules."""

from collections.abc import Iterator
from functools import lru_cache

from lodestaff.checks.mounting import Mounted
from lodestaff.job import Face, Job
from lodestaff.job.array import Corner
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.roof.mounting import RAILS_PER_ROW, rails_of

Box = tuple[float, float, float, float]


@makes
def mounted(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Mounted]:
    """Faces with modules."""
    for face in job.faces:
        if face.modules:
            yield _mounted(job, face)


def _mounted(job: Job, face: Face) -> Mounted:
    sheet, values = job.sheets.modules[face.module], job.pack.values
    boxes = tuple((m.x_m, m.y_m, *face.size_of(m, sheet)) for m in face.modules)
    on_roof = face.mounting != "open rack"
    bare = Mounted(
        id=face.id,
        name=face.name,
        edge_m=min(_least_side_m(face.corners, face.width_m, boxes), *(y for _, y, _, _ in boxes)),
        ridge_m=min(face.height_m - y - h for _, y, _, h in boxes),
        least_edge=values.get("roof_edge_m") if on_roof else None,
        least_ridge=values.get("roof_ridge_m") if on_roof else None,
        sheet=face.mounting_sheet,
        modules=len(face.modules),
        bonded=face.bonded.value if face.bonded.firm else None,
        bond_mm2=face.bond_mm2.value if face.bond_mm2.firm else None,
        least_bond=values.get("array_bond_mm2"),
    )
    if not face.mounting_sheet:
        return bare
    mounting = job.sheets.mountings[face.mounting_sheet]
    rails = rails_of(face, sheet, mounting)
    rafter = face.rafter_m
    needed = on_roof and face.covering.value in (None, "tiles", "slates")
    return Mounted(
        **{
            **vars(bare),
            "rail_m": rails.rail_m,
            "rails": RAILS_PER_ROW * len(rails.rows),
            "listed": mounting.listed_bonding,
            "lengths": None if mounting.rail_m is None else rails.lengths(mounting.rail_m),
            "supports": rails.supports,
            "clamps": (rails.end_clamps, rails.middle_clamps),
            "spacing_m": mounting.support_spacing_m,
            "pitch_m": rails.pitch_m,
            "rafter_m": rafter.value,
            "overhang_m": mounting.most_overhang_m,
            "weight_kg": rails.weight_kg,
            "area_m2": rails.area_m2,
            "guard_m": rails.guard_m,
            "clamp_zone_m": (sheet.clamp_from_m, sheet.clamp_to_m)
            if sheet.clamp_from_m is not None and sheet.clamp_to_m is not None
            else None,
            "covering": face.covering.value or "",
            "soft": ("the spacing of the rafters is unknown",) if needed and not rafter.firm else (),
        }
    )


@lru_cache(maxsize=64)
def _least_side_m(corners: tuple[Corner, ...], width_m: float, boxes: tuple[Box, ...]) -> float:
    """What is free at the left or the right of any module, at its lower or upper edge, the least."""
    least: list[float] = []
    for x, y, w, h in boxes:
        lefts, rights = zip(*(_ends(corners, width_m, at) for at in (y, y + h)), strict=True)
        least += [x - max(lefts), min(rights) - x - w]
    return min(least)


def _ends(corners: tuple[Corner, ...], width_m: float, y: float) -> tuple[float, float]:
    """Where a level line meets the outline of a face, left and right."""
    meets = []
    for a, b in zip(corners, (*corners[1:], corners[0]), strict=True):
        if a[1] != b[1] and min(a[1], b[1]) - 1e-9 <= y <= max(a[1], b[1]) + 1e-9:
            meets.append(a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]))
    return (min(meets), max(meets)) if meets else (0.0, width_m)
