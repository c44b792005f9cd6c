"""Steps that are measured while power flows: the sun's, balances, limits, windows."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import timedelta

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import Reading
from lodestaff.commissioning.step import Step
from lodestaff.job import Role
from lodestaff.measuring.finding import SETTLE_S
from lodestaff.measuring.visit import Visit
from lodestaff.topology.questions import led


def power(visit: Visit, step: Step) -> Reading:
    """The other units rest, and loads take what the battery doesn't, so that nothing holds the array
    back."""
    plant, unit = visit.plant, step.measure.unit
    visit.standby(True, (unit,))
    left_kw = 0.6 * plant.units[unit].sheet.rated_kw if not visit.job.mains.grid else math.inf
    for circuit in visit.job.with_role(Role.GRID):
        if circuit.running_w / 1000 <= left_kw and plant.answer().fed[circuit.id]:
            plant.run_circuit(circuit.id, True)
            left_kw -= circuit.running_w / 1000
    shut = _other_isolators(visit, step)
    for name in shut:
        plant.switch(name, "open")
    plant.advance(SETTLE_S)
    strings = visit.job.strings_on(unit, step.measure.subject)
    conditions = visit.conditions(strings[0].id)
    if step.measure.face:
        first = next(
            face.id for s in strings for face, _ in visit.job.modules_in(s.id) if face.id != step.measure.face
        )
        one, two = (
            visit.instruments.face_conditions(first),
            visit.instruments.face_conditions(step.measure.face),
        )
        conditions = replace(
            conditions, poa_w_m2=one[0], module_c=one[1], poa_2_w_m2=two[0], module_2_c=two[1]
        )
    reading = visit.over_link(step, conditions)
    for name in shut:
        plant.switch(name, "closed")
    visit.standby(False)
    visit.quiet()
    return reading


def ac_power(visit: Visit, step: Step) -> Reading:
    """All strings in, the other units at rest, loads on."""
    visit.standby(True, (step.measure.unit,))
    visit.plant.advance(SETTLE_S)
    one = visit.instruments.face_conditions(step.measure.subject)
    conditions = Conditions(*one)
    if step.measure.face:
        two = visit.instruments.face_conditions(step.measure.face)
        conditions = replace(conditions, poa_2_w_m2=two[0], module_2_c=two[1])
    reading = visit.over_link(step, conditions)
    visit.standby(False)
    return reading


def _other_isolators(visit: Visit, step: Step) -> list[str]:
    """Of a unit without a battery: those of its other trackers."""
    unit, topology = step.measure.unit, visit.plant.topology
    if visit.plant.units[unit].battery is not None:
        return []
    arrays = [part.id for part in topology.on_way("array", unit) if part.kind == "isolator"]
    own = topology.array_isolator(unit, step.measure.subject)
    return [name for name in arrays if name != own]


def balance(visit: Visit, step: Step) -> Reading:
    visit.plant.advance(SETTLE_S)
    return visit.over_link(step)


def branch(visit: Visit, step: Step) -> Reading:
    visit.plant.advance(SETTLE_S)
    return visit.reading(step, float(visit.instruments.reporting(step.measure.unit)))


def _hold(visit: Visit, unit: str, batteries: bool = True) -> list[str]:
    """Batteries held where they are to be; units that keep no limit in standby, but those that are tried."""
    plant = visit.plant
    groups = led(plant.drawn)
    tried = next(group.units for group in groups if unit in group.units)
    free = [name for group in groups if group.ct is None for name in group.units if name not in tried]
    for name, one in plant.units.items():
        one.hold_battery, one.standby = batteries, name in free
    return free


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
    """Batteries charge from the grid while one load after the other comes on; or they give what is over the
    peak."""
    plant, peak = visit.plant, step.measure.doing == "peak"
    visit.quiet()
    kept = {name: unit.settings.mode for name, unit in plant.units.items()}
    fuse = visit.job.site.supply.rating_a.value or 60.0
    volts = visit.job.pack.value("nominal_v").value
    ceiling = 0.8 * fuse * volts * len(visit.job.site.phases) / 1000
    if peak:
        gives = sum(unit.settings.discharge_kw for unit in plant.units.values() if unit.battery is not None)
        ceiling = min(ceiling, (visit.job.limits.peak_kw or 0.0) + 0.7 * gives)
    else:
        for unit in plant.units.values():
            unit.settings.mode = "held for outages" if unit.battery is not None else unit.settings.mode
    for circuit in visit.job.with_role(Role.GRID, Role.SHED, Role.HELD):
        if plant.taken_kw() + circuit.running_w / 1000 < ceiling:
            plant.run_circuit(circuit.id, True)
            plant.advance(SETTLE_S / 4)
    plant.advance(SETTLE_S)
    reading = visit.over_link(step)
    for name, mode in kept.items():
        plant.units[name].settings.mode = mode
    visit.quiet()
    plant.advance(SETTLE_S)
    return reading


def window(visit: Visit, step: Step) -> Reading:
    """The unit's clock set into the window, the battery read; then set right again."""
    plant, unit = visit.plant, step.measure.unit
    window = next(one for one in visit.job.limits.windows if one.id == step.measure.subject)
    held, one = plant.units[unit].settings, plant.units[unit]
    error, energy = held.clock_error_s, None if one.battery is None else one.battery.energy_kwh
    right = plant.right_clock()
    length = (window.end_h - window.start_h) % 24
    inside = (window.start_h + min(length / 2, 0.5)) * 60
    shown = right.replace(hour=0, minute=0, second=0) + timedelta(minutes=inside)
    held.clock_error_s = (shown - right).total_seconds() + (error if abs(error) > 600 else 0.0)
    if one.battery is not None:
        middle = 0.5 * (one.battery.sheet.floor_soc + one.battery.sheet.taper_start_soc)
        one.battery.energy_kwh = middle * one.battery.capacity_kwh
        if window.kind == "charge":
            aim = one.soc_of(100 * window.target_soc if not one.battery.sheet.device_counts_usable else 100.0)
            one.battery.energy_kwh = min(middle, max(0.0, aim - 0.1)) * one.battery.capacity_kwh
    isolators = [p.id for p in plant.topology.on_way("array", unit) if p.kind == "isolator"]
    for name in isolators:
        plant.switch(name, "open")
    plant.advance(SETTLE_S)
    kw = visit.instruments.battery_kw(unit)
    for name in isolators:
        plant.switch(name, "closed")
    held.clock_error_s = error
    if one.battery is not None and energy is not None:
        one.battery.energy_kwh = energy
    plant.advance(SETTLE_S / 2)
    return visit.reading(step, kw)
