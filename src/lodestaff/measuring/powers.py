"""Steps that are measured while power flows: the sun's, balances, limits, windows."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import timedelta

from lodestaff.commissioning.ct_steps import board_beyond
from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.function_steps import tried_alone
from lodestaff.commissioning.reading import NOT_MEASURED, Reading
from lodestaff.commissioning.step import Step
from lodestaff.job import Role
from lodestaff.measuring.finding import SETTLE_S
from lodestaff.measuring.visit import Visit
from lodestaff.topology.questions import ct_phases, led

MORE_SUN = "more sun: too little flows to balance"
NEARLY, OVER = 0.9, 0.5  # of an import limit, that is come to; of the charging, that is put on top
OVER_PEAK = 0.7  # of what batteries give, that is put over the peak


def power(visit: Visit, step: Step) -> Reading:
    """The other units rest, and loads take what the battery doesn't, so that nothing holds the array
    back."""
    plant, unit = visit.plant, step.measure.unit
    visit.standby(True, (unit,))
    before, grid = dict(plant.running), visit.job.mains.grid
    left_kw = math.inf if grid else 0.6 * plant.units[unit].sheet.rated_kw
    loads = visit.job.with_role(*((Role.GRID,) if grid else (Role.GRID, Role.SHED, Role.HELD)))
    for circuit in (circuit for circuit in loads if not before[circuit.id]):
        if circuit.running_w / 1000 <= left_kw and plant.answer().fed[circuit.id]:
            plant.run_circuit(circuit.id, True)
            left_kw -= circuit.running_w / 1000
    shut = _other_isolators(visit, step)
    for name in shut:
        plant.switch(name, "open")
    with visit.half():
        plant.advance(SETTLE_S)
        reading = _sun_power(visit, step)
    for name in shut:
        plant.switch(name, "closed")
    visit.standby(False)
    for name, on in before.items():
        plant.run_circuit(name, on)
    visit.quiet()
    return reading


def _sun_power(visit: Visit, step: Step) -> Reading:
    """The sun on the faces of a tracker, and its power."""
    strings = visit.job.strings_on(step.measure.unit, step.measure.subject)
    conditions = visit.conditions(strings[0].id)
    if step.measure.face:
        first = next(
            face.id for s in strings for face, _ in visit.job.modules_in(s.id) if face.id != step.measure.face
        )
        conditions = _two_faces(visit, first, step.measure.face)
    return visit.over_link(step, conditions)


def ac_power(visit: Visit, step: Step) -> Reading:
    """All strings in, the other units at rest, loads on."""
    visit.standby(True, (step.measure.unit,))
    visit.plant.advance(SETTLE_S)
    conditions = _two_faces(visit, step.measure.subject, step.measure.face)
    reading = visit.over_link(step, conditions)
    visit.standby(False)
    return reading


def _two_faces(visit: Visit, face: str, second: str) -> Conditions:
    """Sun and modules of a face, and of a second one where there is one."""
    conditions = Conditions(*visit.instruments.face_conditions(face))
    if not second:
        return conditions
    poa, back = visit.instruments.face_conditions(second)
    return replace(conditions, poa_2_w_m2=poa, module_2_c=back)


def _other_isolators(visit: Visit, step: Step) -> list[str]:
    """Where a unit's trackers are tried one after the other: those of the others."""
    unit, topology = step.measure.unit, visit.plant.topology
    if not tried_alone(visit.job, visit.job.unit(unit)):
        return []
    arrays = [part.id for part in topology.on_way("array", unit) if part.kind == "isolator"]
    own = topology.array_isolator(unit, step.measure.subject)
    return [name for name in arrays if name != own]


def balance(visit: Visit, step: Step) -> Reading:
    """As the sun stands; put off where too little flows to balance."""
    visit.plant.advance(SETTLE_S)
    reading = visit.over_link(step)
    return reading if reading.numbers else visit.put_off(step, MORE_SUN)


def branch(visit: Visit, step: Step) -> Reading:
    visit.plant.advance(SETTLE_S)
    return visit.reading(step, float(visit.instruments.reporting(step.measure.unit)))


def _hold(visit: Visit, unit: str, batteries: bool = True) -> None:
    """Batteries held where they are to be; units that keep no limit in standby, but those that are tried."""
    plant = visit.plant
    groups = led(plant.drawn)
    tried = next(group.units for group in groups if unit in group.units)
    free = [name for group in groups if group.ct is None for name in group.units if name not in tried]
    for name, other in plant.units.items():
        other.hold_battery, other.standby = batteries, name in free


def _let_go(visit: Visit) -> None:
    for unit in visit.plant.units.values():
        unit.hold_battery = unit.standby = False
    visit.plant.advance(SETTLE_S)


def export(visit: Visit, step: Step) -> Reading:
    visit.quiet()
    _hold(visit, step.measure.unit)
    visit.plant.advance(SETTLE_S)
    reading = visit.over_link(step)
    _let_go(visit)
    return reading


def meter_lost(visit: Visit, step: Step) -> Reading:
    """The transformer's lead out, what goes out read by clamp at the supply."""
    plant = visit.plant
    sun = bool(plant.drawn.unit(step.measure.unit).arrays)
    for circuit in visit.job.with_role(Role.GRID, Role.SHED):
        plant.run_circuit(circuit.id, not sun and plant.taken_kw() < 3.0)
    _hold(visit, step.measure.unit, batteries=sun)
    plant.advance(SETTLE_S)
    visit.quiet()
    plant.pull_meter(step.measure.ct, True)
    plant.advance(SETTLE_S)
    out = max(0.0, -visit.instruments.supply_kw())
    plant.pull_meter(step.measure.ct, False)
    _let_go(visit)
    return visit.reading(step, out)


def imported(visit: Visit, step: Step) -> Reading:
    with visit.half():
        return _imported(visit, step)


def _imported(visit: Visit, step: Step) -> Reading:
    """Batteries told to charge from the grid while loads come on until both are more than the limit; or loads
    over the peak, no more than the batteries make up."""
    plant, peak = visit.plant, step.measure.doing == "peak"
    visit.quiet()
    storing = [unit for unit in plant.units.values() if unit.battery is not None]
    kept = [(unit, unit.settings.mode) for unit in storing]
    legs = _sockets(visit, step)
    if peak:
        gives = sum(unit.settings.discharge_kw for unit in storing)
        _load(visit, legs, (visit.job.limits.peak_kw or 0.0) + OVER_PEAK * gives - plant.taken_kw())
    else:
        for unit in storing:
            unit.settings.mode = "held for outages"
        more = 0.0
        for _ in range(3):  # the sun and the battery answer; what is missing is put on top
            plant.advance(SETTLE_S / 2)
            more += NEARLY * _limit(step) - visit.instruments.clamp_kw(step.measure.ct)
            _load(visit, legs, more)
        takes = sum(max(0.0, -unit.battery.power_kw) for unit in storing if unit.battery is not None)
        _load(visit, legs, more + OVER * takes)
    plant.advance(2 * SETTLE_S)
    reading = visit.over_link(step)
    for leg in legs:
        plant.unplug(f"load on {leg}")
    for unit, mode in kept:
        unit.settings.mode = mode
    plant.advance(SETTLE_S)
    return reading


def _limit(step: Step) -> float:
    """The value that a step's reading is held to."""
    expected = step.rule.expected(NOT_MEASURED)
    return expected.value if expected is not None else 0.0


def _load(visit: Visit, legs: dict[str, str], kw: float) -> None:
    """So many kW of heaters in sockets, shared by the legs."""
    for leg, board in legs.items():
        visit.plant.plug(f"load on {leg}", (board, "out"), leg, max(0.01, kw / len(legs)))


def _sockets(visit: Visit, step: Step) -> dict[str, str]:
    """For each leg that a transformer counts a board beyond it."""
    ct = next(other for other in visit.plant.drawn.cts if other.id == step.measure.ct)
    boards = {leg: board_beyond(visit.plant.drawn, ct, leg) for leg in ct_phases(visit.plant.drawn, ct)}
    return {leg: board for leg, board in boards.items() if board}


def window(visit: Visit, step: Step) -> Reading:
    """The unit's clock set into the window, the battery read; then set right again."""
    plant, unit = visit.plant, step.measure.unit
    window = next(other for other in visit.job.limits.windows if other.id == step.measure.subject)
    held, plant_unit = plant.units[unit].settings, plant.units[unit]
    error, energy = held.clock_error_s, None if plant_unit.battery is None else plant_unit.battery.energy_kwh
    right = plant.right_clock()
    length = (window.end_h - window.start_h) % 24
    inside = (window.start_h + min(length / 2, 0.5)) * 60
    shown = right.replace(hour=0, minute=0, second=0) + timedelta(minutes=inside)
    held.clock_error_s = (shown - right).total_seconds() + (error if abs(error) > 600 else 0.0)
    if plant_unit.battery is not None:
        middle = 0.5 * (plant_unit.battery.sheet.floor_soc + plant_unit.battery.sheet.taper_start_soc)
        plant_unit.battery.energy_kwh = middle * plant_unit.battery.capacity_kwh
        if window.kind == "charge":
            aim = plant_unit.soc_of(
                100 * window.target_soc if not plant_unit.battery.sheet.device_counts_usable else 100.0
            )
            plant_unit.battery.energy_kwh = min(middle, max(0.0, aim - 0.1)) * plant_unit.battery.capacity_kwh
    with visit.array_open(unit):
        plant.advance(SETTLE_S)
        kw = visit.instruments.battery_kw(unit)
    held.clock_error_s = error
    if plant_unit.battery is not None and energy is not None:
        plant_unit.battery.energy_kwh = energy
    plant.advance(SETTLE_S / 2)
    return visit.reading(step, kw)
