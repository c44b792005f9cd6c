"""Lanes of the Loads drawing: for each role its boards, for each board its legs; and what a drop on one
changes."""

from dataclasses import dataclass

from lodestaff.job import Change, Circuit, Job, Role
from lodestaff.job.plan import Board, Contactor
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.wired import BoardPlace, Wiring

ROLES = (Role.HELD, Role.SHED, Role.GRID, Role.LOCKED, Role.SURPLUS)


@dataclass(frozen=True)
class LoadGroup:
    """One group: a role on a board's leg. `board` '' stands for a role that no board has yet.

    `leg` is '' where the supply has one. `source` names the units that feed it in an outage; `stop` is what
    they give on this leg, continuous and surge, kVA. `also` are circuits whose second supply is this board.
    """

    role: Role
    board: str
    name: str
    building: str
    leg: str
    first: bool
    contactor: str
    source: tuple[str, ...]
    stop: tuple[float, float] | None
    circuits: tuple[str, ...]
    also: tuple[str, ...] = ()

    @property
    def key(self) -> tuple[Role, str, str]:
        return self.role, self.board, self.leg


def title(job: Job, role: Role) -> str:
    """What a role is called; where there is no grid, what was left on it is switched by hand."""
    names = {Role.HELD: "Backed up", Role.SHED: "Shed first",
             Role.GRID: "Grid only" if job.mains.grid else "By hand",
             Role.LOCKED: "Locked out", Role.SURPLUS: "Surplus only"}  # fmt: skip
    return names[role]


def fate(job: Job, group: LoadGroup) -> str:
    """What becomes of a group's circuits when the battery alone feeds them."""
    grid = job.mains.grid
    if group.role is Role.SURPLUS:
        return "takes only what would be exported or lost" if grid else "takes only what would be lost"
    if group.role is Role.LOCKED:
        return "never on the battery"
    if grid and not group.source:
        return "dead in an outage" if group.circuits or group.role is Role.GRID else "no circuit"
    if group.role is Role.HELD:
        return f"fed {'in an outage ' if grid else ''}until the battery is at its floor"
    if group.role is Role.SHED:
        return (
            f"dropped at its charge, {plain(job.limits.shed_soc * 100, 0)} % where none is given, or "
            "on overload"
        )
    return "on a fed board: drawn from the battery until switched off by hand"


def load_groups(job: Job, wiring: Wiring) -> tuple[LoadGroup, ...]:
    """All load_groups in their order: roles, then boards, then legs. Every role has one group at least."""
    groups: list[LoadGroup] = []
    boards = wiring.boards
    placed = {name for board in boards for name in board.circuits}
    for role in ROLES:
        mine = [
            (board, [c for c in job.circuits if c.id in board.circuits and c.role is role])
            for board in boards
        ]
        feeding = role is Role.HELD and any(board.forming for board, _ in mine)
        listed = [
            (board, on) for board, on in mine if on or (feeding and board.forming and not board.contactor)
        ]
        for board, on in listed:
            groups += _of_board(job, role, board, on)
        loose = [c for c in job.circuits if c.role is role and c.id not in placed]
        if loose or not listed:
            groups += _loose(job, role, loose)
    return tuple(groups)


def _legs_of(job: Job, board: BoardPlace, circuits: list[Circuit]) -> tuple[str, ...]:
    """The legs of a board in the supply's order; those of its circuits where the graph says nothing."""
    used = {leg for c in circuits for leg in c.legs}
    return tuple(leg for leg in job.site.phases if leg in board.legs or leg in used) or job.site.phases[:1]


def _of_board(job: Job, role: Role, board: BoardPlace, circuits: list[Circuit]) -> list[LoadGroup]:
    legs = _legs_of(job, board, circuits)
    stops = stops_of(job, board.forming) if role is Role.HELD else {}
    return [
        LoadGroup(
            role,
            board.id,
            name=board.name,
            building=board.building,
            leg=leg if len(job.site.phases) > 1 else "",
            first=index == 0,
            contactor=board.contactor,
            source=board.forming,
            stop=stops.get(leg),
            circuits=tuple(c.id for c in circuits if leg in c.legs),
            also=tuple(
                c.id for c in job.circuits if c.also_on == board.id and c.role is role and leg in c.legs
            ),
        )
        for index, leg in enumerate(legs)
    ]


def _loose(job: Job, role: Role, circuits: list[Circuit]) -> list[LoadGroup]:
    """Circuits that no board takes, or a role without any."""
    if len(job.site.phases) == 1 or not circuits:
        return [
            LoadGroup(
                role,
                "",
                name="",
                building="",
                leg="",
                first=True,
                contactor="",
                source=(),
                stop=None,
                circuits=tuple(c.id for c in circuits),
            )
        ]
    used = [leg for leg in job.site.phases if any(leg in c.legs for c in circuits)]
    return [
        LoadGroup(
            role,
            "",
            name="",
            building="",
            leg=leg,
            first=index == 0,
            contactor="",
            source=(),
            stop=None,
            circuits=tuple(c.id for c in circuits if leg in c.legs),
        )
        for index, leg in enumerate(used)
    ]


def stops_of(job: Job, forming: tuple[str, ...]) -> dict[str, tuple[float, float]]:
    """What units give on each leg in an outage, continuous and surge, kVA."""
    shares: dict[str, tuple[float, float]] = {}
    for unit in job.units:
        if unit.id in forming:
            sheet = job.sheet_of(unit)
            for leg in unit.legs:
                rated, surge = shares.get(leg, (0.0, 0.0))
                shares[leg] = (
                    rated + sheet.rated_kva / len(unit.legs),
                    surge + sheet.surge_kva / len(unit.legs),
                )
    return shares


def drop_changes(job: Job, wiring: Wiring, circuit: Circuit, group: LoadGroup) -> tuple[Change, ...]:
    """What dropping a circuit on a group changes: its role, its board where it would not come there by
    itself, its leg.

    A circuit between legs stays between them. Empty where nothing changes.
    """
    path, changes = f"circuits/{circuit.id}", []
    if circuit.role is not group.role:
        changes.append(Change(f"{path}/role", str(group.role)))
    phase = circuit.phase
    if group.leg and len(circuit.legs) == 1 and circuit.phase != group.leg:
        phase = group.leg
        changes.append(Change(f"{path}/phase", phase))
    board = _board_to_name(job, group, phase)
    if board is None:  # the graph puts it there by itself
        board = ""
    now = wiring.board_of(circuit.id)
    moves = group.board and (now is None or now.id != group.board)
    if circuit.board != board and (moves or (changes and circuit.board and circuit.board != group.board)):
        changes.append(Change(f"{path}/board", board))
    return tuple(changes)


def _board_to_name(job: Job, group: LoadGroup, phase: str) -> str | None:
    """The group's board where it must be named; None where role and leg lead there, or nothing can be
    named."""
    nameable = {part.id for part in job.parts if isinstance(part, Board | Contactor)}
    nameable |= {adjustment.id for adjustment in job.adjustments if adjustment.kind == "board"}
    if group.board not in nameable:
        return None
    wanted = "essential" if group.role in (Role.HELD, Role.SHED) else "rest"
    for holds in (wanted, "all"):
        for part in job.parts:
            if isinstance(part, Board) and part.holds == holds:
                legs = set(part.phases.split("+")) if part.phases else set(job.site.phases)
                if set(phase.split("+")) <= legs:
                    return None if part.id == group.board else group.board
    return group.board
