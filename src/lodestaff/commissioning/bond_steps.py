"""Bonds between neutral and earth by counting: dead, with the grid under a known load, and in the island.

Volts between neutral and earth prove no bond: two read like one. Dead, resistance tells whether any is there;
where the intended one can be parted, that nothing else is. Under load, current that doesn't come back by the
neutral tells of a second. In the island a loop to earth tells that one is made.
"""

from functools import lru_cache

from lodestaff.commissioning.rules import Between, ShareOfLoad
from lodestaff.commissioning.step import Measure, Step
from lodestaff.job import Job
from lodestaff.quantities.convention import plain
from lodestaff.topology import Island, State, Topology, answer
from lodestaff.topology.graph import Holder, graph_of
from lodestaff.topology.model import NEUTRAL, Bond, Conductor
from lodestaff.topology.questions import asked, board_with_most, parts_island
from lodestaff.topology.states import off_position

LOOP_OHM = (
    5.0  # line to earth and back through the bond; far below what a missing bond leaves. Common practice
)
OPEN_OHM, MADE_OHM = 1000.0, 0.5  # neutral to earth, dead: no bond, and one; common practice
LEAST_W, HEATER_KW = 600.0, 1.0  # of the known load, and what is plugged in where the circuits have less
STRAY_SHARE, STRAY_A = 0.01, 0.2  # of a load's current, that may come back by earth; common practice


def board_of(topology: Topology, island: Island) -> str:
    """The board that most of an island's circuits hang on; '' where none does."""
    return board_with_most(topology, island.circuits)


def board_name(topology: Topology, island: Island) -> str:
    name = board_of(topology, island)
    return topology.parts[name].name if name else "board"


def at_board(board: str) -> str:
    """A board's name within a sentence; one that is numbered, or named by its leg, needs no article."""
    return board if any(mark.isdigit() for mark in board) else f"the {board[:1].lower()}{board[1:]}"


def bonds_dead(topology: Topology, board: str, switch: str = "", position: str = "") -> tuple[Bond, ...]:
    """The bonds that a tester finds at a board's neutral: supply and units off, the way between closed, one
    switch moved by hand where it is named."""
    return _bonds_dead(Holder(topology), board, switch, position)


@lru_cache(maxsize=128)
def _bonds_dead(holder: Holder, board: str, switch: str, position: str) -> tuple[Bond, ...]:
    topology = holder.topology
    off = tuple(
        (part.id, off_position(part.positions))
        for part in topology.switches()
        if part.id == "main-isolator" or part.kind in ("unit", "generator")
    )
    if switch:
        off = (*(moved for moved in off if moved[0] != switch), (switch, position))
    dead = answer(topology, State("dead", off, grid_present=False, daylight=False))
    graph, labels = graph_of(topology), dead.settled.labels
    here = graph.cores_at((board, "out")).get(NEUTRAL)
    if here is None:
        return ()
    return tuple(
        bond
        for bond in topology.bonds
        if (bond.relay is None or dead.positions.get(bond.relay) == "closed")
        and (at := graph.cores_at(bond.at).get(NEUTRAL)) is not None
        and labels[at] == labels[here]
    )


def dead_bond_steps(job: Job, topology: Topology) -> list[Step]:
    """Of each board that lives on a unit, and of each in a further building: what a tester finds between its
    neutral and earth, all off."""
    steps, counted = [], set()
    for island in asked(topology).islands:
        board, first = board_of(topology, island), island.forming[0]
        if not board:
            continue
        counted.add(board)
        steps.append(_counted(job, topology, board, f"bond-dead-{first}", first))
        bonds = bonds_dead(topology, board)
        own = [bond for bond in bonds if bond.id != "supply-bond"]
        if own and len(own) == len(bonds):
            steps.append(_parted(job, island, board, at_board(topology.parts[board].name), own[0]))
        steps += _by_hand(job, topology, island, board)
    for part in topology.parts.values():
        if part.kind == "board" and part.building and part.id not in counted:
            steps.append(_counted(job, topology, part.id, f"bond-dead-at-{part.id}", ""))
    return steps


def _counted(job: Job, topology: Topology, board: str, name: str, unit: str) -> Step:
    pack, part, bonds = job.pack, topology.parts[board], bonds_dead(topology, board)
    off = f"the main {pack.word('isolator')} open, " if job.mains.grid else ""
    where = at_board(part.name)
    if part.building and part.building.lower() not in part.name.lower():
        where += f" ({part.building})"
    head = f"Dead, {off}every unit off, resistance from neutral to {pack.word('earth')} at {where}"
    caution = pack.caution("prove_dead")
    if job.mains.grid:
        caution += f" The supply's own {pack.word('bond')} is never opened."
    if bonds:
        text = f"{head}: near nothing, through {' and '.join(bond.name for bond in bonds)}."
        source = "the bond that the wiring has in this state; common practice"
        rule = Between(0.1, "ohm", None, MADE_OHM, source)
    else:
        text = f"{head}: open, no {pack.word('bond')} is made here."
        source = "no bond in this state of the wiring; common practice"
        rule = Between(OPEN_OHM, "ohm", OPEN_OHM, None, source)
    measure = Measure("neutral to earth", unit, board)
    return Step(name, "dead tests", text, rule, ("prove-dead",), caution=caution, measure=measure)


def _ahead(topology: Topology, board: str) -> set[str]:
    """What a board's feed passes, back to the first changeover, unit or board."""
    seen, ends = set[str](), [board]
    while ends:
        end = ends.pop()
        for name in {c.a[0] for c in topology.conductors if c.b[0] == end} - seen:
            seen.add(name)
            if topology.parts[name].kind not in ("bypass", "unit", "board"):
                ends.append(name)
    return seen


def _by_hand(job: Job, topology: Topology, island: Island, board: str) -> list[Step]:
    """The same where a changeover is put by hand: around the units, or to a generator."""
    pack, steps = job.pack, []
    ahead = _ahead(topology, board)
    for part in topology.switches():
        for position in part.positions[1:] if part.kind == "bypass" and part.id in ahead else ():
            if position == "off":
                continue
            bonds = bonds_dead(topology, board, part.id, position)
            where, names = at_board(topology.parts[board].name), " and ".join(bond.name for bond in bonds)
            place_words = (
                f"near nothing, through {names}" if bonds else f"open: no {pack.word('bond')} is there"
            )
            text = (
                f"Dead as before, {part.name} to {position}: neutral to {pack.word('earth')} at {where} "
                f"reads {place_words}. Then {part.name} back to {part.positions[0]}."
            )
            if bonds:
                source = "the bond that the wiring has in this state; common practice"
                rule = Between(0.1, "ohm", None, MADE_OHM, source)
            else:
                source = "no bond in this state of the wiring; common practice"
                rule = Between(OPEN_OHM, "ohm", OPEN_OHM, None, source)
            first = island.forming[0]
            measure = Measure("neutral to earth", first, board, switch=part.id, position=position)
            name = f"bond-dead-{position}-{part.id}-{first}"
            steps.append(
                Step(
                    name,
                    "dead tests",
                    text,
                    rule,
                    (f"bond-dead-{first}",),
                    caution=pack.caution("prove_dead"),
                    measure=measure,
                )
            )
    return steps


def _parted(job: Job, island: Island, board: str, where: str, bond: Bond) -> Step:
    """Two bonds read like one: with the intended one parted nothing is left."""
    pack = job.pack
    text = (
        f"The same with its link parted ({bond.name}): open, nothing else joins neutral and "
        f"{pack.word('earth')} at {where}. Then the link is closed again, the first reading taken anew."
    )
    rule = Between(OPEN_OHM, "ohm", OPEN_OHM, None, "two in parallel read as one; common practice")
    return Step(
        f"bond-parted-{island.forming[0]}",
        "dead tests",
        text,
        rule,
        (f"bond-dead-{island.forming[0]}",),
        caution=pack.caution("prove_dead"),
        measure=Measure("neutral to earth", island.forming[0], board, part=bond.id),
    )


def loaded_leg(job: Job, topology: Topology, island: Island) -> tuple[str, tuple[str, ...]]:
    """The leg of an island with the most load from it to neutral, and the circuits of that: what loads the
    neutral. A load between two legs doesn't."""
    by_leg: dict[str, list[str]] = {}
    for name in island.circuits:
        if len(job.circuit(name).legs) == 1:
            by_leg.setdefault(job.circuit(name).legs[0], []).append(name)
    kw = {leg: sum(job.circuit(name).running_w for name in names) for leg, names in by_leg.items()}
    best = max(kw, key=lambda leg: kw[leg], default="")
    return best, tuple(by_leg.get(best, ()))


def _stray(job: Job) -> ShareOfLoad:
    volts = job.pack.value("nominal_v").value
    return ShareOfLoad(STRAY_SHARE, STRAY_A, volts, "1 % of the load, common practice")


def _neutral_step(
    job: Job,
    topology: Topology,
    island: Island,
    *,
    feed: Conductor,
    name: str,
    head: str,
    before: tuple[str, ...],
) -> list[Step]:
    """A clamp around all live conductors of a feed, while its neutral is loaded."""
    leg, circuits = loaded_leg(job, topology, island)
    if not circuits:
        return []
    pack = job.pack
    where = f"{topology.parts[feed.a[0]].name} to {topology.parts[feed.b[0]].name}"
    on = f"the circuits from {leg} to neutral on, the others off"
    if sum(job.circuit(name).running_w for name in circuits) < LEAST_W:
        on += f", with a heater of {plain(HEATER_KW)} kW in a socket beside them"
    text = (
        f"{head}, {on}: a clamp around all live conductors of the feed from {where} together shows next to "
        f"nothing. All of it comes back by its neutral, none by {pack.word('earth')}."
    )
    rule = _stray(job)
    measure = Measure("residual", island.forming[0], feed.id, leg=leg)
    return [Step(name, "function", text, rule, before, caution=pack.caution("licence"), measure=measure)]


def _feed(topology: Topology, island: Island) -> Conductor | None:
    """The feed of the board that an island's circuits hang on."""
    board = board_of(topology, island)
    return next((c for c in topology.conductors if c.b == (board, "in") and NEUTRAL in c.cores), None)


def grid_bond_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """With the grid: no current comes back but by the neutral of an island's board, none through the earth of
    what makes the island's bond."""
    steps: list[Step] = []
    if asked(topology).grid is None:
        return steps
    for island in asked(topology).islands:
        first = island.forming[0]
        if (feed := _feed(topology, island)) is not None:
            name = f"bond-grid-{first}"
            steps += _neutral_step(
                job, topology, island, feed=feed, name=name, head="With the grid", before=before
            )
            steps += _earth_step(job, topology, island, feed, before)
    return steps


def _earth_step(
    job: Job, topology: Topology, island: Island, feed: Conductor, before: tuple[str, ...]
) -> list[Step]:
    """The earthing conductor of what parts an island from the grid: no bond of its own beside the grid's."""
    pack, place = job.pack, parts_island(topology, island)
    leg, circuits = loaded_leg(job, topology, island)
    if place is None or not circuits:
        return []
    device = topology.parts[place[0]]
    relay = any(bond.relay is not None and bond.at[0] == device.id for bond in topology.bonds)
    own = f"its {pack.word('bond')} is open while the grid is there" if relay else "no link was left in it"
    linked = any(bond.relay is None and bond.at[0] == device.id for bond in topology.bonds)
    if linked:
        return []  # a link of its own belongs there: the dead test tells of a second
    text = (
        f"With the grid, the circuits from {leg} to neutral on: a clamp on the protective conductor of "
        f"{device.name} shows next to nothing; {own}."
    )
    rule = _stray(job)
    measure = Measure("residual", island.forming[0], feed.id, leg=leg, part=device.id)
    name = f"bond-earth-{island.forming[0]}"
    return [Step(name, "function", text, rule, before, caution=pack.caution("licence"), measure=measure)]


def island_load_steps(job: Job, topology: Topology, island: Island, before: tuple[str, ...]) -> list[Step]:
    """In the island: no current of its board comes back but by its neutral."""
    feed = _feed(topology, island)
    if feed is None:
        return []
    name = f"bond-load-{island.forming[0]}"
    return _neutral_step(job, topology, island, feed=feed, name=name, head="In island mode", before=before)


def island_bond_step(job: Job, topology: Topology, island: Island) -> Step:
    """In the island: the loop from line to earth closes through the bond that is made there."""
    first = island.forming[0]
    relays = [relay for name in island.forming if (relay := topology.unit(name).bond_relay)]
    relays += [part.id for part in topology.parts.values() if part.kind == "relay" and part.id not in relays]
    pack = job.pack
    text = (
        f"In island mode at {at_board(board_name(topology, island))}: loop from line to "
        f"{pack.word('earth')}, by a test that trips nothing. Its current comes back only through the "
        f"{pack.word('bond')}; then its {pack.word('residual_current_device')}, where one stands, is "
        "tripped by its tester."
    )
    rule = Between(
        LOOP_OHM / 5, "ohm", None, LOOP_OHM, "the loop closes through the bond alone, common practice"
    )
    return Step(
        f"bond-{first}",
        "function",
        text=text,
        rule=rule,
        waits_for=("outage",) if job.mains.grid else ("island",),
        caution=pack.caution("prove_dead"),
        measure=Measure("island loop", first, board_of(topology, island)),
        proves=tuple(relays[:1]),
    )
