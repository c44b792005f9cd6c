"""Rails, supports and clamps of a face, counted from the mounting's sheet: parts to order, and weights for
whoever answers for the structure."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

from lodestaff.catalogue import ModuleSheet
from lodestaff.catalogue.parts import MountingSheet
from lodestaff.job.array import Face, PlacedModule

RAILS_PER_ROW = 2  # common practice, no source
BEYOND_M = 0.05  # of rail beyond the last module, for its end clamp; common practice, no source
TOUCHING_M = 0.12  # modules no further apart than this share their rails


@dataclass(frozen=True)
class RailRow:
    """A row of modules on its rails: how many modules, and how long each rail is."""

    modules: int
    rail_m: float
    supports: int  # on each rail


@dataclass(frozen=True)
class Rails:
    """What a face takes. `pitch_m` is how far supports stand apart; None where the rafters forbid it.

    Weights are None while the sheets don't give them.
    """

    rows: tuple[RailRow, ...]
    pitch_m: float | None
    weight_kg: float | None
    area_m2: float
    guard_m: float = 0.0  # around the modules, to keep birds out

    @property
    def rail_m(self) -> float:
        return RAILS_PER_ROW * sum(row.rail_m for row in self.rows)

    @property
    def supports(self) -> int:
        return RAILS_PER_ROW * sum(row.supports for row in self.rows)

    @property
    def end_clamps(self) -> int:
        return 2 * RAILS_PER_ROW * len(self.rows)

    @property
    def middle_clamps(self) -> int:
        return RAILS_PER_ROW * sum(row.modules - 1 for row in self.rows)

    def lengths(self, stick_m: float) -> int:
        """Rails of a length to buy; each run is cut from whole ones, what is left over isn't joined on."""
        return RAILS_PER_ROW * sum(math.ceil(row.rail_m / stick_m - 1e-9) for row in self.rows)


def pitch_of(spacing_m: float, rafter_m: float | None) -> float | None:
    """How far apart supports stand: the greatest spacing, on rafters the most whole ones below it; None
    where not even one fits."""
    if rafter_m is None:
        return spacing_m
    whole = math.floor(spacing_m / rafter_m + 1e-9)
    return whole * rafter_m if whole else None


def rails_of(face: Face, module: ModuleSheet, mounting: MountingSheet) -> Rails:
    """Rails along the rows of a face, two to a row; supports so that neither spacing nor overhang is
    exceeded.

    Supports on a rail: ceil((length − 2 x overhang) / pitch) + 1, two at least. Source: derived; modules
    plus one or two a row is what comes out on usual roofs (common practice).
    """
    spacing = mounting.support_spacing_m or math.inf
    pitch = pitch_of(spacing, face.rafter_m.value) if math.isfinite(spacing) else None
    rows = []
    for row in _rows(face, module):
        start = min(m.x_m for m in row)
        end = max(m.x_m + face.size_of(m, module)[0] for m in row)
        rail = end - start + 2 * BEYOND_M
        supports = 0
        if pitch:
            held = max(0.0, rail - 2 * (mounting.most_overhang_m or 0.0))
            supports = max(2, math.ceil(held / pitch - 1e-9) + 1)
        rows.append(RailRow(len(row), rail, supports))
    area = len(face.modules) * module.length_m * module.width_m
    boxes = tuple((m.x_m, m.y_m, *face.size_of(m, module)) for m in face.modules)
    made = Rails(tuple(rows), pitch, None, area, guard_m=_around_m(boxes))
    if None in (module.weight_kg, mounting.rail_kg_per_m, mounting.support_kg):
        return made
    weight = (
        len(face.modules) * (module.weight_kg or 0.0)
        + made.rail_m * (mounting.rail_kg_per_m or 0.0)
        + made.supports * (mounting.support_kg or 0.0)
    )
    return replace(made, weight_kg=weight)


@lru_cache(maxsize=64)
def _around_m(boxes: tuple[tuple[float, float, float, float], ...]) -> float:
    """The edge of the modules together: of each one's sides what no other module lies against."""
    total = 0.0
    for x, y, w, h in boxes:
        for begin, end, reach, level, across in (
            (x, x + w, y, -1, False),
            (x, x + w, y + h, 1, False),
            (y, y + h, x, -1, True),
            (y, y + h, x + w, 1, True),
        ):
            hidden = 0.0
            for ox, oy, ow, oh in boxes:
                low, high, near, far = (oy, oy + oh, ox, ox + ow) if across else (ox, ox + ow, oy, oy + oh)
                gap = (near - reach) if level > 0 else (reach - far)
                if -1e-6 <= gap <= TOUCHING_M:
                    hidden += max(0.0, min(end, high) - max(begin, low))
            total += max(0.0, end - begin - hidden)
    return total


def _rows(face: Face, module: ModuleSheet) -> list[list[PlacedModule]]:
    """Modules side by side at one height, lying alike."""
    rows: list[list[PlacedModule]] = []
    for each in sorted(face.modules, key=lambda m: (round(m.y_m, 2), m.turned, m.x_m)):
        row = rows[-1] if rows else []
        if row:
            last = row[-1]
            alike = round(last.y_m, 2) == round(each.y_m, 2) and last.turned == each.turned
            if alike and each.x_m - (last.x_m + face.size_of(last, module)[0]) <= TOUCHING_M:
                row.append(each)
                continue
        rows.append([each])
    return rows
