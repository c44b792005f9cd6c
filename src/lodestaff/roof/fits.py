"""What fits on a face: modules upright, across, or mixed by rows, clear of its edges and of what rises from
it."""

from dataclasses import dataclass
from functools import cache
from typing import Literal

from lodestaff.catalogue import ModuleSheet
from lodestaff.job import Job
from lodestaff.job.array import Face, PlacedModule
from lodestaff.job.array_fits import lie_over, lies_within

Way = Literal["upright", "across", "mixed"]
STEP_M = 0.02  # how finely a row is tried
SLACK_M = 1e-6


@dataclass(frozen=True)
class Clear:
    """What stays free, in m: at eaves and sides, at the ridge, between modules, around what rises."""

    edge_m: float
    ridge_m: float
    gap_m: float = 0.02
    around_m: float = 0.1


@dataclass(frozen=True)
class Fill:
    """Modules that fit: how they lie, and whether each row stands about the middle of the face."""

    way: Way
    symmetric: bool
    modules: tuple[PlacedModule, ...]


def clear_of(job: Job) -> Clear:
    """What the job's pack keeps clear of a roof's edges."""
    return Clear(job.pack.value("roof_edge_m").value, job.pack.value("roof_ridge_m").value)


def fills(face: Face, sheet: ModuleSheet, clear: Clear) -> tuple[Fill, ...]:
    """Upright, across and mixed, each with the most modules and as a symmetric roof."""
    return tuple(
        Fill(way, symmetric, filled(face, sheet, clear, way, symmetric))
        for symmetric in (False, True)
        for way in ("upright", "across", "mixed")
    )


def filled(
    face: Face, sheet: ModuleSheet, clear: Clear, way: Way, symmetric: bool = False
) -> tuple[PlacedModule, ...]:
    """The modules of one fill, row by row from the eaves; rows are chosen so that they hold the most
    together.

    Each row is packed from the left (no packing of equal modules in a row holds more), or about the middle.
    """
    upright, across = sheet.lying(True), sheet.lying(False)
    kinds = [(True, upright), (False, across)]
    if way == "mixed":  # rows of one kind may hold more where they begin higher
        alone = [
            filled(face, sheet, clear, "upright", symmetric),
            filled(face, sheet, clear, "across", symmetric),
        ]
    else:
        alone, kinds = [], [kind for kind in kinds if kind[0] is (way == "upright")]
    lowest = round(min(w_h[1] for _, w_h in kinds), 6)

    @cache
    def row(y: float, stands: bool) -> tuple[float, ...]:
        return _row(face, clear, y, upright if stands else across, symmetric)

    @cache
    def best(y: float) -> tuple[int, tuple[tuple[float, bool], ...]]:
        """The most modules from a height on, and the rows that hold them."""
        if y + lowest + clear.ridge_m > face.height_m + SLACK_M:
            return 0, ()
        best_fill = best(round(y + 0.1, 6)) if not rows_from(y) else (0, ())
        for stands, (_, h) in kinds:
            if y + h + clear.ridge_m > face.height_m + SLACK_M:
                continue
            count = len(row(y, stands))
            more, rows = best(round(y + h + clear.gap_m, 6))
            if count and count + more > best_fill[0]:
                best_fill = (count + more, ((y, stands), *rows))
        return best_fill

    def rows_from(y: float) -> bool:
        return any(
            y + h + clear.ridge_m <= face.height_m + SLACK_M and row(y, stands) for stands, (_, h) in kinds
        )

    count, rows = best(round(clear.edge_m, 6))
    if alone and len(most := max(alone, key=len)) > count:
        return most
    return tuple(
        PlacedModule(id=f"m{number}", x_m=round(x, 3), y_m=round(y, 3), turned=stands != face.portrait)
        for number, (x, y, stands) in enumerate(
            ((x, y, stands) for y, stands in rows for x in row(y, stands)), start=1
        )
    )


def _row(face: Face, clear: Clear, y: float, size: tuple[float, float], symmetric: bool) -> tuple[float, ...]:
    """Where modules of a size lie in the row at a height."""
    w = size[0]
    if not symmetric:
        heights: list[float] = []
        x = clear.edge_m
        while x + w + clear.edge_m <= face.width_m + SLACK_M:
            if _free(face, clear, (x, y), size):
                heights.append(x)
                x += w + clear.gap_m
            else:
                x += STEP_M
        return tuple(heights)
    most = int((face.width_m - 2 * clear.edge_m + clear.gap_m + SLACK_M) / (w + clear.gap_m))
    for count in range(most, 0, -1):
        start = (face.width_m - count * w - (count - 1) * clear.gap_m) / 2
        places = tuple(start + number * (w + clear.gap_m) for number in range(count))
        if all(_free(face, clear, (x, y), size) for x in places):
            return places
    return ()


def _free(face: Face, clear: Clear, at: tuple[float, float], size: tuple[float, float]) -> bool:
    """Whether a module may lie there: inside the outline with what stays free, and clear of what rises."""
    (x, y), (w, h) = at, size
    room = (x - clear.edge_m, y - clear.edge_m, w + 2 * clear.edge_m, h + clear.edge_m + clear.ridge_m)
    if room[0] < -SLACK_M or room[1] < -SLACK_M:
        return False
    if face.outline:
        if not lies_within(face.corners, room):
            return False
    elif x + w + clear.edge_m > face.width_m + SLACK_M or y + h + clear.ridge_m > face.height_m + SLACK_M:
        return False
    away = clear.around_m
    return not any(
        x < o.x_m + o.w_m + away
        and o.x_m < x + w + away
        and y < o.y_m + o.h_m + away
        and o.y_m < y + h + away
        for o in face.obstacles
    )


def turned(face: Face, sheet: ModuleSheet, clear: Clear, module: PlacedModule) -> PlacedModule | None:
    """A module lying the other way where there is room for it: about its middle, else with an edge where it
    had one; None where it fits nowhere there."""
    w, h = face.size_of(module, sheet)
    others = [(m.x_m, m.y_m, *face.size_of(m, sheet)) for m in face.modules if m.id != module.id]
    middle, across = (w - h) / 2, (h - w) / 2
    for right, up in ((0, 0), (1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (-1, -1), (1, -1), (-1, 1)):
        x = module.x_m + middle + right * abs(middle)
        y = module.y_m + across + up * abs(across)
        at = (round(max(0.0, x), 3), round(max(0.0, y), 3))
        if _free(face, clear, at, (h, w)) and not any(lie_over((*at, h, w), other) for other in others):
            return module.model_copy(update={"turned": not module.turned, "x_m": at[0], "y_m": at[1]})
    return None
