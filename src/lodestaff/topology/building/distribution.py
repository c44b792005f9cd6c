"""The supply, boards and circuits."""

from dataclasses import replace

from lodestaff.job import Circuit, Role
from lodestaff.job.plan import AddBoard, Board
from lodestaff.job.plan_fits import BLOCK
from lodestaff.quantities.convention import plain
from lodestaff.topology.building.builder import Builder, Outlet, Wanted
from lodestaff.topology.model import GRID, NEUTRAL, Bond, Contact, Part, Source


def place_supply(b: Builder) -> None:
    """The operator's supply down to the distribution block; the block alone where there is no grid."""
    site, words = b.job.site, b.words
    b.add(Part(BLOCK, "block", "Distribution block", ("in", "out"), (Contact("in", "out", b.mains),)))
    b.outlets[BLOCK] = Outlet((BLOCK, "out"), True)
    if not b.job.mains.grid:
        return
    rating = site.supply.rating_a.value
    earthing = site.supply.earthing.value or "earthing unknown"
    origin, who = "site/supply", words["operator"]
    operator = f"{who[:1].upper()}{who[1:]}"
    b.add(Part("supply", "supply", f"{operator} supply", ("load",), rating=earthing, decided_by=origin))
    b.through(
        "cutout",
        "fuse",
        words["cutout"],
        b.mains,
        rating=f"{plain(rating)} A" if rating else "rating unknown",
        decided_by="site/supply/rating_a",
        caution="cutout",
    )
    b.through("meter", "meter", "Supply meter", b.mains, decided_by=origin)
    b.switch(
        "main-isolator", "isolator", f"Main {words['isolator']}", b.mains, decided_by=origin, way="supply"
    )
    tails = b.run("tails", "service", "supply")
    b.wire(("supply", "load"), ("cutout", "line"), b.mains)
    b.wire(("cutout", "load"), ("meter", "line"), b.mains, tails)
    b.wire(("meter", "load"), ("main-isolator", "line"), b.mains, tails)
    b.wire(("main-isolator", "load"), (BLOCK, "in"), b.mains, tails)
    b.sources.append(Source(GRID, "supply", ("supply", "load")))
    b.bonds.append(_supply_bond(b, earthing))
    if earthing == "TN-C":
        b.conductors = [replace(conductor, pen=conductor.b[0] != BLOCK) for conductor in b.conductors]


def _supply_bond(b: Builder, earthing: str) -> Bond:
    """Where the supply's own bond is: at its transformer, at the head, in the board, or where the PEN is
    split."""
    word = b.words["bond"]
    if earthing == "MEN":
        return Bond("supply-bond", (BLOCK, "out"), f"{word} of the supply, in the main {b.words['board']}")
    if earthing == "TN-C":
        return Bond("supply-bond", ("main-isolator", "line"), f"{word} where the PEN is split")
    where = "at the transformer" if earthing == "TT" else "of the supply"
    return Bond("supply-bond", ("supply", "load"), f"{word} {where}")


def place_board(b: Builder, board: Board) -> None:
    """A board with the device at its head; its feed is wired when everything stands."""
    cores, origin = b.cores(board.id), f"parts/{board.id}"
    busbar = board.busbar_a.value
    b.add(
        Part(
            board.id,
            "board",
            board.name,
            ("in", "out", "earth"),
            (Contact("in", "out", cores),),
            rated_a=busbar,
            rating=f"{plain(busbar)} A" if busbar else "",
            decided_by=origin,
            building=board.building,
        )
    )
    b.outlets[board.id] = Outlet((board.id, "out"), True)
    run = b.run(f"{board.id}-feed", "feed", board.id)
    head = (board.id, "in")
    outlet_run = b.run_from(board.fed_from) or run
    if board.main == "isolator":
        name = f"{board.id}-switch"
        b.switch(name, "isolator", b.words["main_switch"].capitalize(), cores, decided_by=origin)
        b.wire((name, "load"), head, cores, outlet_run)
        head = (name, "line")
    elif board.main == "rcd":
        name = f"{board.id}-rcd"
        b.switch(name, "rcd", b.words["residual_current_device"], cores, decided_by=origin)
        b.wire((name, "load"), head, cores, outlet_run)
        head = (name, "line")
    device = run if board.feed == "breaker" else ""
    title = f"{board.name} {b.words['protective_device']}"
    b.feeds.append(
        Wanted(
            board.fed_from, head, cores=cores, device=device, device_name=title, run=run, decided_by=origin
        )
    )
    if board.link:
        b.bonds.append(
            Bond(f"{board.id}-bond", (board.id, "in"), f"{b.words['bond']} linked in the {_low(board.name)}")
        )


def _low(name: str) -> str:
    return name[:1].lower() + name[1:]


def place_circuits(b: Builder) -> None:
    """Each circuit on its board: the one it names, else the one that holds circuits of its role and phase."""
    boards = [part for part in b.plan.parts if isinstance(part, Board)]
    moved = {
        id: adjustment.id
        for adjustment in b.job.adjustments
        if isinstance(adjustment, AddBoard) and adjustment.id in b.outlets
        for id in adjustment.circuits
    }
    on = {circuit.id: moved.get(circuit.id) or _board_of(b, circuit, boards) for circuit in b.job.circuits}
    for board in dict.fromkeys((*(board.id for board in boards), *on.values())):
        for circuit in b.job.circuits:
            if on[circuit.id] != board:
                continue
            if board in b.outlets:
                _wire_circuit(b, circuit, board)
            else:
                b.unwired.append(circuit.id)


def _board_of(b: Builder, circuit: Circuit, boards: list[Board]) -> str | None:
    if circuit.board:
        return circuit.board
    wanted = "essential" if circuit.role in (Role.HELD, Role.SHED) else "rest"
    for holds in (wanted, "all"):
        for board in boards:
            if board.holds == holds and set(circuit.legs) <= set(b.cores(board.id)):
                return board.id
    return None


def _wire_circuit(b: Builder, circuit: Circuit, board: str) -> None:
    part_id = f"circuit-{circuit.id}"
    ports = ("in", "in 2", "sun") if circuit.also_on else ("in", "sun")
    cores = (*circuit.legs, NEUTRAL)
    b.add(
        Part(
            part_id,
            "circuit",
            circuit.name,
            ports,
            rating=str(circuit.role),
            decided_by=f"circuits/{circuit.id}",
        )
    )
    borrowed = circuit.neutral_board not in ("", board)
    b.wire(b.outlets[board].at, (part_id, "in"), circuit.legs if borrowed else cores)
    if borrowed and circuit.neutral_board in b.outlets:
        b.wire(b.outlets[circuit.neutral_board].at, (part_id, "in"), (NEUTRAL,), mark=" N")
    if circuit.also_on in b.outlets:
        b.wire(b.outlets[circuit.also_on].at, (part_id, "in 2"), cores)
    b.circuits[circuit.id] = (part_id, "in")
