"""What a person does at the simulated site for a step that is measured: switches, loads, then the
instrument."""

from __future__ import annotations

from collections.abc import Callable

from lodestaff.commissioning.bond_steps import HEATER_KW as KNOWN_KW
from lodestaff.commissioning.bond_steps import LEAST_W, board_of, loaded_leg
from lodestaff.commissioning.ct_steps import HEATER_KW
from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import Reading
from lodestaff.commissioning.step import Step
from lodestaff.job import Role
from lodestaff.measuring import counters, powers
from lodestaff.measuring.finding import SETTLE_S
from lodestaff.measuring.visit import Visit
from lodestaff.topology.questions import asked
from lodestaff.topology.states import off_position

HEATER = "heater of the test"


# --- strings and dead tests ------------------------------------------------------------------------------
def _voc(visit: Visit, step: Step) -> Reading:
    string = step.measure.subject
    return visit.reading(step, visit.instruments.string_voc_v(string), conditions=visit.conditions(string))


def _isc(visit: Visit, step: Step) -> Reading:
    string = step.measure.subject
    return visit.reading(step, visit.instruments.string_isc_a(string), conditions=visit.conditions(string))


def _module_voc(visit: Visit, step: Step) -> Reading:
    face = step.measure.face
    poa, back = visit.instruments.face_conditions(face)
    volts = visit.instruments.module_voc_v(step.measure.subject, face)
    return visit.reading(step, volts, conditions=Conditions(poa, back))


def _plain(read: Callable[[Visit, Step], float]) -> Callable[[Visit, Step], Reading]:
    """A step that is read as the site stands."""

    def done(visit: Visit, step: Step) -> Reading:
        return visit.reading(step, read(visit, step))

    return done


def _neutral_to_earth(visit: Visit, step: Step) -> Reading:
    """The main isolator open, units and generators off, what lies between closed; then as it was."""
    plant = visit.plant
    before = dict(plant.hands)
    plant.set_grid(False)
    for part in plant.topology.switches():
        dead = part.id == "main-isolator" or part.kind in ("unit", "generator")
        plant.switch(part.id, off_position(part.positions) if dead else part.positions[0])
    if step.measure.switch:
        plant.switch(step.measure.switch, step.measure.position)
    ohm = visit.instruments.neutral_earth_ohm(step.measure.subject, step.measure.part)
    for part in plant.topology.switches():
        plant.switch(part.id, before.get(part.id, part.positions[0]))
    plant.set_grid(True)
    return visit.reading(step, ohm)


def _same_leg(visit: Visit, step: Step) -> Reading:
    """The feed closed, the unit off at itself; then open again."""
    plant, unit = visit.plant, step.measure.unit
    closed = [p.id for p in plant.topology.switches() if p.of == unit and p.way == "grid"]
    before = {name: plant.hands.get(name, "closed") for name in closed}
    for name in closed:
        plant.switch(name, "closed")
    volts = visit.instruments.same_leg_v(unit)
    for name, position in before.items():
        plant.switch(name, position)
    return visit.reading(step, volts)


# --- transformers ----------------------------------------------------------------------------------------
def _ct(visit: Visit, step: Step) -> Reading:
    """Units in standby, the load on; the clamp meter where the transformer ought to sit."""
    plant, measure = visit.plant, step.measure
    visit.quiet()
    visit.standby(True)
    plugged = measure.doing == "plug in"
    if plugged:
        plant.plug(HEATER, (measure.subject, "out"), measure.leg, HEATER_KW)
    else:
        plant.run_circuit(measure.subject, True)
    plant.advance(SETTLE_S)
    clamp = visit.instruments.clamp_kw(measure.ct, measure.leg)
    conditions = Conditions(voltage_v=visit.instruments.supply_v(), load_kw=clamp)
    if measure.kind == "ct by hand":
        channels = plant.meters.of(measure.ct) or {}
        shown = channels.get(measure.leg, sum(channels.values()))
        reading = visit.reading(step, shown, conditions=conditions)
    else:
        reading = visit.over_link(step, conditions)
    if plugged:
        plant.unplug(HEATER)
    else:
        plant.run_circuit(measure.subject, False)
    visit.standby(False)
    return reading


def _residual(visit: Visit, step: Step) -> Reading:
    """The circuits of one leg on, as far as island or fuse carry them, a clamp around their feed."""
    plant, feed = visit.plant, step.measure.subject
    if plant.grid_present and plant.hands.get("main-isolator") != "open" and visit.job.mains.grid:
        visit.standby(True)
        left = 0.6 * visit.leg_kw()
    else:
        left = 0.5 * plant.units[step.measure.unit].sheet.rated_kw
    island = next(other for other in asked(plant.drawn).islands if step.measure.unit in other.forming)
    _, circuits = loaded_leg(visit.job, plant.drawn, island)
    before = dict(plant.running)
    for name in before:
        plant.run_circuit(name, False)
    for name in sorted(circuits, key=lambda name: visit.job.circuit(name).running_w):
        kw = visit.job.circuit(name).running_w / 1000
        plant.run_circuit(name, kw <= left)
        left -= kw if kw <= left else 0.0
    board = board_of(plant.drawn, island)
    heater = sum(visit.job.circuit(name).running_w for name in circuits) < LEAST_W
    if heater:
        plant.plug(HEATER, (board, "out"), step.measure.leg, KNOWN_KW)
    plant.advance(3)
    device, load = step.measure.part, visit.instruments.feed_kw(feed)
    amps = visit.instruments.earth_a(device) if device else visit.instruments.residual_a(feed)
    if heater:
        plant.unplug(HEATER)
    for name, on in before.items():
        plant.run_circuit(name, on)
    visit.standby(False)
    plant.advance(3)
    return visit.reading(step, amps, conditions=Conditions(load_kw=load))


# --- islands, generators, shutdown -----------------------------------------------------------------------
def _load_step(visit: Visit, step: Step) -> Reading:
    """Circuits of the island on up to the unit's rating, the heaviest last; the lowest volts."""
    plant = visit.plant
    island = next(other for other in asked(plant.drawn).islands if step.measure.unit in other.forming)
    before = dict(plant.running)
    left = 0.85 * sum(plant.units[name].sheet.rated_kw for name in island.forming)
    for name in before:
        plant.run_circuit(name, False)
    left_of = sorted(island.circuits, key=lambda name: name == step.measure.subject)
    for name in (step.measure.subject, *left_of):
        kw = visit.job.circuit(name).running_w / 1000
        if kw <= left and not plant.running[name] and visit.job.circuit(name).role in (Role.HELD, Role.SHED):
            plant.run_circuit(name, True)
            left -= kw
    plant.advance(5)
    board = board_of(plant.drawn, island)
    tripped = any(plant.units[name].tripped for name in island.forming)
    volts = 0.0 if tripped else visit.instruments.board_v(board)
    for name, on in before.items():
        plant.run_circuit(name, on)
    plant.advance(2)
    return visit.reading(step, volts)


def _generator(visit: Visit, step: Step) -> Reading:
    """The supply and the sun away, batteries charging from the generator: what it gives."""
    plant = visit.plant
    if visit.job.mains.grid:
        plant.switch("main-isolator", "open")
    with visit.array_open(*plant.units):
        plant.advance(2 * SETTLE_S)
        return visit.reading(step, visit.instruments.generator_kw())


def _array_off(visit: Visit, step: Step) -> Reading:
    """The transmitter's switch off, half a minute waited."""
    plant = visit.plant
    feed = next(
        (c for c in plant.topology.conductors if plant.topology.parts[c.b[0]].kind == "transmitter"), None
    )
    switch = feed.a[0] if feed is not None and plant.topology.parts[feed.a[0]].positions else ""
    if switch:
        plant.switch(switch, "open")
    plant.advance(30)
    volts = visit.instruments.array_v(step.measure.unit)
    if switch:
        plant.switch(switch, "closed")
    plant.advance(SETTLE_S)
    return visit.reading(step, volts)


DONE: dict[str, Callable[[Visit, Step], Reading]] = {
    "voc": _voc,
    "isc": _isc,
    "module voc": _module_voc,
    "insulation": _plain(lambda visit, step: visit.instruments.insulation_mohm(step.measure.subject)),
    "ac insulation": _plain(lambda visit, _: visit.instruments.ac_insulation_mohm()),
    "battery v": _plain(lambda visit, step: visit.instruments.battery_v(step.measure.unit)),
    "supply v": _plain(lambda visit, _: visit.instruments.supply_v()),
    "between legs": _plain(lambda visit, _: visit.instruments.between_legs_v()),
    "earth loop": _plain(lambda visit, _: visit.instruments.earth_loop_ohm()),
    "fault current": _plain(lambda visit, _: visit.instruments.fault_current_ka()),
    "rcd time": _plain(lambda visit, _: visit.instruments.rcd_ms()),
    "electrode": _plain(lambda visit, step: visit.instruments.electrode_ohm(step.measure.subject)),
    "bonding": _plain(lambda visit, _: visit.instruments.bonding_ohm()),
    "transfer": _plain(lambda visit, step: visit.instruments.transfer_s(step.measure.unit)),
    "island loop": _plain(
        lambda visit, step: visit.instruments.island_loop_ohm(step.measure.unit, step.measure.subject)
    ),
    "neutral to earth": _neutral_to_earth,
    "same leg": _same_leg,
    "ct": _ct,
    "ct by hand": _ct,
    "residual": _residual,
    "tracker power": powers.power,
    "ac power": powers.ac_power,
    "balance": powers.balance,
    "branch": powers.branch,
    "export": powers.export,
    "meter lost": powers.meter_lost,
    "import": powers.imported,
    "battery power": powers.window,
    "load step": _load_step,
    "generator": _generator,
    "array off": _array_off,
    "registers": counters.registers,
    "charger": counters.charger,
    "type": counters.plate,
}
