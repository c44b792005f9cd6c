"""Where rails, blocks and labels stand. Pure geometry: no painting, no store."""

from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QFontMetricsF

from lodestaff.job import Circuit, Job, Role
from lodestaff.reckoning.selectors import energy_phases, rail_of

ROLES = (Role.HELD, Role.SHED, Role.GRID, Role.LOCKED)
LEFT, RIGHT = 4.0, 34.0
HEAD, AXIS = 20.0, 16.0
NARROWEST, LOWEST, LEAST_BLOCK = 5.0, 7.0, 24.0
SPARE = {Role.HELD: 1.6, Role.SHED: 0.8, Role.GRID: 0.7, Role.LOCKED: 0.7}


@dataclass(frozen=True)
class Block:
    """A circuit on its rail: as wide as its running kVA, as high as its night energy."""

    circuit: Circuit
    rect: QRectF
    label: QRectF
    inside: bool
    cut: bool = False  # higher than the rail has room for


@dataclass(frozen=True)
class Rail:
    """One rail of a role and phase: its band, base line, blocks, and the start that is drawn dashed."""

    role: Role
    phase: str
    band: QRectF
    base: float
    blocks: tuple[Block, ...]
    start: QRectF | None = None
    start_name: str = ""


@dataclass(frozen=True)
class Rails:
    """All rails at one scale."""

    rails: tuple[Rail, ...]
    px_per_kva: float
    most_kva: float
    stops: dict[str, tuple[float, float]] = field(default_factory=dict)  # phase -> continuous, surge kVA
    night: QRectF = field(default_factory=QRectF)

    def x(self, kva: float) -> float:
        return LEFT + kva * self.px_per_kva

    def rail_at(self, point: QPointF) -> Rail | None:
        return next((rail for rail in self.rails if rail.band.contains(point)), None)

    def block_at(self, point: QPointF) -> Block | None:
        for rail in self.rails:
            for block in rail.blocks:
                if block.rect.adjusted(-1, -4, 1, 2).contains(point) or block.label.contains(point):
                    return block
        return None

    def block_of(self, circuit_id: str) -> Block | None:
        return next((block for rail in self.rails for block in rail.blocks if block.circuit.id == circuit_id), None)


def stops_of(job: Job) -> dict[str, tuple[float, float]]:
    """Continuous and surge rating of the units that form an island on each phase or pair of legs, kVA."""
    found: dict[str, tuple[float, float]] = {}
    for unit in job.units:
        sheet = job.sheet_of(unit)
        if sheet.forms_island:
            rail = rail_of(job, unit.legs)
            rated, surge = found.get(rail, (0.0, 0.0))
            found[rail] = (rated + sheet.rated_kva, surge + sheet.surge_kva)
    return found


def lay_rails(
    job: Job, night_kwh: dict[str, float], width: float, height: float, metrics: QFontMetricsF, line_height: float
) -> Rails:
    """Lay the rails out in a surface of the given size; labels never overlap."""
    stops = stops_of(job)
    on = {circuit.id: rail_of(job, circuit.legs) for circuit in job.circuits}
    phases = tuple(dict.fromkeys((*("+".join(group) for group in energy_phases(job)), *on.values())))
    by_rail = {
        (role, phase): tuple(c for c in job.circuits if c.role is role and on[c.id] == phase)
        for role in ROLES
        for phase in phases
    }
    widest = max(sum(c.running_kva for c in circuits) for circuits in by_rail.values())
    most = max(widest, 0.1, *(surge for _, surge in stops.values())) * 1.02
    scale = (width - LEFT - RIGHT) / most
    night_height = max(90.0, min(150.0, height * 0.17))
    # Each rail gets the room that its labels and blocks need; what is over is shared out.
    needs = {
        key: HEAD + AXIS + LEAST_BLOCK + line_height * _outside(circuits, scale, metrics)
        for key, circuits in by_rail.items()
    }
    spare = (height - night_height - 8 - sum(needs.values())) / sum(SPARE[role] for role, _ in by_rail)
    fed = [night_kwh.get(c.id, 0.0) for c in job.circuits if c.role in (Role.HELD, Role.SHED)]
    highest = max(fed, default=0.0) or max(night_kwh.values(), default=0.0)
    rails = []
    y = 0.0
    for (role, phase), circuits in by_rail.items():
        band = QRectF(0, y, width, needs[role, phase] + max(0.0, spare) * SPARE[role])
        y = band.bottom()
        rails.append(_rail(role, phase, circuits, band, scale, night_kwh, highest, metrics, line_height))
    return Rails(
        tuple(rails), scale, most, stops, QRectF(LEFT, height - night_height, width - LEFT - RIGHT, night_height)
    )


def _rail(
    role: Role,
    phase: str,
    circuits: tuple[Circuit, ...],
    band: QRectF,
    scale: float,
    night_kwh: dict[str, float],
    highest: float,
    metrics: QFontMetricsF,
    line_height: float,
) -> Rail:
    base = band.bottom() - AXIS
    room = max(LEAST_BLOCK, base - band.top() - HEAD - line_height * _outside(circuits, scale, metrics))
    x = LEFT
    rects, cuts = [], []
    for circuit in circuits:
        share = night_kwh.get(circuit.id, 0.0) / highest if highest > 0 else 0.0
        block_height = max(LOWEST, min(1.0, share) * room)
        width = max(NARROWEST, circuit.running_kva * scale)
        rects.append(QRectF(x, base - block_height, width - 1.5, block_height))
        cuts.append(share > 1.05)
        x += circuit.running_kva * scale
    start, name = None, ""
    starter = max(circuits, key=lambda c: c.start_kva - c.running_kva, default=None)
    if role is Role.HELD and starter is not None and starter.start_kva > starter.running_kva:
        start = QRectF(x, base - 15, (starter.start_kva - starter.running_kva) * scale, 15)
        name = starter.name
    obstacles = [*rects, start] if start is not None else rects
    blocks = _labelled(circuits, rects, cuts, obstacles, band, metrics, line_height)
    return Rail(role, phase, band, base, blocks, start, name)


def _outside(circuits: tuple[Circuit, ...], scale: float, metrics: QFontMetricsF) -> int:
    """How many labels are too wide for their blocks: each may need a tier of its own. One at least."""
    return max(1, sum(metrics.horizontalAdvance(c.name) + 10 > c.running_kva * scale - 1.5 for c in circuits))


def _labelled(
    circuits: tuple[Circuit, ...],
    rects: list[QRectF],
    cuts: list[bool],
    obstacles: list[QRectF],
    band: QRectF,
    metrics: QFontMetricsF,
    line_height: float,
) -> tuple[Block, ...]:
    """A label inside its block where it fits; else in a tier above, with a leader down to it.

    Tiers are given from the right: a label stands above every label that it overlaps to its right, so
    that no leader crosses a label.
    """
    blocks: list[Block] = []
    placed: list[tuple[QRectF, int]] = []
    floor = min((rect.top() for rect in rects), default=band.bottom())
    for circuit, rect, cut in reversed(list(zip(circuits, rects, cuts, strict=True))):
        width = metrics.horizontalAdvance(circuit.name) + 4
        if rect.width() >= width + 6 and rect.height() >= line_height + 4:
            blocks.append(Block(circuit, rect, QRectF(rect.left() + 4, rect.top() + 4, width, line_height), True, cut))
            continue
        left = min(rect.left(), band.right() - width - 2)
        over = [(label, tier) for label, tier in placed if label.left() < left + width + 6]
        tier = max((tier for _, tier in over), default=-1) + 1
        near = min((one.top() for one in obstacles if one.left() < left + width and one.right() > left), default=floor)
        low = min([near - line_height - 2, *(label.top() - line_height for label, _ in over)])
        label = QRectF(left, max(band.top() + HEAD - 2, low), width, line_height)
        placed.append((label, tier))
        blocks.append(Block(circuit, rect, label, False, cut))
    return tuple(reversed(blocks))
