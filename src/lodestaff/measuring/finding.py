"""What a person does at the simulated site for a step that is answered by yes or no, and what he finds."""

from __future__ import annotations

from collections.abc import Callable

from lodestaff.commissioning.step import Step
from lodestaff.measuring.visit import Visit
from lodestaff.topology.questions import asked

SETTLE_S = 20.0
IN_TEST_PCT = 100.0  # a start of a generator above any charge, while it is tried


def cut(visit: Visit, away: bool) -> None:
    """The supply cut off or given back by the main isolator, where there is a supply."""
    if "main-isolator" in visit.plant.topology.parts:
        visit.plant.switch("main-isolator", "open" if away else "closed")


def tripped(visit: Visit) -> bool:
    return any(unit.tripped for unit in visit.plant.units.values())


def start(visit: Visit, step: Step) -> bool:
    """Close what a source comes in by, and look what the unit shows."""
    plant = visit.plant
    unit, source = step.measure.unit, step.measure.subject
    for part in plant.topology.switches():
        if part.of == unit and part.way == source:
            plant.switch(part.id, "closed")
        if source == "grid" and part.id == unit:
            plant.switch(part.id, "on")
        if source == "grid" and part.kind == "bypass":
            plant.switch(part.id, part.positions[0])
    plant.advance(SETTLE_S)
    one = plant.units[unit]
    if source == "battery" and one.battery is not None:
        bank = visit.job.bank_of(visit.job.unit(unit))
        return one.battery.heard and bank is not None and one.battery.modules == bank.modules
    return True


def connect_generators(visit: Visit) -> None:
    """The generators' isolators closed."""
    for part in visit.plant.topology.switches():
        if part.way == "generator" and part.kind in ("isolator", "breaker"):
            visit.plant.switch(part.id, "closed")


def bypass(visit: Visit, name: str) -> bool:
    """Around the units, and back: what it feeds is fed."""
    plant = visit.plant
    units = [unit.id for unit in visit.job.units]
    part = plant.topology.parts[name]
    by_generator = "generator" in part.positions
    if by_generator:
        connect_generators(visit)
        for generator in plant.generators:
            plant.switch(generator, "running")
    plant.switch(name, part.positions[-1])
    for unit in units:
        plant.switch(unit, "off")
    plant.advance(2)
    beyond = [conductor for conductor in plant.topology.conductors if conductor.a[0] == name]
    live = plant.answer().live
    fed = bool(beyond) and all(live[conductor.id] for conductor in beyond)
    dead = set(visit.instruments.dead_circuits())
    ends = {conductor.b[0] for conductor in beyond}
    fed = fed and not {c.id for c in visit.job.circuits if f"circuit-{c.id}" in ends} & dead
    if by_generator:
        for generator in plant.generators:
            plant.switch(generator, "stopped")
    plant.switch(name, part.positions[0])
    for unit in units:
        plant.switch(unit, "on")
    plant.advance(SETTLE_S)
    return fed


def _outage(visit: Visit, step: Step) -> bool:
    """The grid away: what is drawn as living lives, the rest is dead, and nothing trips."""
    plant = visit.plant
    visit.quiet()
    cut(visit, True)
    _awake(visit)
    plant.advance(5)
    found, dead = asked(plant.drawn), set(visit.instruments.dead_circuits())
    return dead == set(found.dead()) and not tripped(visit)


def _awake(visit: Visit) -> None:
    """Units that were not allowed onto the grid are switched on now, the main isolator being open."""
    plant = visit.plant
    asleep = [unit for unit in plant.units if plant.hands.get(unit) == "off"]
    for part in plant.topology.switches():
        if part.of in asleep and part.way == "grid":
            plant.switch(part.id, "closed")
        elif part.id in asleep:
            plant.switch(part.id, "on")
        elif asleep and part.kind == "bypass":
            plant.switch(part.id, part.positions[0])


def _return(visit: Visit, step: Step) -> bool:
    cut(visit, False)
    visit.plant.advance(SETTLE_S)
    return all(unit.mode == "grid" for unit in visit.plant.units.values())


def _released(visit: Visit, step: Step) -> bool:
    """Optimisers told to give: the string rises to its working volts."""
    plant, unit = visit.plant, step.measure.unit
    plant.release(unit)
    plant.advance(SETTLE_S)
    string = next(one for one in visit.job.strings if one.id == step.measure.subject)
    volts = (plant.units[unit].trackers or {}).get(string.tracker, (0.0, 0.0))[0]
    drawn = sum(count for _, count in visit.job.modules_in(string.id))
    return plant.strings[string.id].modules == drawn and (volts > 1.0 or not plant.light.any)


def _works(visit: Visit, step: Step) -> bool:
    visit.plant.advance(SETTLE_S)
    return not tripped(visit)


def _surplus(visit: Visit, step: Step) -> bool:
    """With a full battery and sun the surplus loads are on; with none to spare they are off."""
    plant = visit.plant
    visit.quiet()
    kept = {name: unit.battery.energy_kwh for name, unit in plant.units.items() if unit.battery is not None}
    for unit in plant.units.values():
        if unit.battery is not None:
            unit.battery.energy_kwh = unit.battery.capacity_kwh * unit.battery.sheet.top_soc
    plant.advance(SETTLE_S)
    on = plant.answer().positions.get(step.measure.subject) == "closed"
    for name, energy in kept.items():
        battery = plant.units[name].battery
        assert battery is not None
        battery.energy_kwh = min(energy, 0.6 * battery.capacity_kwh)
    plant.advance(SETTLE_S)
    for circuit in visit.job.circuits:
        if circuit.role.value == "surplus":
            plant.run_circuit(circuit.id, True)
    plant.advance(5)
    visit.quiet()
    return on


def _generator(visit: Visit, step: Step) -> bool:
    """Locked out, started, kept from the grid, stopped: by the step's own words in its id."""
    plant, name = visit.plant, step.measure.subject
    connect_generators(visit)
    one = plant.generators[name]
    master = plant.units.get(one.part.started_by)
    match step.measure.doing:
        case "generator locked":
            assert master is not None
            plant.lock_generator(name, True)
            call(visit, name, True)
            plant.advance(SETTLE_S)
            still, called = one.position == "stopped", one.called
            plant.lock_generator(name, False)
            return still and called
        case "generator start":
            if master is None:
                plant.switch(name, "running")
            else:
                call(visit, name, True)
            plant.advance(SETTLE_S)
            return one.position == "running"
        case "generator apart":
            found = plant.answer()
            return not any(hazard.kind in ("meet", "backfeed") for hazard in found.hazards)
        case _:
            if master is None:
                plant.switch(name, "stopped")
            else:
                call(visit, name, False)
            plant.advance(SETTLE_S)
            if visit.job.mains.grid:
                cut(visit, False)
                plant.advance(SETTLE_S)
            return one.position == "stopped"


def call(visit: Visit, name: str, on: bool) -> None:
    """The start of the unit that calls a generator set above its charge, or its true values put back with
    the stop below it."""
    one = visit.plant.generators[name]
    master = visit.plant.units[one.part.started_by]
    s = master.settings
    if on and s.generator_start_pct < IN_TEST_PCT:
        visit.before_test = (s.generator_start_pct, s.generator_stop_pct, s.generator_start_v)
    if on:
        s.generator_start_pct, s.generator_stop_pct, s.generator_start_v = IN_TEST_PCT, IN_TEST_PCT + 1, 0.0
    else:
        s.generator_start_pct, s.generator_stop_pct, s.generator_start_v = visit.before_test
        one.called = False


FOUND: dict[str, Callable[[Visit, Step], bool]] = {
    "outage": _outage,
    "return": _return,
    "released": _released,
    "battery works": _works,
    "surplus": _surplus,
    "generator locked": _generator,
    "generator start": _generator,
    "generator apart": _generator,
    "generator stop": _generator,
}
