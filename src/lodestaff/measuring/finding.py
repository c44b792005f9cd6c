"""What a person does at the simulated site for a step that is answered by yes or no, and what he finds."""

from __future__ import annotations

from collections.abc import Callable

from lodestaff.commissioning.step import Step
from lodestaff.job import Role
from lodestaff.measuring.visit import Visit
from lodestaff.topology.questions import asked

SETTLE_S = 20.0
HALF, LOW_SHARE = 0.5, 0.6  # of a unit's rating, as load; of a battery, where nothing is to spare
LEFT_OVER_KW = 0.3  # of export that a battery with room ought to have taken
TOO_MUCH, OVER_SHARE = "heater that is too much", 1.5
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
    plant_unit = plant.units[unit]
    if source == "battery" and plant_unit.battery is not None:
        bank = visit.job.bank_of(visit.job.unit(unit))
        return plant_unit.battery.heard and bank is not None and plant_unit.battery.modules == bank.modules
    if source == "array":
        wired = {s.tracker for s in visit.job.strings if s.unit == unit and s.id in plant.strings}
        shown = plant_unit.trackers or {}
        return not plant.light.any or all(shown.get(name, (0.0, 0.0))[0] > 1.0 for name in wired)
    return plant_unit.mode != "off"


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
    waits = {circuit.id for circuit in visit.job.with_role(Role.SURPLUS)}  # on only with surplus
    expected, dead = set(asked(plant.drawn).dead()), set(visit.instruments.dead_circuits())
    return dead - waits == expected - waits and not tripped(visit)


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
    string = next(other for other in visit.job.strings if other.id == step.measure.subject)
    volts = (plant.units[unit].trackers or {}).get(string.tracker, (0.0, 0.0))[0]
    drawn = sum(count for _, count in visit.job.modules_in(string.id))
    return plant.strings[string.id].modules == drawn and (volts > 1.0 or not plant.light.any)


def _works(visit: Visit, step: Step) -> bool:
    """A battery without sun of its own gives when circuits ask and nothing else feeds, and takes what others
    leave over, where its transformer sees that."""
    with visit.half():
        return _gives_and_takes(visit, step)


def _gives_and_takes(visit: Visit, step: Step) -> bool:
    plant, unit = visit.plant, visit.plant.units[step.measure.unit]
    assert unit.battery is not None
    visit.quiet()
    plant.advance(SETTLE_S)
    left_over = plant.seen_kw(step.measure.unit)
    took = unit.battery.power_kw < 0 or left_over is None or left_over > -LEFT_OVER_KW
    visit.standby(True, but=(step.measure.unit,))
    for circuit in visit.job.with_role(Role.HELD, Role.SHED, Role.GRID):
        if plant.taken_kw() < HALF * unit.sheet.rated_kw:
            plant.run_circuit(circuit.id, True)
    plant.advance(SETTLE_S)
    gave = unit.battery.power_kw > 0
    visit.standby(False)
    visit.quiet()
    return took and gave


def _surplus(visit: Visit, step: Step) -> bool:
    """With a full battery and sun the surplus loads are on; with none to spare they are off."""
    plant, contactor = visit.plant, step.measure.subject
    batteries = [unit.battery for unit in plant.units.values() if unit.battery is not None]
    visit.quiet()
    kept = [battery.energy_kwh for battery in batteries]
    for battery in batteries:
        battery.energy_kwh = battery.capacity_kwh * battery.sheet.top_soc
    plant.advance(SETTLE_S)
    on = plant.answer().positions.get(contactor) == "closed"
    for battery, energy in zip(batteries, kept, strict=True):
        battery.energy_kwh = min(energy, LOW_SHARE * battery.capacity_kwh)
    visit.standby(visit.job.mains.grid)
    own = [circuit.id for circuit in visit.job.with_role(Role.SURPLUS)]
    for name in own:
        plant.run_circuit(name, True)
    plant.advance(SETTLE_S)
    for name in own:
        plant.run_circuit(name, False)
    off = plant.answer().positions.get(contactor) == "open"
    visit.standby(False)
    plant.advance(SETTLE_S)
    return on and off


def _interlock(visit: Visit, step: Step) -> bool:
    """The lever to the units while the supply is away: what hangs on it lives, nothing feeds the supply."""
    plant, name = visit.plant, step.measure.subject
    part = plant.topology.parts[name]
    before = dict(plant.running)
    for circuit in before:
        plant.run_circuit(circuit, False)
    plant.switch(name, part.positions[-1])
    plant.advance(5)
    answer = plant.answer()
    beyond = [conductor for conductor in plant.topology.conductors if conductor.a[0] == name]
    fed = bool(beyond) and all(answer.live[conductor.id] for conductor in beyond)
    alone = not answer.hazards and not tripped(visit)
    plant.switch(name, part.positions[0])
    for circuit, on in before.items():
        plant.run_circuit(circuit, on)
    plant.advance(5)
    return fed and alone


def _overload(visit: Visit, step: Step) -> bool:
    """A heater that is too much for the island: its units stop; without it they are started again."""
    plant, board = visit.plant, step.measure.subject
    island = next(other for other in asked(plant.drawn).islands if step.measure.unit in other.forming)
    before = set(visit.instruments.dead_circuits())
    leg = visit.job.circuit(island.circuits[0]).legs[0]
    rated = sum(plant.units[name].sheet.rated_kw for name in island.forming)
    rated += sum(plant.units[name].pv_there_kw for name in island.following)
    plant.plug(TOO_MUCH, (board, "out"), leg, OVER_SHARE * rated)
    plant.advance(5)
    stopped = any(plant.units[name].tripped for name in island.forming)
    plant.unplug(TOO_MUCH)
    for position in ("off", "on"):
        for name in island.forming:
            plant.switch(name, position)
        plant.advance(SETTLE_S)
    return stopped and not tripped(visit) and set(visit.instruments.dead_circuits()) == before


def _generator(visit: Visit, step: Step) -> bool:
    """Locked out, started, kept from the grid, stopped."""
    plant, name = visit.plant, step.measure.subject
    connect_generators(visit)
    generator = plant.generators[name]
    master = plant.units.get(generator.part.started_by)
    match step.measure.doing:
        case "generator locked":
            assert master is not None
            plant.lock_generator(name, True)
            call(visit, name, True)
            plant.advance(SETTLE_S)
            still, called = generator.position == "stopped", generator.called
            plant.lock_generator(name, False)
            return still and called
        case "generator start":
            if master is None:
                plant.switch(name, "running")
            else:
                call(visit, name, True)
            plant.advance(SETTLE_S)
            return generator.position == "running"
        case "generator apart":
            alone = plant.answer().hazards
            cut(visit, False)
            plant.advance(SETTLE_S)
            together = plant.answer().hazards
            return generator.position == "running" and not alone and not together
        case _:
            if master is None:
                plant.switch(name, "stopped")
            else:
                call(visit, name, False)
            with visit.half():  # above its start, at which it would rightly go on
                plant.advance(SETTLE_S)
            return generator.position == "stopped"


def call(visit: Visit, name: str, on: bool) -> None:
    """The start of the unit that calls a generator set above its charge, or its true values put back with
    the stop below it."""
    generator = visit.plant.generators[name]
    master = visit.plant.units[generator.part.started_by]
    s = master.settings
    if on and s.generator_start_pct < IN_TEST_PCT:
        visit.before_test = (s.generator_start_pct, s.generator_stop_pct, s.generator_start_v)
    if on:
        s.generator_start_pct, s.generator_stop_pct, s.generator_start_v = IN_TEST_PCT, IN_TEST_PCT + 1, 0.0
    else:
        s.generator_start_pct, s.generator_stop_pct, s.generator_start_v = visit.before_test
        generator.called = False


FOUND: dict[str, Callable[[Visit, Step], bool]] = {
    "outage": _outage,
    "return": _return,
    "released": _released,
    "battery works": _works,
    "surplus": _surplus,
    "overload": _overload,
    "interlock": _interlock,
    "generator locked": _generator,
    "generator start": _generator,
    "generator apart": _generator,
    "generator stop": _generator,
}
