"""What a person at the simulated site has at hand: the plant, instruments, links, and how a reading is
written down."""

from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import replace
from datetime import datetime

from lodestaff.catalogue import BatterySheet
from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import NOT_MEASURED, Reading
from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.commissioning.step import Step
from lodestaff.job import Job, Role
from lodestaff.link.client import Link
from lodestaff.measuring.over_link import take_over_link
from lodestaff.plant import Plant
from lodestaff.plant.instruments import Instruments

CALIBRATED_UNTIL = "2099-12-31"  # of the simulated instruments
INSTRUMENT = "simulated tester"


class Visit:
    """A person's hands and eyes at a plant."""

    def __init__(self, plant: Plant, links: dict[str, Link], by: str = "rehearsal", seed: int = 1) -> None:
        self.plant, self.links, self.by = plant, links, by
        self.job: Job = plant.job
        self.instruments: Instruments = Instruments(plant, seed)
        self.before_test = (0.0, 0.0, 0.0)  # a generator's start and stop, while a test holds others
        self.settings = {
            (setting.unit, setting.key): setting for setting in settings_sheet(self.job, plant.drawn)
        }

    def reading(
        self,
        step: Step,
        number: float | None = None,
        confirmed: bool | None = None,
        conditions: Conditions = NOT_MEASURED,
    ) -> Reading:
        """A reading of a step by hand."""
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

    def put_off(self, step: Step, needs: str) -> Reading:
        """The step left open, with what it needs."""
        return replace(self.reading(step), put_off=needs)

    def over_link(self, step: Step, conditions: Conditions = NOT_MEASURED) -> Reading:
        """A reading of a step over the link."""
        link = self.links[step.measure.unit]
        reading = take_over_link(
            link, self.job, step=step, now=self.plant.right_clock(), by=self.by, conditions=conditions
        )
        return replace(reading, simulated=True)

    def conditions(self, string: str) -> Conditions:
        """What the sun meter, the surface probe and the voltmeter show."""
        poa, back = self.instruments.conditions(string)
        return Conditions(poa, back, self.instruments.supply_v())

    def leg_kw(self) -> float:
        """What the service carries on a leg; of a small one where nobody read it."""
        rating = self.job.site.supply.rating_a.value or 60.0
        return rating * self.job.pack.value("nominal_v").value / 1000

    @contextmanager
    def array_open(self, *units: str) -> Iterator[None]:
        """The DC isolators of some units' arrays open meanwhile."""
        ways = [part for unit in units for part in self.plant.topology.on_way("array", unit)]
        names = [part.id for part in ways if part.kind == "isolator"]
        for name in names:
            self.plant.switch(name, "open")
        yield
        for name in names:
            self.plant.switch(name, "closed")

    def plenty(self) -> AbstractContextManager[None]:
        """The batteries full meanwhile, so that there is surplus by day."""
        return self._charged(lambda sheet: sheet.top_soc)

    def half(self) -> AbstractContextManager[None]:
        """The batteries half full meanwhile, so that they can give and take: a person would wait for it."""
        return self._charged(lambda sheet: (sheet.floor_soc + sheet.taper_start_soc) / 2)

    @contextmanager
    def _charged(self, soc: Callable[[BatterySheet], float]) -> Iterator[None]:
        batteries = [unit.battery for unit in self.plant.units.values() if unit.battery is not None]
        kept = [battery.energy_kwh for battery in batteries]
        for battery in batteries:
            battery.energy_kwh = battery.capacity_kwh * soc(battery.sheet)
        yield
        for battery, energy in zip(batteries, kept, strict=True):
            battery.energy_kwh = energy

    def quiet(self) -> None:
        """What can be off is off."""
        for circuit in self.job.with_role(Role.GRID, Role.LOCKED, Role.SHED):
            self.plant.run_circuit(circuit.id, False)

    def standby(self, on: bool, but: tuple[str, ...] = ()) -> None:
        """All units in standby, or none."""
        for name, unit in self.plant.units.items():
            unit.standby = on and name not in but
