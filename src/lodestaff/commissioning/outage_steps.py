"""Steps of the outage, of life without a grid, and of handing over: by what lives and what is dead in the
graph."""

from lodestaff.catalogue.families import states
from lodestaff.commissioning.bond_steps import (
    at_board,
    board_name,
    board_of,
    island_bond_step,
    island_load_steps,
)
from lodestaff.commissioning.charger_steps import charger_steps
from lodestaff.commissioning.generator_steps import generator_steps
from lodestaff.commissioning.rules import Between, Confirmed, Rule
from lodestaff.commissioning.step import Measure, Step
from lodestaff.electrical.permission import held_back
from lodestaff.job import Job, Role
from lodestaff.job.plan import Gateway
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.topology import Island, Topology
from lodestaff.topology.questions import Asked, asked

TRANSFER_FACTOR = 1.5
OFF_FIRST = "the units are switched off before the main"


def outage_steps(job: Job, topology: Topology, before: tuple[str, ...]) -> list[Step]:
    """What an outage is tried with; without an island only that the customer knows it."""
    questions = asked(topology)
    steps = (
        _alone(job, topology, questions, before)
        if not job.mains.grid
        else _outage(job, topology, questions, before)
    )
    around = ("return",) if job.mains.grid else ("island",)
    steps += generator_steps(job, topology, _after(steps) or before)
    if questions.has_backup:
        steps += _bypass(job, topology, around)
    steps += charger_steps(job, topology, _after(steps) or before)
    steps.append(_explain(job, questions, _after(steps) or before))
    return steps


def _after(steps: list[Step]) -> tuple[str, ...]:
    return tuple(step.id for step in steps if not step.needs and step.topic != "bypass")


def _names(job: Job, ids: tuple[str, ...]) -> str:
    return ", ".join(circuit.name for circuit in job.circuits if circuit.id in ids) or "none"


def _living(job: Job, topology: Topology, questions: Asked) -> str:
    """Which circuits live and which are dead, in words."""
    waits = {circuit.id for circuit in job.with_role(Role.SURPLUS)} & set(questions.lives())
    lives, dead = tuple(name for name in questions.lives() if name not in waits), questions.dead()
    words = f"{len(lives)} {'circuit lives' if len(lives) == 1 else 'circuits live'}: {_names(job, lives)}"
    if dead:
        words += f"; {len(dead)} {'is' if len(dead) == 1 else 'are'} dead: {_names(job, dead)}"
    if waits:
        words += f". Only with surplus: {_names(job, tuple(waits))}"
    by_hand = tuple(name for name in lives if job.circuit(name).role in (Role.GRID, Role.LOCKED))
    if by_hand:
        words += f". Switched off by hand before it: {_names(job, by_hand)}"
    return f"{words}."


def _proves(topology: Topology, questions: Asked) -> tuple[str, ...]:
    """Boards and circuits that a living circuit hangs on."""
    lives = {f"circuit-{name}" for name in questions.lives()}
    boards = dict.fromkeys(conductor.a[0] for conductor in topology.conductors if conductor.b[0] in lives)
    return tuple(name for name in (*boards, *sorted(lives)) if name in topology.parts)


def _outage(job: Job, topology: Topology, questions: Asked, before: tuple[str, ...]) -> list[Step]:
    if not questions.has_backup:
        return []
    pack, proves = job.pack, _proves(topology, questions)
    text = f"Outage test by the main {pack.word('isolator')}: {_living(job, topology, questions)}"
    cautions = [pack.caution("cutout"), pack.caution("backfeed")]
    if any(
        topology.unit(name).transfer and "outlet" in board_name(topology, island).lower()
        for island in questions.islands
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
            measure=Measure(doing="outage"),
            proves=("main-isolator", *proves),
        )
    ]
    many = len(questions.islands) > 1
    for island in questions.islands:
        suffix = f"-{island.forming[0]}" if many else ""
        steps.append(_transfer(job, topology, island, suffix))
        steps.append(island_bond_step(job, topology, island))
        steps += island_load_steps(job, topology, island, ("outage",))
        steps += _load_step(job, topology, island, ("outage",))
        steps += _overload_step(job, topology, island)
    steps += _interlocks(job, topology)
    waits = tuple(step.id for step in steps if not step.needs)
    held = held_back(job)
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
            needs=f"{held}; until then {OFF_FIRST} {pack.word('isolator')} closes" if held else "",
            measure=Measure(doing="return"),
            proves=tuple(u.id for u in job.units),
        )
    )
    return steps


def _transfer(job: Job, topology: Topology, island: Island, suffix: str) -> Step:
    first = job.unit(island.forming[0])
    sheet, board = job.sheet_of(first), board_name(topology, island)
    text = f"How long {at_board(board)} was dark."
    measure = Measure("transfer", first.id)
    rule: Rule = Confirmed()
    own_s = sheet.transfer_s if sheet.transfer and states(sheet, "transfer_s") else None
    whose, time_s = ("unit", own_s) if own_s is not None else ("gateway", _gateway_s(job))
    if time_s is not None:
        source = f"{whose}'s sheet, half as much again"
        rule = Between(time_s, "s", None, TRANSFER_FACTOR * time_s, source)
    else:
        measure = Measure("confirm", first.id)
        text = (
            f"How long {at_board(board)} was dark, written down: no sheet of the job gives a time to hold "
            f"it against. "
            "What had to stay on stayed on, or came back by itself."
        )
    return Step(f"transfer{suffix}", "function", text, rule, ("outage",), measure=measure)


def _gateway_s(job: Job) -> float | None:
    """How long the gateway takes, by its sheet; None where there is none or it doesn't say."""
    named = [part.sheet for part in job.parts if isinstance(part, Gateway) and part.sheet]
    return job.sheets.gateways[named[0]].transfer_s if named else None


def _overload_step(job: Job, topology: Topology, island: Island) -> list[Step]:
    """More than it carries, for a moment: it protects itself, and is brought back."""
    board = board_name(topology, island)
    if not any(job.circuit(name).role in (Role.HELD, Role.SHED) for name in island.circuits):
        return []
    rated = sum(job.sheet_of(job.unit(name)).rated_kw for name in island.forming)
    many = len(island.forming) > 1
    saves, comes = (
        ("the units protect themselves", "they are") if many else ("the unit protects itself", "it is")
    )
    text = (
        f"In island mode, for a moment more than {plain(rated)} kW on {at_board(board)}, with a heater beside"
        f" its circuits: {saves}, nothing else trips. The heater out, {comes} started as the maker says:"
        " the circuits live. Nobody may depend on them meanwhile; where a maker forbids the test, put it off."
    )
    first = island.forming[0]
    measure = Measure("confirm", first, board_of(topology, island), doing="overload")
    return [Step(f"overload-{first}", "function", text, Confirmed(), (f"load-{first}",), measure=measure,
                 caution=job.pack.caution("licence"), proves=island.forming)]  # fmt: skip


def _load_step(job: Job, topology: Topology, island: Island, before: tuple[str, ...]) -> list[Step]:
    """A load put on the island at once, and its heaviest start: nothing trips, the volts hold."""
    own = [job.circuit(name) for name in island.circuits]
    fit = [c for c in own if c.role in (Role.HELD, Role.SHED)]
    if not fit:
        return []
    heaviest = max(fit, key=lambda c: c.start_kva)
    rated = sum(job.sheet_of(job.unit(name)).rated_kw for name in island.forming)
    low = job.pack.value("voltage_low_v")
    high = job.pack.value("voltage_high_v")
    where = at_board(board_name(topology, island))
    start = text_of(heaviest.start_kva, "kVA")
    text = (
        f"In island mode, the circuits of {where} on one after the other, together no more than "
        f"{plain(rated)} kW, last {heaviest.name} ({start} at its start): nothing trips; the lowest voltage "
        "meanwhile."
    )
    rule = Between(
        job.pack.value("nominal_v").value,
        "V",
        low.value,
        high.value,
        f"the pack's band, held in the island: {low.cite()}",
    )
    return [
        Step(
            f"load-{island.forming[0]}",
            "function",
            text,
            rule,
            before,
            measure=Measure("load step", island.forming[0], heaviest.id),
            proves=island.forming,
        )
    ]


def _interlocks(job: Job, topology: Topology) -> list[Step]:
    """A lever that puts a panel on the supply or on the units, never on both."""
    steps = []
    for part in topology.switches():
        if part.kind != "interlock":
            continue
        rated = plain(sum(job.sheet_of(unit).rated_kw for unit in job.units if job.bank_of(unit)))
        to, back = part.positions[-1], part.positions[0]
        text = (
            f"{part.name}, the supply away: to {to}, loads off first. What it feeds lives, no more than "
            f"{rated} kW of it on together; while it stands there the lever keeps the supply's side open. "
            f"Then back to {back}."
        )
        cautions = f"{job.pack.caution('backfeed')} {job.pack.caution('licence')}"
        name = "interlock" if part.id == "interlock" else f"interlock-{part.id}"
        measure = Measure("confirm", "", part.id, doing="interlock")
        steps.append(
            Step(
                name,
                "function",
                text,
                Confirmed(),
                ("outage",),
                caution=cautions,
                measure=measure,
                proves=(part.id,),
            )
        )
    return steps


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


def _alone(job: Job, topology: Topology, questions: Asked, before: tuple[str, ...]) -> list[Step]:
    """Without a grid the island is the supply."""
    steps = [
        Step(
            "island",
            "function",
            text=f"On the units alone: {_living(job, topology, questions)}",
            rule=Confirmed(),
            waits_for=before,
            caution=job.pack.caution("no_grid"),
            measure=Measure(doing="outage"),
            proves=_proves(topology, questions),
        )
    ]
    for island in questions.islands:
        steps.append(island_bond_step(job, topology, island))
        steps += island_load_steps(job, topology, island, ("island",))
        steps += _load_step(job, topology, island, ("island",))
        steps += _overload_step(job, topology, island)
    return steps


def _explain(job: Job, questions: Asked, before: tuple[str, ...]) -> Step:
    pack = job.pack
    if not job.mains.grid:
        text = (
            "The customer knows what carries the site, what happens when the battery is empty, and how "
            "all is shut down."
        )
    elif questions.has_backup:
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
