"""A person at the simulated site: hands on its switches, instruments at its terminals, the link to its
units."""

from lodestaff.commissioning.reading import Reading
from lodestaff.commissioning.settings_sheet import Setting
from lodestaff.commissioning.step import Step
from lodestaff.job import Role
from lodestaff.link.client import Written
from lodestaff.link.keys import by_clock, window_of
from lodestaff.measuring import counters, doing, finding
from lodestaff.measuring.visit import Visit
from lodestaff.plant.settings import HELD_AS


class SimulatedVisit(Visit):
    """Takes every step's reading at a plant. Before the first step the site is as it is found: fed past the
    unit."""

    def begin(self) -> None:
        """The site before anything is started: units off, isolators open, the essential board in bypass; what
        stood there before runs."""
        there = {unit.id for unit in self.job.units if unit.existing}
        for part in self.plant.topology.switches():
            if part.of in there or part.id in there:
                continue
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
            return self.put_off(step, step.needs)
        if kind == "setting":
            self._write(self.settings[step.measure.unit, step.measure.subject])
            return self.over_link(step)
        if kind == "setting by hand":
            return self._by_hand(step, self.settings[step.measure.unit, step.measure.subject])
        if kind == "confirm":
            return self.reading(step, confirmed=self._confirm(step))
        return doing.DONE[kind](self, step)

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
        if setting.key == "clock":
            self.plant.set_device_clock(setting.unit, self.plant.right_clock())
            off = (self.plant.device_clock(setting.unit) - self.plant.right_clock()).total_seconds()
            return self.reading(step, off)
        self.plant.set_by_hand(setting.unit, setting.key, setting.numbers[0])
        held = self.plant.units[setting.unit].settings
        return self.reading(step, float(getattr(held, HELD_AS[setting.key])))

    def _set_words(self, setting: Setting) -> bool:
        """Set what is a word or a window on the panel, and look whether it stands there."""
        held = self.plant.units[setting.unit].settings
        name = window_of(setting.key)
        if name is not None:
            places = [window.id for window in self.job.limits.windows]
            self.plant.set_window(setting.unit, places.index(name), setting.numbers)
            slot = held.windows[places.index(name)]
            return slot.start_min == round(60 * setting.numbers[0]) % 1440
        if setting.key in ("grid_profile", "serves", "export_of", "mode"):
            self.plant.set_by_hand(setting.unit, setting.key, str(setting.value))
            return bool(getattr(held, HELD_AS[setting.key]) == str(setting.value))
        if setting.numbers and not by_clock(setting.key):
            self.plant.set_by_hand(setting.unit, setting.key, setting.numbers[0])
        return True

    # --- what a person does and finds ----------------------------------------------------------------------
    def _confirm(self, step: Step) -> bool:
        if step.topic == "start":
            return finding.start(self, step)
        if step.topic == "bypass":
            return finding.bypass(self, step.proves[0])
        for unit, key in self.settings:
            if step.id == f"set-{unit}-{key}":
                return self._set_words(self.settings[unit, key])
        if step.measure.doing == "charger outage":
            return counters.charger_outage(self, step)
        finder = finding.FOUND.get(step.measure.doing)
        return True if finder is None else finder(self, step)
