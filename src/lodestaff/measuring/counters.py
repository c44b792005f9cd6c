"""What a person reads over some time, or off a plate: a meter's registers, a charger's current, a type."""

from __future__ import annotations

from dataclasses import replace

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.meter_steps import REGISTER_KWH
from lodestaff.commissioning.reading import Reading
from lodestaff.commissioning.rules import Between
from lodestaff.commissioning.step import Step
from lodestaff.measuring.finding import SETTLE_S
from lodestaff.measuring.visit import Visit

BEFORE_KWH = (99_997.0, 12.4)  # what stands on a meter's registers: the first is about to begin again
HOLDS_S, SLICE_S, SLICES = 4.0, 900.0, 12  # each moment stands for a quarter of an hour of the same sky

LOADED_SHARE = 0.7  # of the sun there, as load: the battery needn't give


def registers(visit: Visit, step: Step) -> Reading:
    """The battery full, the circuits that are held on: what comes out, what goes in, and what the unit
    counts meanwhile."""
    plant, unit = visit.plant, visit.plant.units[step.measure.unit]
    out = into = sun = stored = 0.0
    before = dict(plant.running)
    with visit.plenty():
        visit.quiet()
        visit.standby(True, but=(step.measure.unit,))
        _loads(visit, LOADED_SHARE * unit.pv_there_kw - plant.taken_kw())
        plant.advance(SETTLE_S)
        for _ in range(SLICES):
            plant.advance(HOLDS_S)
            passes = visit.instruments.meter_kw(step.measure.subject) * SLICE_S / 3600
            out, into = out + max(0.0, -passes), into + max(0.0, passes)
            sun += unit.pv_used_kw * SLICE_S / 3600
            if unit.battery is not None:
                stored += max(0.0, -unit.battery.power_kw) * SLICE_S / 3600
    visit.standby(False)
    out_before, in_before = BEFORE_KWH
    for name, on in before.items():
        plant.run_circuit(name, on)
    conditions = Conditions(
        out_from_kwh=out_before,
        in_from_kwh=in_before,
        in_to_kwh=(in_before + into) % REGISTER_KWH,
        sun_kwh=sun,
        sun_stored_kwh=min(stored, sun),
        stored_kwh=stored,
    )
    return visit.reading(step, (out_before + out) % REGISTER_KWH, conditions=conditions)


def _loads(visit: Visit, most_kw: float) -> None:
    """Circuits on, the small ones first, as long as the sun carries them."""
    for circuit in sorted(visit.job.circuits, key=lambda circuit: circuit.running_w):
        if circuit.running_w / 1000 <= most_kw and not visit.plant.running[circuit.id]:
            visit.plant.run_circuit(circuit.id, True)
            most_kw -= circuit.running_w / 1000


def charger(visit: Visit, step: Step) -> Reading:
    """A simulated vehicle on the charger, told its current."""
    plant, name, rule = visit.plant, step.measure.subject, step.rule
    assert isinstance(rule, Between)
    with visit.plenty():
        plant.tell_charger(name, rule.value)
        plant.run_circuit(name, True)
        plant.advance(SETTLE_S)
        amps = visit.instruments.circuit_a(name)
        plant.run_circuit(name, False)
        plant.tell_charger(name, None)
    return visit.reading(step, amps)


def charger_outage(visit: Visit, step: Step) -> bool:
    """The charger on, the supply cut off: nothing is left on it."""
    plant, name = visit.plant, step.measure.subject
    plant.run_circuit(name, True)
    plant.switch("main-isolator", "open")
    plant.advance(SETTLE_S)
    dead = name in visit.instruments.dead_circuits()
    plant.run_circuit(name, False)
    plant.switch("main-isolator", "closed")
    plant.advance(SETTLE_S)
    return dead


def plate(visit: Visit, step: Step) -> Reading:
    """What stands on the plate of what was delivered."""
    return replace(visit.reading(step), said=step.measure.subject)
