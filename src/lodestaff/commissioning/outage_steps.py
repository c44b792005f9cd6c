"""Steps of the outage, of life without a grid, and of handing over: by what lives and what is dead in the
graph."""

from lodestaff.catalogue.families import states
from lodestaff.commissioning.rules import Between, Confirmed, Rule
from lodestaff.commissioning.step import OPEN_KIND, Measure, Step
from lodestaff.job import Job, Role
from lodestaff.topology import Island, Topology
from lodestaff.topology.questions import Asked, asked, has_generator

LOOP_OHM = (
    5.0  # line to earth and back through the bond; far below what a missing bond leaves. Common practice
)
TRANSFER_FACTOR = 1.5


def outage_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """What an outage is tried with; without an island only that the customer knows it."""
    found = asked(topology)
    steps = (
        _alone(job, topology, found, before) if not job.mains.grid else _outage(job, topology, found, before)
    )
    if has_generator(topology):
        steps.append(_generator(job, topology, before))
    steps.append(
        _explain(
            job,
            found,
            tuple(step.id for step in steps if not step.needs and step.topic != "bypass") or before,
        )
    )
    return steps


def _names(job: Job, ids: tuple[str, ...]) -> str:
    return ", ".join(circuit.name for circuit in job.circuits if circuit.id in ids) or "none"


def _living(job: Job, topology: Topology, found: Asked) -> str:
    """Which circuits live and which are dead, in words."""
    lives, dead = found.lives(), found.dead()
    words = f"{len(lives)} {'circuit lives' if len(lives) == 1 else 'circuits live'}: {_names(job, lives)}"
    if dead:
        words += f"; {len(dead)} {'is' if len(dead) == 1 else 'are'} dead: {_names(job, dead)}"
    by_hand = tuple(name for name in lives if job.circuit(name).role in (Role.GRID, Role.LOCKED))
    if by_hand:
        words += f". Switched off by hand before it: {_names(job, by_hand)}"
    return f"{words}."


def _proves(topology: Topology, found: Asked) -> tuple[str, ...]:
    """Boards and circuits that a living circuit hangs on."""
    lives = {f"circuit-{name}" for name in found.lives()}
    boards = dict.fromkeys(conductor.a[0] for conductor in topology.conductors if conductor.b[0] in lives)
    return tuple(name for name in (*boards, *sorted(lives)) if name in topology.parts)


def _board(topology: Topology, island: Island) -> str:
    """The board that most of an island's circuits hang on."""
    ends = {f"circuit-{name}" for name in island.circuits}
    boards = [
        conductor.a[0]
        for conductor in topology.conductors
        if conductor.b[0] in ends and topology.parts[conductor.a[0]].kind == "board"
    ]
    name = max(dict.fromkeys(boards), key=boards.count, default="")
    return topology.parts[name].name if name else "board"


def _at(board: str) -> str:
    """A board's name within a sentence; one that is numbered, or named by its leg, needs no article."""
    return board if any(mark.isdigit() for mark in board) else f"the {board[:1].lower()}{board[1:]}"


def _outage(job: Job, topology: Topology, found: Asked, before: tuple[str, ...]) -> list[Step]:
    if not found.has_backup:
        return []
    pack, proves = job.pack, _proves(topology, found)
    text = f"Outage test by the main {pack.word('isolator')}: {_living(job, topology, found)}"
    cautions = [pack.caution("cutout"), pack.caution("backfeed")]
    if any(
        topology.unit(name).transfer and "outlet" in _board(topology, island).lower()
        for island in found.islands
        for name in island.forming
    ):
        cautions.append(pack.caution("outlet"))
    steps = [
        Step(
            "outage",
            "function",
            text=text,
            rule=Confirmed(),
            waits_for=before,
            caution=" ".join(cautions),
            proves=("main-isolator", *proves),
        )
    ]
    many = len(found.islands) > 1
    for island in found.islands:
        suffix = f"-{island.forming[0]}" if many else ""
        steps.append(_transfer(job, topology, island, suffix))
        steps.append(_bond(job, topology, island))
    waits = tuple(step.id for step in steps if not step.needs)
    units = (
        "the unit waits its time, then takes it again"
        if len(job.units) == 1
        else "the units wait their time, then take it again"
    )
    steps.append(
        Step(
            "return",
            "function",
            f"The grid returns: {units}.",
            Confirmed(),
            waits,
            proves=tuple(u.id for u in job.units),
        )
    )
    return steps + _bypass(job, topology, ("return",))


def _transfer(job: Job, topology: Topology, island: Island, suffix: str) -> Step:
    first = job.unit(island.forming[0])
    sheet, board = job.sheet_of(first), _board(topology, island)
    text = f"How long {_at(board)} was dark."
    measure, needs = Measure("transfer", first.id), ""
    rule: Rule = Confirmed()
    if sheet.transfer and states(sheet, "transfer_s"):
        rule = Between(
            sheet.transfer_s,
            "s",
            None,
            TRANSFER_FACTOR * sheet.transfer_s,
            "unit's sheet, half as much again",
        )
    else:
        measure, needs = (
            Measure("confirm", first.id),
            f"{OPEN_KIND}: no sheet of the job gives the gateway's time",
        )
    return Step(f"transfer{suffix}", "function", text, rule, ("outage",), needs=needs, measure=measure)


def _bond(job: Job, topology: Topology, island: Island) -> Step:
    first = island.forming[0]
    relays = [relay for name in island.forming if (relay := topology.unit(name).bond_relay)]
    relays += [part.id for part in topology.parts.values() if part.kind == "relay" and part.id not in relays]
    pack = job.pack
    text = (
        f"In island mode at {_at(_board(topology, island))}: loop from line to earth, by a test that trips "
        f"nothing. Its current comes back only through the {pack.word('bond')}; then its "
        f"{pack.word('residual_current_device')}, where one stands, is tripped by its tester."
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
        measure=Measure("island loop", first),
        proves=tuple(relays[:1]),
    )


def _bypass(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    throws = [part for part in topology.parts.values() if part.kind == "bypass"]
    steps = []
    for part in throws:
        other = "generator" if "generator" in part.positions else "grid"
        name = "bypass" if len(throws) == 1 else f"bypass-{part.id}"
        units = "the unit off" if len(job.units) == 1 else "the units off"
        text = f"{part.name}: what it feeds on the {other}, {units}; then back."
        proves = tuple(name for name in (part.id, f"{part.id}-feed") if name in topology.parts)
        cautions = [
            job.pack.caution("bypass" if job.mains.grid else "bypass_no_grid"),
            *([job.pack.caution("generator")] if other == "generator" else []),
        ]
        steps.append(
            Step(
                name,
                "function",
                text=text,
                rule=Confirmed(),
                waits_for=before,
                caution=" ".join(cautions),
                proves=proves,
                topic="bypass",
            )
        )
    return steps


def _alone(job: Job, topology: Topology, found: Asked, before: tuple[str, ...]) -> list[Step]:
    """Without a grid the island is the supply."""
    steps = [
        Step(
            "island",
            "function",
            text=f"On the units alone: {_living(job, topology, found)}",
            rule=Confirmed(),
            waits_for=before,
            caution=job.pack.caution("no_grid"),
            proves=_proves(topology, found),
        )
    ]
    steps += [_bond(job, topology, island) for island in found.islands]
    return steps + _bypass(job, topology, ("island",))


def _generator(job: Job, topology: Topology, before: tuple[str, ...]) -> Step:
    names = [part.name for part in topology.parts.values() if part.kind == "generator"]
    text = (
        f"{', '.join(names)}: starts and stops as it was told, the units take no more than it gives, its "
        "neutral has the one bond."
    )
    cautions = [job.pack.caution("generator"), *([job.pack.caution("backfeed")] if job.mains.grid else [])]
    return Step(
        "generator",
        "function",
        text=text,
        rule=Confirmed(),
        waits_for=before,
        caution=" ".join(cautions),
        needs=OPEN_KIND,
    )


def _explain(job: Job, found: Asked, before: tuple[str, ...]) -> Step:
    pack = job.pack
    if not job.mains.grid:
        text = (
            "The customer knows what carries the site, what happens when the battery is empty, and how "
            "all is shut down."
        )
    elif found.has_backup:
        more = " and the bypass" if job.has_bypass else ""
        text = f"The customer has worked the outage{more}, and knows the signs."
    else:
        text = "The customer knows that nothing here works in an outage, the signs, and how all is shut down."
    return Step(
        "explain",
        "function",
        text=text,
        rule=Confirmed(),
        waits_for=before,
        caution=pack.caution("not_emergency"),
    )
