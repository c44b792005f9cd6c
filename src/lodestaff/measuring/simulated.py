"""A person at the simulated site: hands on its switches, instruments at its terminals, the link to its
units."""

import math
from dataclasses import replace
from datetime import datetime

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import NOT_MEASURED, Reading
from lodestaff.commissioning.settings_sheet import Setting, settings_sheet
from lodestaff.commissioning.step import OPEN_KIND, Step
from lodestaff.job import Job, Role
from lodestaff.link.client import Link, Written
from lodestaff.link.keys import by_clock
from lodestaff.measuring.over_link import take_over_link
from lodestaff.plant import Plant
from lodestaff.plant.instruments import Instruments
from lodestaff.plant.settings import HELD_AS
from lodestaff.topology.questions import asked, led

SETTLE_S = 40.0
CALIBRATED_UNTIL = "2099-12-31"  # of the simulated instruments
INSTRUMENT = "simulated tester"


class SimulatedVisit:
    """Takes every step's reading at a plant. Before the first step the site is as it is found: fed past the
    unit."""

    def __init__(self, plant: Plant, links: dict[str, Link], by: str = "rehearsal", seed: int = 1) -> None:
        self.plant, self.links, self.by = plant, links, by
        self.job: Job = plant.job
        self.instruments = Instruments(plant, seed)
        self._settings = {
            (setting.unit, setting.key): setting for setting in settings_sheet(self.job, plant.topology)
        }

    def begin(self) -> None:
        """The site before anything is started: units off, isolators open, the essential board in bypass."""
        for part in self.plant.topology.switches():
            if part.kind == "unit":
                self.plant.switch(part.id, "off")
            elif part.kind == "bypass":
                self.plant.switch(part.id, part.positions[-1])
            elif part.way not in ("", "supply"):
                self.plant.switch(part.id, "open")
        for circuit in self.job.with_role(Role.HELD):
            if circuit.event_minutes is None:
                self.plant.run_circuit(circuit.id, True)
        self.plant.advance(1)

    def take(self, step: Step) -> Reading:
        """Do what a step asks for and take its reading; one that can't be taken here is put off with what
        it needs."""
        kind = step.measure.kind
        if step.needs:
            return self._put_off(step, step.needs)
        if step.topic == "bypass" and "generator" in self.plant.topology.parts[step.proves[0]].positions:
            return self._put_off(step, f"{OPEN_KIND}: the simulated site has no generator that runs")
        if kind == "setting":
            self._write(self._settings[step.measure.unit, step.measure.subject])
            return self._over_link(step)
        if kind == "setting by hand":
            return self._by_hand(step, self._settings[step.measure.unit, step.measure.subject])
        doing = {
            "ct": self._ct,
            "ct by hand": self._ct,
            "tracker power": self._power,
            "balance": self._balance,
            "export": self._export,
        }.get(kind)
        if doing is not None:
            return doing(step)
        if kind == "confirm":
            return self._reading(step, confirmed=self._confirm(step))
        return self._measured(step)

    def _reading(
        self,
        step: Step,
        number: float | None = None,
        confirmed: bool | None = None,
        conditions: Conditions = NOT_MEASURED,
    ) -> Reading:
        numbers = () if number is None else (number,)
        at = datetime.now().astimezone().isoformat(timespec="seconds")
        return Reading(
            step.id,
            numbers,
            confirmed=confirmed,
            conditions=conditions,
            way="typed",
            by=self.by,
            instrument=INSTRUMENT,
            calibrated_until=CALIBRATED_UNTIL,
            at=at,
            simulated=True,
        )

    def _put_off(self, step: Step, needs: str) -> Reading:
        return replace(self._reading(step), put_off=needs)

    def _over_link(self, step: Step, conditions: Conditions = NOT_MEASURED) -> Reading:
        link = self.links[step.measure.unit]
        reading = take_over_link(
            link, self.job, step=step, now=self.plant.right_clock(), by=self.by, conditions=conditions
        )
        return replace(reading, simulated=True)

    def conditions(self, string: str) -> Conditions:
        """What the sun meter, the surface probe and the voltmeter show."""
        poa, back = self.instruments.conditions(string)
        return Conditions(poa, back, self.instruments.supply_v())

    # --- instruments -------------------------------------------------------------------------------------
    def _measured(self, step: Step) -> Reading:
        subject, unit, tools = step.measure.subject, step.measure.unit, self.instruments
        match step.measure.kind:
            case "voc":
                return self._reading(step, tools.string_voc_v(subject), conditions=self.conditions(subject))
            case "isc":
                return self._reading(step, tools.string_isc_a(subject), conditions=self.conditions(subject))
            case "insulation":
                return self._reading(step, tools.insulation_mohm(subject))
            case "battery v":
                return self._reading(step, tools.battery_v(unit))
            case "supply v":
                return self._reading(step, tools.supply_v())
            case "electrode":
                return self._reading(step, tools.electrode_ohm())
            case "bonding":
                return self._reading(step, tools.bonding_ohm())
            case "transfer":
                return self._reading(step, tools.transfer_s(unit))
            case "module voc":
                face = step.measure.face
                poa, back = tools.face_conditions(face)
                return self._reading(
                    step, tools.module_voc_v(subject, face), conditions=Conditions(poa, back)
                )
            case _:
                return self._reading(step, tools.island_loop_ohm(unit))

    # --- settings ----------------------------------------------------------------------------------------
    def _write(self, setting: Setting) -> Written:
        numbers = setting.numbers
        link = self.links[setting.unit]
        if setting.key == "clock":
            return link.write_setting("clock", self.plant.right_clock())
        if setting.key == "mode":
            return link.write_setting("mode", setting.value)
        return link.write_setting(setting.key, numbers if len(numbers) > 1 else numbers[0])

    def _by_hand(self, step: Step, setting: Setting) -> Reading:
        """Set on the panel, then read off it."""
        self.plant.set_by_hand(setting.unit, setting.key, setting.numbers[0])
        held = self.plant.units[setting.unit].settings
        return self._reading(step, float(getattr(held, HELD_AS[setting.key])))

    # --- function tests ----------------------------------------------------------------------------------
    def _ct(self, step: Step) -> Reading:
        circuit = step.measure.subject
        if not circuit:
            return self._put_off(step, "a load that it sees")
        self._quiet()
        for unit in self.plant.units.values():
            unit.standby = True
        self.plant.run_circuit(circuit, True)
        self.plant.advance(SETTLE_S)
        conditions = Conditions(voltage_v=self.instruments.supply_v(), load_kw=self.instruments.clamp_kw())
        if step.measure.kind == "ct by hand":
            reading = self._reading(step, conditions.load_kw, conditions=conditions)
        else:
            reading = self._over_link(step, conditions)
        self.plant.run_circuit(circuit, False)
        for unit in self.plant.units.values():
            unit.standby = False
        return reading

    def _quiet(self) -> None:
        for circuit in self.job.with_role(Role.GRID, Role.LOCKED, Role.SHED):
            self.plant.run_circuit(circuit.id, False)

    def _power(self, step: Step) -> Reading:
        """The other units rest, and loads take what the battery doesn't, so that nothing holds the array
        back."""
        plant = self.plant
        others = [unit for name, unit in plant.units.items() if name != step.measure.unit]
        for unit in others:
            unit.standby = True
        left_kw = 0.6 * plant.units[step.measure.unit].sheet.rated_kw if not self.job.mains.grid else math.inf
        for circuit in self.job.with_role(Role.GRID):
            if circuit.running_w / 1000 <= left_kw and plant.answer().fed[circuit.id]:
                plant.run_circuit(circuit.id, True)
                left_kw -= circuit.running_w / 1000
        shut = self._other_isolators(step)
        for name in shut:
            plant.switch(name, "open")
        plant.advance(SETTLE_S)
        strings = self.job.strings_on(step.measure.unit, step.measure.subject)
        reading = self._over_link(step, self.conditions(strings[0].id))
        for name in shut:
            plant.switch(name, "closed")
        for unit in others:
            unit.standby = False
        self._quiet()
        return reading

    def _other_isolators(self, step: Step) -> list[str]:
        """Of a unit without a battery: those of its other trackers."""
        unit = step.measure.unit
        if self.plant.units[unit].battery is not None:
            return []
        arrays = [part.id for part in self.plant.topology.on_way("array", unit) if part.kind == "isolator"]
        own = self.plant.topology.array_isolator(unit, step.measure.subject)
        return [name for name in arrays if name != own]

    def _balance(self, step: Step) -> Reading:
        self.plant.advance(SETTLE_S)
        return self._over_link(step)

    def _export(self, step: Step) -> Reading:
        self._quiet()
        units = self.plant.units
        free = [name for group in led(self.plant.topology) if group.ct is None for name in group.units]
        for name, unit in units.items():
            unit.hold_battery, unit.standby = True, name in free
        self.plant.advance(SETTLE_S)
        reading = self._over_link(step)
        for unit in units.values():
            unit.hold_battery = unit.standby = False
        self.plant.advance(SETTLE_S)
        return reading

    # --- what a person does and finds ----------------------------------------------------------------------
    def _confirm(self, step: Step) -> bool:
        plant = self.plant
        if step.topic == "start":
            self._start(step)
            return True
        match step.id:
            case "outage" | "island":
                self._cut(True)
                plant.advance(5)
                found, dead = asked(plant.topology), set(self.instruments.dead_circuits())
                return dead == set(found.dead()) and not self._tripped()
            case "return":
                self._cut(False)
                plant.advance(SETTLE_S)
                return all(unit.mode == "grid" for unit in plant.units.values())
            case _ if step.topic == "bypass":
                return self._bypass(step.proves[0])
            case _:
                for unit, key in self._settings:
                    if step.id == f"set-{unit}-{key}":
                        self._set_words(self._settings[unit, key])
                return True

    def _cut(self, away: bool) -> None:
        """The supply cut off or given back by the main isolator, where there is a supply."""
        if "main-isolator" in self.plant.topology.parts:
            self.plant.switch("main-isolator", "open" if away else "closed")

    def _tripped(self) -> bool:
        return any(unit.tripped for unit in self.plant.units.values())

    def _set_words(self, setting: Setting) -> None:
        if setting.key in ("grid_profile", "serves", "export_of", "mode"):
            self.plant.set_by_hand(setting.unit, setting.key, str(setting.value))
        elif setting.numbers and not by_clock(setting.key):
            self.plant.set_by_hand(setting.unit, setting.key, setting.numbers[0])

    def _start(self, step: Step) -> None:
        plant = self.plant
        unit, source = step.measure.unit, step.measure.subject
        for part in plant.topology.switches():
            if part.of == unit and part.way == source:
                plant.switch(part.id, "closed")
            if source == "grid" and part.id == unit:
                plant.switch(part.id, "on")
            if source == "grid" and part.kind == "bypass":
                plant.switch(part.id, part.positions[0])
        plant.advance(SETTLE_S)

    def _bypass(self, name: str) -> bool:
        plant = self.plant
        units = [unit.id for unit in self.job.units]
        throws = [part for part in plant.topology.switches() if part.id == name]
        for part in throws:
            plant.switch(part.id, part.positions[-1])
        for unit in units:
            plant.switch(unit, "off")
        plant.advance(2)
        dead = set(self.instruments.dead_circuits())
        beyond = {conductor.b[0] for conductor in plant.topology.conductors if conductor.a[0] == name}
        fed = bool(beyond) and all(
            plant.answer().live[conductor.id]
            for conductor in plant.topology.conductors
            if conductor.a[0] == name
        )
        fed = fed and not {c.id for c in self.job.circuits if f"circuit-{c.id}" in beyond} & dead
        for unit in units:
            plant.switch(unit, "on")
        for part in throws:
            plant.switch(part.id, part.positions[0])
        plant.advance(SETTLE_S)
        return fed
