"""Records for the checks of isolation, rapid shutdown, and what follows the island on AC."""

from collections.abc import Iterator

from lodestaff.checks.finding import Remedy, cure
from lodestaff.checks.isolating import (
    Disconnects,
    IslandArray,
    Isolated,
    NoShutdown,
    ShutdownOrder,
    ShutdownSupply,
)
from lodestaff.job import Job, Unit
from lodestaff.job.address import address
from lodestaff.job.plan import Shutdown
from lodestaff.reckoning.back_again import fed_alone
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.topology import answer
from lodestaff.topology.isolation import ways_in
from lodestaff.topology.settle import State
from lodestaff.topology.states import RUNNING
from lodestaff.wiring.isolation import isolation


@makes
def isolations(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Isolated]:
    topology = reckoner.wiring(job).topology
    word = job.pack.word("isolator")
    for way in ways_in(topology):
        name = topology.parts[way.unit].name
        id = f"{way.unit}-{way.port}-isolator".replace(" ", "-")
        into = {"what": "isolator", "into": f"{way.unit}:{way.port}"}
        insert = {"kind": "insert", "id": id, "name": f"{name} {word}", **into}
        kept = [adjustment.model_dump(mode="json") for adjustment in job.adjustments if adjustment.id != id]
        yield Isolated(
            unit=way.unit,
            name=name,
            way=way.words,
            at_unit=topology.parts[way.at_unit].name if way.at_unit else "",
            at_board=topology.parts[way.at_board].name if way.at_board else "",
            needs_board=way.two_ends,
            cures=cure(f"{word.capitalize()} at {name}", "adjustments", [*kept, insert]),
        )


@makes
def disconnects(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Disconnects]:
    most = job.pack.values.get("disconnects_max")
    if most is None or most.value <= 0:
        return
    topology = reckoner.wiring(job).topology
    for unit in topology.units:
        if unit.arrays:
            yield Disconnects(topology.parts[unit.unit].name, len(unit.arrays), most)


@makes
def shutdown_orders(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[ShutdownOrder]:
    if job.reorderings:
        steps = isolation(job, reckoner.wiring(job).topology)
        yield ShutdownOrder(
            moved=tuple(step.name for step in steps.shutdown if step.why),
            loaded=tuple(step.name for step in steps.shutdown if step.loaded),
            gone=tuple(stray.part for stray in steps.strays),
        )


@makes
def shutdowns(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[ShutdownSupply]:
    wiring = reckoner.wiring(job)
    topology = wiring.topology
    for part in job.parts:
        if not isinstance(part, Shutdown):
            continue
        feed = next((conductor for conductor in topology.conductors if conductor.b == (part.id, "in")), None)
        states = []
        for outcome in wiring.answers:
            running = any(outcome.unit_modes.get(unit) in RUNNING for unit in part.units)
            if running and not outcome.state.loose and outcome.state.name != "all off":
                states.append((outcome.state.name, bool(feed is not None and outcome.live[feed.id])))
        off = answer(topology, State("shut down").with_hand(f"{part.id}-switch", "open"))
        stops = [
            stop.id for stop in topology.parts.values() if stop.kind == "shutdown" and stop.of in part.units
        ]
        dead = all(not off.live[conductor.id] for conductor in topology.conductors if conductor.a[0] in stops)
        source = topology.parts.get(address(part.fed_from).part)
        yield ShutdownSupply(
            id=part.id,
            name=part.name,
            fed_from=source.name if source else part.fed_from,
            states=tuple(states),
            dead_when_off=dead and bool(stops),
            switches=1,
            alone=fed_alone(wiring, part) if job.mains.grid else None,
        )


@makes
def missing_shutdowns(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[NoShutdown]:
    """Units whose arrays no transmitter holds on, where the pack asks for rapid shutdown."""
    needed = job.pack.values.get("array_shutdown_needed")
    topology = reckoner.wiring(job).topology
    if needed is None:
        if (
            job.pack.conductor_rule == "NEC"
        ):  # an older edition of such a pack doesn't say: open, never passed
            yield NoShutdown((), False, None)
        return
    if needed.value <= 0:
        return
    held = {unit for part in job.parts if isinstance(part, Shutdown) for unit in part.units}
    bare = [
        unit
        for unit in job.units
        if topology.unit(unit.id).arrays and not job.sheet_of(unit).module_level and unit.id not in held
    ]
    if not bare:
        return
    strings = [s.id for s in job.strings if s.unit in {unit.id for unit in bare}]
    faces = [face for face in job.faces if any(face.count_of(name) for name in strings)]
    rack = all(face.mounting == "open rack" for face in faces)
    cure = _transmitters(reckoner, job, bare) if deep else ()
    yield NoShutdown(tuple(unit.name for unit in bare), rack, needed, cure)


def _transmitters(reckoner: Reckoner, job: Job, bare: list[Unit]) -> tuple[Remedy, ...]:
    """A transmitter for the units of each island, on a board that lives with them; for all others on the
    first board."""
    boards = [board for board in reckoner.wiring(job).boards if not board.contactor and board.circuits]
    if not job.parts or not boards:
        return ()
    groups: dict[str, list[str]] = {}
    for unit in bare:
        own = next((board.id for board in boards if unit.id in board.forming), boards[0].id)
        groups.setdefault(own, []).append(unit.id)
    taken = {part.id for part in job.parts}
    rows = [part.model_dump(mode="json") for part in job.parts]
    for number, (board, units) in enumerate(groups.items(), start=1):
        name = "Shutdown transmitter" if len(groups) == 1 else f"Shutdown transmitter {number}"
        id = next(
            name for name in (f"transmitter-{number}", f"transmitter-{number}-more") if name not in taken
        )
        rows.append(Shutdown(id=id, name=name, fed_from=board, units=tuple(units)).model_dump(mode="json"))
    words = "Plan a shutdown transmitter" if len(groups) == 1 else f"Plan {len(groups)} shutdown transmitters"
    return cure(words, "parts", rows)


@makes
def island_arrays(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[IslandArray]:
    wiring = reckoner.wiring(job)
    for island in wiring.islands:
        if not island.following:
            continue
        sheets = {unit.id: job.sheet_of(unit) for unit in job.units}
        names = {unit.id: unit.name for unit in job.units}
        signals = [sheets[name].frequency_curtailment for name in island.forming]
        yield IslandArray(
            forming=tuple(names[name] for name in island.forming),
            forming_kw=sum(sheets[name].rated_kw for name in island.forming),
            following=tuple(names[name] for name in island.following),
            following_kw=sum(sheets[name].rated_kw for name in island.following),
            signals=None if None in signals else all(signals),
            listens=tuple((names[name], sheets[name].frequency_curtailment) for name in island.following),
        )
