"""The parts of an installation as bodies: how large they are, what room they want, where they stand."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

from lodestaff.catalogue.body import Body as Size
from lodestaff.catalogue.body import Hole
from lodestaff.catalogue.families import sealed
from lodestaff.job import Job
from lodestaff.job.walls import Standing, Wall
from lodestaff.places.geometry import Rect
from lodestaff.topology import Topology
from lodestaff.topology.model import Part

# As large as it usually is where nothing says so, m: width, height, depth (common practice, no source).
USUAL = {
    "unit": (0.50, 0.60, 0.20),
    "battery": (0.60, 0.40, 0.30),  # a module
    "gateway": (0.45, 0.60, 0.20),
    "board": (0.40, 0.26, 0.11),
    "block": (0.20, 0.20, 0.10),
    "meter": (0.14, 0.19, 0.12),
    "isolator": (0.10, 0.16, 0.10),
    "bypass": (0.20, 0.30, 0.15),
    "throw": (0.20, 0.30, 0.15),
    "interlock": (0.20, 0.30, 0.15),
    "contactor": (0.12, 0.18, 0.10),
    "generator": (1.10, 0.80, 0.70),
    "transmitter": (0.15, 0.20, 0.08),
    "fuse": (0.12, 0.17, 0.10),
    "array": (0.10, 0.10, 0.05),  # where its cables come in
}
STACK_M = 2.0  # a stack goes no higher where its sheet gives the size of a module only


@dataclass(frozen=True)
class Body:
    """A part that stands somewhere. `sized` says what its size rests on; clearances are the sheet's, 0 where
    it is silent (`silent` then names what it doesn't give)."""

    id: str
    kind: str
    name: str
    width_m: float
    height_m: float
    depth_m: float
    sized: Literal["measured", "data sheet", "usual"]
    weight_kg: float | None
    clear_side_m: float
    clear_above_m: float
    clear_below_m: float
    clear_front_m: float
    silent: tuple[str, ...]
    on_floor: bool | None
    weather: str | None  # where its sheet lets it stand
    fixings: tuple[Hole, ...]  # measured go before those of its sheet
    entries: tuple[Hole, ...]
    grows_m: float  # how much higher its stack would be with all modules that it takes
    standing: Standing | None
    wall: Wall | None

    @cached_property
    def rect(self) -> Rect | None:
        """Where it stands on its wall."""
        if self.standing is None:
            return None
        return Rect(self.standing.x_m, self.standing.y_m, self.width_m, self.height_m)

    @cached_property
    def shadow(self) -> Rect | None:
        """It with the room that its maker wants."""
        rect = self.rect
        if rect is None:
            return None
        return rect.grown(self.clear_side_m, self.clear_side_m, self.clear_above_m, self.clear_below_m)


def placeable(job: Job, topology: Topology) -> tuple[Part, ...]:
    """Parts that have a place of their own: no breakers in boards, circuits, arrays or relays, nothing behind
    modules or inside another's case."""
    inner = {unit.unit for unit in topology.units if unit.module_level}
    inner |= {bank.id for bank in job.banks if sealed(job.sheet_of(job.unit(bank.unit)))}
    return tuple(
        part
        for part in topology.parts.values()
        if part.kind in USUAL and part.kind != "array" and part.id not in inner
    )


def storing(job: Job) -> set[str]:
    """What counts as a battery where it stands: a bank, or the case that it is sealed in."""
    return {bank.unit if sealed(job.sheet_of(job.unit(bank.unit))) else bank.id for bank in job.banks}


def bodies(job: Job, topology: Topology) -> tuple[Body, ...]:
    """All parts that have a place, with it where they have been given one; in the order of the graph."""
    standing = {other.id: other for other in job.standing}
    walls = {wall.id: wall for wall in job.walls}
    all_bodies = []
    for part in placeable(job, topology):
        at = standing.get(part.id)
        all_bodies.append(_body(job, part, at, walls[at.wall] if at else None))
    return tuple(all_bodies)


def numbered(bodies: tuple[Body, ...]) -> tuple[tuple[int, Body], ...]:
    """Those that have a place, by the number under which they stand in the pack."""
    return tuple(enumerate((body for body in bodies if body.standing is not None), start=1))


def entries(job: Job, topology: Topology) -> tuple[Body, ...]:
    """Where the cables of arrays, and of converters behind modules, come in from the roof."""
    standing = {other.id: other for other in job.standing}
    walls = {wall.id: wall for wall in job.walls}
    behind = {unit.unit for unit in topology.units if unit.module_level}
    all_bodies = []
    for part in topology.parts.values():
        if part.id in behind or (part.kind == "array" and part.of not in behind):
            at = standing.get(part.id)
            named = replace(part, kind="array", name=f"Cables of {part.name}")
            all_bodies.append(_body(job, named, at, walls[at.wall] if at else None))
    return tuple(all_bodies)


def _body(job: Job, part: Part, at: Standing | None, wall: Wall | None) -> Body:
    sheet, modules, most = _sheet(job, part) if part.kind != "array" else (None, 1, 1)
    width, height, depth = USUAL[part.kind]
    sized: Literal["measured", "data sheet", "usual"] = "usual"
    if sheet and sheet.body_width_m and sheet.body_height_m and sheet.body_depth_m:
        width, height, depth = sheet.body_width_m, sheet.body_height_m, sheet.body_depth_m
        sized = "data sheet"
    each = height
    high = max(1, int(STACK_M / each + 1e-9)) if modules > 1 else 1
    columns = -(-modules // high)
    width, height = width * columns, each * min(modules, high)
    grows = each * max(0, min(most, high * columns) - modules) if modules <= high else 0.0
    if at and at.width_m and at.height_m and at.depth_m:
        width, height, depth, sized = at.width_m, at.height_m, at.depth_m, "measured"
    clear = {
        "at its sides": sheet.clear_side_m if sheet else 0.0,
        "above": sheet.clear_above_m if sheet else 0.0,
        "below": sheet.clear_below_m if sheet else 0.0,
        "in front": sheet.clear_front_m if sheet else 0.0,
    }
    weight = _weight(job, part, getattr(sheet, "weight_kg", None), modules)
    return Body(
        part.id,
        part.kind,
        part.name,
        width_m=width,
        height_m=height,
        depth_m=depth,
        sized=sized,
        weight_kg=weight,
        clear_side_m=clear["at its sides"] or 0.0,
        clear_above_m=clear["above"] or 0.0,
        clear_below_m=clear["below"] or 0.0,
        clear_front_m=clear["in front"] or 0.0,
        silent=tuple(f"free room {where}" for where, value in clear.items() if value is None),
        on_floor=None if sheet is None or sheet.stands is None else sheet.stands == "on the floor",
        weather=None if sheet is None else sheet.weather,
        fixings=(at.fixings if at else ()) or (sheet.fixings if sheet else ()),
        entries=(at.entries if at else ()) or (sheet.entries if sheet else ()),
        grows_m=grows,
        standing=at,
        wall=wall,
    )


def _weight(job: Job, part: Part, each: float | None, modules: int) -> float | None:
    """What a part weighs, kg: all its modules, and the cells that are sealed in a unit's case."""
    cells = next((bank for bank in job.banks if bank.unit == part.id), None)
    if each is None:
        return None
    if cells is None or not sealed(job.sheet_of(job.unit(cells.unit))):
        return each * modules
    inside = job.sheets.batteries[cells.sheet].weight_kg
    return None if inside is None else each + inside * cells.modules


def _sheet(job: Job, part: Part) -> tuple[Size | None, int, int]:
    """The sheet of a part, how many of it stand together, and how many could."""
    bank = next((bank for bank in job.banks if bank.id == part.id), None)
    if bank is not None:
        sheet = job.sheets.batteries[bank.sheet]
        return sheet, bank.modules, sheet.max_modules
    unit = next((unit for unit in job.units if unit.id == part.id), None)
    own = job.sheets.units()[unit.sheet] if unit is not None else None
    return (own if isinstance(own, Size) else None), 1, 1
