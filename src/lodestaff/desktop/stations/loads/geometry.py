"""Where rails, blocks and labels stand. Pure geometry: no painting, no store."""

from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QFontMetricsF

from lodestaff.job import Circuit, Job, Role
from lodestaff.reckoning.load_groups import LoadGroup

LEFT, RIGHT = 4.0, 34.0
HEAD, LOWER_HEAD, AXIS, LEG_AXIS = 20.0, 4.0, 16.0, 6.0
LINE = 16.0  # a label's line at the usual size of text
NARROWEST, LOWEST, LEAST_BLOCK = 5.0, 7.0, 24.0
EMPTY = 44.0
# How what is over is shared out: what is backed up is what is decided, and gets most.
SPARE = {Role.HELD: 6.0, Role.SHED: 0.8, Role.GRID: 0.4, Role.LOCKED: 0.2, Role.SURPLUS: 0.1}


@dataclass(frozen=True)
class Block:
    """A circuit on its rail: as wide as its running kVA on the leg, as high as its night energy.

    `also` marks the second supply of a circuit whose block stands elsewhere.
    """

    circuit: Circuit
    rect: QRectF
    label: QRectF
    inside: bool
    cut: bool = False  # higher than the rail has room for
    also: bool = False


@dataclass(frozen=True)
class Rail:
    """One rail: its group, its band, base line, blocks, and the start that is drawn dashed.

    A board on the same source and leg as the one before it carries on where that ends: `begin` is its first
    kVA.
    """

    group: LoadGroup
    band: QRectF
    base: float
    blocks: tuple[Block, ...]
    begin: float = 0.0
    start: QRectF | None = None
    start_name: str = ""

    @property
    def role(self) -> Role:
        return self.group.role

    @property
    def running_kva(self) -> float:
        return sum(
            b.circuit.running_kva / (len(b.circuit.legs) if self.group.leg else 1)
            for b in self.blocks
            if not b.also
        )


@dataclass(frozen=True)
class Rails:
    """All rails at one scale."""

    rails: tuple[Rail, ...]
    px_per_kva: float
    most_kva: float
    height: float
    size: float = 1.0  # of the text, to its usual size
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
        return next(
            (block for rail in self.rails for block in rail.blocks if block.circuit.id == circuit_id), None
        )


def lay_rails(
    job: Job,
    load_groups: tuple[LoadGroup, ...],
    night_kwh: dict[str, float],
    width: float,
    height: float,
    metrics: QFontMetricsF,
    line_height: float,
) -> Rails:
    """Lay the rails out in a surface of the given width, at least as high as given; labels never overlap."""
    circuits = {c.id: c for c in job.circuits}
    rows = [(group, [circuits[id] for id in (*group.circuits, *group.also)]) for group in load_groups]
    begins = _begins(load_groups, circuits)
    ends = [
        begin + sum(_kva(circuits[id], group) for id in group.circuits)
        for group, begin in zip(load_groups, begins, strict=True)
    ]
    most = max(*ends, 0.1, *(group.stop[1] for group in load_groups if group.stop)) * 1.02
    scale = (width - LEFT - RIGHT) / most
    night_height = max(90.0, min(150.0, height * 0.17)) * max(1.0, line_height / LINE)
    needs = [_needed(group, ones, scale, metrics, line_height) for group, ones in rows]
    weights = [SPARE[group.role] if ones else 0.15 for group, ones in rows]
    spare = max(0.0, (height - night_height - 8 - sum(needs)) / max(1e-9, sum(weights)))
    fed = [night_kwh.get(c.id, 0.0) for c in job.circuits if c.role in (Role.HELD, Role.SHED)]
    highest = max(fed, default=0.0) or max(night_kwh.values(), default=0.0)
    last_held = {
        (group.source, group.leg): index for index, group in enumerate(load_groups) if group.role is Role.HELD
    }
    rails = []
    y = 0.0
    for index, (group, ones) in enumerate(rows):
        band = QRectF(0, y, width, needs[index] + spare * weights[index])
        y = band.bottom()
        starters = (
            _starters(load_groups, circuits, group)
            if last_held.get((group.source, group.leg)) == index
            else []
        )
        rails.append(
            _rail(
                group,
                ones,
                begin=begins[index],
                band=band,
                scale=scale,
                night_kwh=night_kwh,
                highest=highest,
                metrics=metrics,
                line_height=line_height,
                starters=starters,
            )
        )
    whole = max(height, y + night_height + 8)
    night = QRectF(LEFT, whole - night_height, width - LEFT - RIGHT, night_height)
    return Rails(tuple(rails), scale, most_kva=most, height=whole, size=line_height / LINE, night=night)


def _kva(circuit: Circuit, group: LoadGroup) -> float:
    """What a circuit draws on a group: an equal part on each of its legs."""
    return circuit.running_kva / len(circuit.legs) if group.leg else circuit.running_kva


def _begins(load_groups: tuple[LoadGroup, ...], circuits: dict[str, Circuit]) -> list[float]:
    """The first kVA of each group: a held board carries on where the one before it on its source and leg
    ends."""
    reached: dict[tuple[tuple[str, ...], str], float] = {}
    begins = []
    for group in load_groups:
        key = (group.source, group.leg)
        begin = reached.get(key, 0.0) if group.role is Role.HELD and group.source else 0.0
        begins.append(begin)
        if group.role is Role.HELD:
            reached[key] = begin + sum(_kva(circuits[id], group) for id in group.circuits)
    return begins


def _starters(
    load_groups: tuple[LoadGroup, ...], circuits: dict[str, Circuit], group: LoadGroup
) -> list[Circuit]:
    """The held circuits of a group's source and leg."""
    return [
        circuits[id]
        for load_group in load_groups
        if load_group.role is Role.HELD and (load_group.source, load_group.leg) == (group.source, group.leg)
        for id in load_group.circuits
    ]


def _heads(group: LoadGroup, line_height: float) -> tuple[float, float]:
    """Room for a rail's words above its blocks, and for the numbers below its line."""
    size = line_height / LINE
    return size * (HEAD if group.first else LOWER_HEAD), size * (
        AXIS if group.role is Role.HELD else LEG_AXIS
    )


def _needed(
    group: LoadGroup, circuits: list[Circuit], scale: float, metrics: QFontMetricsF, line_height: float
) -> float:
    """The room that a rail's labels and blocks need; an empty role is a narrow strip to drop on."""
    head, axis = _heads(group, line_height)
    if not circuits:
        return max((EMPTY if group.first else 24.0) * line_height / LINE, head + axis + 18)
    return head + axis + LEAST_BLOCK + line_height * _outside(circuits, group, scale, metrics)


def _rail(
    group: LoadGroup,
    circuits: list[Circuit],
    begin: float,
    band: QRectF,
    scale: float,
    night_kwh: dict[str, float],
    highest: float,
    metrics: QFontMetricsF,
    line_height: float,
    starters: list[Circuit],
) -> Rail:
    head, axis = _heads(group, line_height)
    base = band.bottom() - axis
    room = max(
        LEAST_BLOCK, base - band.top() - head - line_height * _outside(circuits, group, scale, metrics)
    )
    x = LEFT + begin * scale
    rects, cuts = [], []
    for index, circuit in enumerate(circuits):
        share = night_kwh.get(circuit.id, 0.0) / highest if highest > 0 else 0.0
        block_height = max(LOWEST, min(1.0, share) * room)
        width = max(NARROWEST, _kva(circuit, group) * scale)
        rects.append(QRectF(x, base - block_height, width - 1.5, block_height))
        cuts.append(share > 1.05)
        x += _kva(circuit, group) * scale if index < len(group.circuits) else width + 6
    start, name = None, ""
    starter = max(starters, key=lambda c: c.start_kva - c.running_kva, default=None)
    if starter is not None and starter.start_kva > starter.running_kva:
        legs = len(starter.legs) if group.leg else 1
        start = QRectF(x, base - 15, (starter.start_kva - starter.running_kva) / legs * scale, 15)
        name = starter.name
    obstacles = [*rects, start] if start is not None else rects
    blocks = _labelled(
        circuits,
        rects,
        cuts=cuts,
        own=len(group.circuits),
        obstacles=obstacles,
        band=band,
        head=head,
        metrics=metrics,
        line_height=line_height,
    )
    return Rail(group, band, base=base, blocks=blocks, begin=begin, start=start, start_name=name)


def _outside(circuits: list[Circuit], group: LoadGroup, scale: float, metrics: QFontMetricsF) -> int:
    """How many labels are too wide for their blocks: each may need a tier of its own. One at least."""
    return max(
        1, sum(metrics.horizontalAdvance(c.name) + 10 > _kva(c, group) * scale - 1.5 for c in circuits)
    )


def _labelled(
    circuits: list[Circuit],
    rects: list[QRectF],
    cuts: list[bool],
    own: int,
    obstacles: list[QRectF],
    band: QRectF,
    head: float,
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
    for index in reversed(range(len(circuits))):
        circuit, rect, cut, also = circuits[index], rects[index], cuts[index], index >= own
        width = metrics.horizontalAdvance(circuit.name) + 4
        if rect.width() >= width + 6 and rect.height() >= line_height + 4:
            label = QRectF(rect.left() + 4, rect.top() + 4, width, line_height)
            blocks.append(Block(circuit, rect, label=label, inside=True, cut=cut, also=also))
            continue
        left = min(rect.left(), band.right() - width - 2)
        over = [(label, tier) for label, tier in placed if label.left() < left + width + 6]
        tier = max((tier for _, tier in over), default=-1) + 1
        near = min(
            (
                obstacle.top()
                for obstacle in obstacles
                if obstacle.left() < left + width and obstacle.right() > left
            ),
            default=floor,
        )
        low = min([near - line_height - 2, *(label.top() - line_height for label, _ in over)])
        label = QRectF(left, max(band.top() + head - 2, low), width, line_height)
        placed.append((label, tier))
        blocks.append(Block(circuit, rect, label=label, inside=False, cut=cut, also=also))
    return tuple(reversed(blocks))
