"""Records for the checks that rest on the graph: transfers, transformers, live conductors, lost places."""

from collections.abc import Iterator

import numpy as np

from lodestaff.checks.finding import Remedy, cure
from lodestaff.checks.live import Borrowed, LiveState, Places
from lodestaff.checks.transfer import Joining, PassThrough, Transfer
from lodestaff.checks.transformers import Limited, Sight
from lodestaff.energy.calendar import moment_words
from lodestaff.job import Change, Circuit, Job, Role, edit
from lodestaff.job.plan import AddBoard, Throw, Transformer
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.passing import flowing, passing
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.records.runs import run_ids
from lodestaff.topology import Answer, Topology, build
from lodestaff.topology.borrowed import borrowed
from lodestaff.topology.moves import joining_states
from lodestaff.topology.questions import inside_cases, led, shown_states, state_words
from lodestaff.topology.settle import State
from lodestaff.topology.states import RUNNING

BETWEEN = ("gateway", "bypass", "throw", "interlock", "contactor")


def _name(topology: Topology, job: Job, id: str) -> str:
    if id in topology.parts:
        return topology.parts[id].name
    return next((circuit.name for circuit in job.circuits if circuit.id == id), id)


# --- WIRE-XFER, LOAD-WHOLE -----------------------------------------------------------------------------
@makes
def transfers(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Transfer]:
    wiring = reckoner.wiring(job)
    topology = wiring.topology
    answers = flowing(reckoner, job)
    for part in topology.parts.values():
        if part.kind not in BETWEEN or part.rated_a is None:
            continue
        cases = [
            (flow.parts[part.id], answer.state.name) for answer, flow in answers if part.id in flow.parts
        ]
        if cases:
            worst, state = max(cases, key=lambda case: case[0].most_a)
            towards = "loads" if worst.load_a >= worst.source_a else "the grid"
            yield Transfer(
                id=part.id,
                name=part.name,
                rated_a=part.rated_a,
                through_a=worst.most_a,
                towards=towards,
                state=state,
            )


@makes
def joinings(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Joining]:
    if not deep:
        return
    wiring = reckoner.wiring(job)
    topology = wiring.topology
    cases = []
    for hazard in wiring.hazards:
        moves = tuple(f"{_name(topology, job, part)} {position}" for part, position in hazard.state.hands)
        leads = tuple(_name(topology, job, lead) for lead in hazard.hazard.leads)
        cases.append((hazard.hazard.kind, leads, moves))
    throws = [part for part in job.parts if isinstance(part, Throw) and not part.interlocked]
    cures = [cure(f"Interlock in {part.name}", f"parts/{part.id}/interlocked", True) for part in throws]
    yield Joining(
        tuple(cases), sum(1 for _ in joining_states(topology)), tuple(remedy for (remedy,) in cures)
    )


@makes
def pass_throughs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[PassThrough]:
    wiring = reckoner.wiring(job)
    topology, grid = wiring.topology, wiring.state("grid")
    if grid is None:
        return
    for unit in topology.units:
        rated = topology.parts[unit.unit].rated_a
        if not unit.transfer or rated is None or not unit.serves or (grid.unit_modes[unit.unit] != "grid"):
            continue
        off = State(
            "grid",
            tuple(
                (ports.unit, "off")
                for ports in topology.units
                if ports.unit == unit.unit or (ports.group and ports.group == unit.group)
            ),
        )
        without = wiring.answer(off)
        beyond = [c for c in job.circuits if grid.fed.get(c.id) and not without.fed.get(c.id)]
        if not beyond:
            continue
        volts = job.pack.value("nominal_v").value * len(off.hands)
        by_leg = [on for leg in unit.legs if (on := [c for c in beyond if leg in c.legs])]
        together = max(sum(c.running_kva / len(c.legs) for c in on) for on in by_leg) * 1000 / volts
        drawn = [np.sum([reckoner.circuit_kw(job, c) / len(c.legs) for c in on], axis=0) for on in by_leg]
        peak, step = max((float(power.max()), int(power.argmax())) for power in drawn)
        over_kva = (together - rated) * volts / 1000
        yield PassThrough(
            unit=unit.unit,
            name=topology.parts[unit.unit].name,
            rated_a=rated,
            together_a=together,
            peak_a=peak * 1000 / volts,
            when=f"{moment_words(step)}, 15-minute mean",
            circuits=len(beyond),
            cures=_ahead(job, unit.unit, beyond, over_kva) if deep and over_kva > 0 else (),
        )


def _ahead(job: Job, unit: str, beyond: list[Circuit], over_kva: float) -> tuple[Remedy, ...]:
    """A board ahead of the unit that takes the largest circuits nobody needs held, until the rest passes
    it."""
    free = sorted(
        (c for c in beyond if c.role is not Role.HELD and not c.board), key=lambda c: -c.running_kva
    )
    taken: list[Circuit] = []
    while free and sum(c.running_kva for c in taken) < over_kva:
        taken.append(free.pop(0))
    if not taken or sum(c.running_kva for c in taken) < over_kva:
        return ()
    board = AddBoard(
        id=f"ahead-of-{unit}"[:40],
        name="Board ahead of the unit",
        fed_from=job.unit(unit).fed_from or "block",
        circuits=tuple(c.id for c in taken),
    )
    rows = [
        *(adjustment.model_dump(mode="json") for adjustment in job.adjustments),
        board.model_dump(mode="json"),
    ]
    cures = cure(f"Take {', '.join(c.name for c in taken)} ahead of the unit", "adjustments", rows)
    try:
        return () if build(edit(job, *cures[0].changes)).orphans else cures
    except JobError:
        return ()


# --- WIRE-CT -------------------------------------------------------------------------------------------
@makes
def sights(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Sight]:
    wiring = reckoner.wiring(job)
    topology, grid = wiring.topology, wiring.state("grid")
    if grid is None:
        return
    flow = passing(wiring, job, grid)
    units = {unit.unit: unit for unit in topology.units}
    led = {ct.serves: ct for ct in topology.cts if ct.serves in units}
    for ct in topology.cts:
        seen = flow.seen[ct.id]
        whole = ct.proves_limit or ct.watches == "whole site"
        legs = set(ct.phases) or set(job.site.phases)
        running = [
            name for name, mode in grid.unit_modes.items() if mode in RUNNING and set(units[name].legs) & legs
        ]
        hidden = tuple(name for name in running if name not in seen) if whole else ()
        fed = [c for c in job.circuits if grid.fed.get(c.id) and set(c.legs) & legs]
        unseen = tuple(c.name for c in fed if c.id not in seen) if whole else ()
        own = units.get(ct.serves)
        others = [name for name in seen if name in units and name != ct.serves]
        rivals, chased = [], []
        for name in others:
            if own is None or _led_together(topology, own.unit, name):
                continue
            if name in led:
                rivals.append(_name(topology, job, name))
            elif own.arrays and not units[name].battery:
                chased.append(_name(topology, job, name))
        turn, to_supply = _cures(job, ct.id)
        yield Sight(
            id=ct.id,
            name=ct.name,
            serves=_name(topology, job, ct.serves),
            watches=ct.watches,
            proves_limit=ct.proves_limit,
            seen=tuple((_name(topology, job, name), sign) for name, sign in seen.items()),
            hidden_units=tuple(_name(topology, job, name) for name in hidden),
            hidden_circuits=unseen,
            rivals=tuple(rivals),
            chased=tuple(chased),
            turn=turn,
            to_supply=to_supply,
        )


def _led_together(topology: Topology, first: str, other: str) -> bool:
    """Units that keep their limit by one transformer are led as one, and those on the AC side of one
    gateway."""
    a, b = topology.unit(first), topology.unit(other)
    return any({first, other} <= set(group.units) for group in led(topology)) or (
        not a.transfer and not b.transfer
    )


def _cures(job: Job, ct: str) -> tuple[tuple[Remedy, ...], tuple[Remedy, ...]]:
    part = next((part for part in job.parts if part.id == ct and isinstance(part, Transformer)), None)
    if part is None:
        return (), ()
    places = Change(f"parts/{ct}/on", ["main-isolator"]), Change(f"parts/{ct}/watches", "whole site")
    turn = cure(f"Turn {part.name}", f"parts/{ct}/reversed", not part.reversed)
    return turn, (Remedy(f"{part.name} to the supply", places),)


@makes
def limiteds(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Limited]:
    if not job.mains.grid:
        return
    provers = tuple(
        sight.name
        for sight in sights(reckoner, job, deep)
        if sight.proves_limit and not sight.hidden_units and not sight.hidden_circuits and sight.seen
    )
    topology = reckoner.wiring(job).topology
    groups = [
        group for group in led(topology) if group.ct is not None and group.whole and group.ct.name in provers
    ]
    obeying = {
        name for group in groups for name in group.units if set(topology.unit(name).legs) <= set(group.phases)
    }
    counted = {phase for group in groups for phase in group.phases}
    yield Limited(
        export_kw=job.limits.export_kw,
        import_kw=job.limits.import_kw,
        provers=provers,
        unproven=tuple(unit.name for unit in job.units if unit.id not in obeying),
        phases=tuple(phase for phase in job.site.phases if phase not in counted),
    )


# --- WIRE-LIVE, WIRE-NEUTRAL, WIRE-PLAN ----------------------------------------------------------------
@makes
def live_states(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[LiveState]:
    wiring = reckoner.wiring(job)
    topology = wiring.topology
    backup, inside = reckoner.asked(job).has_backup, inside_cases(topology)
    for answer in (wiring.answer(state) for state in shown_states(topology)):
        fed = [c for c in job.circuits if answer.fed.get(c.id)]
        dark = answer.state.name == "island"
        island = dark and backup
        dead = [c for c in job.with_role(Role.HELD) if c not in fed] if dark else []
        locked = [c for c in fed if c.role is Role.LOCKED] if island else []
        by_hand = [c for c in fed if c.role is Role.GRID] if island else []
        live = tuple(name for name in answer.still_live() if name not in inside)
        stays: tuple[str, ...] = ()
        if answer.state.name == "all off":
            stays = tuple(_line(topology, answer, name) for name in live)
        elif answer.state.loose:
            stays = tuple(
                _line(topology, answer, name)
                for name in answer.state.loose
                if answer.live[name] and name not in inside
            )
        yield LiveState(
            state=state_words(topology, answer.state.name),
            live=len(live),
            of=len(answer.live) - len(inside),
            sources=tuple(sorted(set().union(*(answer.live[name] for name in live)))),
            fed=len(fed),
            circuits=len(job.circuits),
            dead_but_held=tuple((c.id, c.name) for c in dead),
            live_but_locked=tuple((c.id, c.name) for c in locked),
            by_hand=tuple(c.name for c in by_hand),
            stays=stays,
            grid=job.mains.grid,
            at_rest=answer.settled.at_rest,
        )


def _line(topology: Topology, answer: Answer, name: str) -> str:
    conductor = topology.conductor(name)
    return (
        f"{topology.parts[conductor.a[0]].name} to {topology.parts[conductor.b[0]].name} "
        f"({', '.join(sorted(answer.live[name]))})"
    )


@makes
def borroweds(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Borrowed]:
    wiring = reckoner.wiring(job)
    topology = wiring.topology
    for answer in wiring.answers:
        for neutral in borrowed(topology, answer):
            circuit = job.circuit(neutral.circuit)
            words, path = (
                f"Neutral of {circuit.name} to its own board",
                f"circuits/{circuit.id}/neutral_board",
            )
            yield Borrowed(
                circuit=circuit.id,
                name=circuit.name,
                line_board=topology.parts[neutral.line_from].name,
                neutral_board=topology.parts[neutral.neutral_from].name,
                returns=neutral.returns,
                devices=tuple(topology.parts[name].name for name in neutral.devices),
                state=answer.state.name,
                cures=cure(words, path, ""),
            )


@makes
def places(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Places]:
    topology = reckoner.wiring(job).topology
    yield Places(
        orphans=tuple((orphan.id, orphan.kind, orphan.missing) for orphan in topology.orphans),
        unwired=tuple((id, job.circuit(id).name) for id in topology.unwired),
        adjustments=len(job.adjustments),
        stray_cables=tuple(cable.id for cable in job.cables if cable.id not in run_ids(topology)),
    )
