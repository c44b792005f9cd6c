"""The one door to a job's figures. Nothing here is stored with the job."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from lodestaff.energy import records
from lodestaff.energy.array import Plane, plane_dc_kw, string_kw, tracker_kw
from lodestaff.energy.calendar import STEP_H, STEPS_PER_DAY, Bools, Floats, household_hour, standard_hour, within
from lodestaff.energy.dispatch import ChargeWindow, Converter, Year, simulate
from lodestaff.energy.loads import circuit_kw
from lodestaff.energy.outage import (
    CircuitSeries,
    Outage,
    RideThrough,
    island_arrays,
    island_of,
    reserve_needed_kwh,
    ride_horizon_h,
    ride_through,
    run_outage,
)
from lodestaff.energy.sun import sun_over_year
from lodestaff.energy.synthetic import synthetic_year
from lodestaff.energy.tariff import bill, price_steps
from lodestaff.energy.weather import Weather, read_file, spread
from lodestaff.job import Circuit, FileWeather, Job, Role, Unit
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import selectors
from lodestaff.reckoning.figures import YearFigures, year_figures
from lodestaff.reckoning.memo import Memo
from lodestaff.reckoning.moment import Moment, step_of_moment
from lodestaff.topology import Answer, Island, State, Topology, answer, build, islands, standard_states
from lodestaff.topology.flows import Flows, flows
from lodestaff.topology.moves import Reached, reachable_hazards


@dataclass(frozen=True)
class Wiring:
    """The graph of a job; what each standard state makes of it is found when it is first asked for."""

    topology: Topology

    @cached_property
    def states(self) -> tuple[State, ...]:
        return standard_states(self.topology)

    @cached_property
    def answers(self) -> tuple[Answer, ...]:
        """All standard states, in their order."""
        return tuple(self._answer(state) for state in self.states)

    @cached_property
    def islands(self) -> tuple[Island, ...]:
        """The networks that units form in an outage."""
        dark = self.state("island")
        return islands(self.topology, dark) if dark is not None else ()

    def state(self, name: str) -> Answer | None:
        """What a standard state makes of it; None where this installation has no such state."""
        found = next((state for state in self.states if state.name == name), None)
        return self._answer(found) if found is not None else None

    def _answer(self, state: State) -> Answer:
        if state.name not in self._found:
            self._found[state.name] = answer(self.topology, state)
        return self._found[state.name]

    @cached_property
    def _found(self) -> dict[str, Answer]:
        return {}

    def flows(self, found: Answer, circuits_kva: tuple[tuple[str, float], ...], nominal_v: float) -> Flows:
        """Currents in a state, kept with the graph that they belong to."""
        key = (found.state, circuits_kva, nominal_v)
        if key not in self._flows:
            self._flows[key] = flows(self.topology, found, dict(circuits_kva), nominal_v)
        return self._flows[key]

    @cached_property
    def _flows(self) -> dict[Hashable, Flows]:
        return {}

    @cached_property
    def hazards(self) -> tuple[Reached, ...]:
        """Sources that hands could make to meet."""
        return reachable_hazards(self.topology)


@dataclass(frozen=True)
class Backed:
    """What a unit carries in an outage, with the units that carry it together, and those that follow on AC."""

    unit: Unit
    circuits: tuple[Circuit, ...]
    forming: tuple[Unit, ...]
    share: float
    following: tuple[Unit, ...]


def no_attachments(digest: str) -> bytes:
    raise JobError("the job's attachments are not at hand", digest[:12], "save the job and open it from its folder")


class Reckoner:
    """Figures of any job, cached. `attachment` gives the bytes of an attached file by its SHA-256."""

    def __init__(self, attachment: Callable[[str], bytes] = no_attachments) -> None:
        self.attachment = attachment
        self.memo = Memo()

    # --- weather, array, loads -------------------------------------------------------------------
    def weather(self, job: Job) -> Weather:
        """The weather year. Raises JobError for a file with gaps or a clearness that cannot be."""
        where, kind = selectors.place(job), job.site.weather
        if isinstance(kind, FileWeather):

            def read() -> Weather:
                name = kind.name or kind.sha256[:12]
                return spread(read_file(self.attachment(kind.sha256), kind.format, name), where, name)

            return self.memo.get(("weather", where, kind), read)
        climate = selectors.climate(kind)
        return self.memo.get(("weather", where, climate), lambda: synthetic_year(where, climate))

    def pv_dc_kw(self, job: Job) -> Floats:
        """DC power at the trackers, shape (unit, step), in kW, after each tracker's current limit."""
        return self.memo.get(("pv", self._pv_key(job)), lambda: self._pv(job)[0])

    def tracker_clipped_kwh(self, job: Job, unit: Unit, tracker: int) -> float:
        """What a tracker's current limit clips in a year, kWh; trackers are counted among those with strings."""
        clipped = self.memo.get(("pv clipped", self._pv_key(job)), lambda: self._pv(job)[1])
        return float(clipped[job.units.index(unit)][tracker].sum() * STEP_H)

    def _pv(self, job: Job) -> tuple[Floats, tuple[tuple[Floats, ...], ...]]:
        rows, clipped = [], []
        for unit in job.units:
            eta = job.sheet_of(unit).eta_mppt
            total = np.zeros(standard_hour().size)
            lost = []
            for tracker in selectors.trackers(job, unit):
                strings = []
                for string in tracker.strings:
                    parts = [(self.module_kw(job, plane), count) for plane, count in string.planes]
                    strings.append((string_kw(parts), string.count, string.vmp_v))
                power, over = tracker_kw(strings, tracker.imp_max_a)
                total += eta * power
                lost.append(eta * over)
            rows.append(total)
            clipped.append(tuple(lost))
        return np.array(rows), tuple(clipped)

    def module_kw(self, job: Job, plane: Plane) -> Floats:
        """DC power of one module on a plane over the year in kW, shape (step,)."""
        where = selectors.place(job)
        key = ("plane", where, job.site.weather, plane)
        return self.memo.get(key, lambda: plane_dc_kw(plane, sun_over_year(where), self.weather(job)))

    def circuit_kw(self, job: Job, circuit: Circuit) -> Floats:
        """Mean power of a circuit in each step in kW, shape (step,)."""
        table = selectors.timetable(job, circuit)
        return self.memo.get(("circuit", table), lambda: circuit_kw(table))

    def load_kw(self, job: Job) -> Floats:
        """All circuits by phase, shape (phase, step), in kW; legs that a unit stands across are one phase."""
        load = np.zeros((len(selectors.energy_phases(job)), standard_hour().size))
        for circuit in job.circuits:
            power = self.circuit_kw(job, circuit)
            for leg in circuit.legs:
                load[selectors.phase_index(job, leg)] += power / len(circuit.legs)
        return load

    # --- the year --------------------------------------------------------------------------------
    def converters(self, job: Job) -> tuple[Converter, ...]:
        return selectors.converters(job)

    def hours_by(self, job: Job, clock: str) -> Floats:
        """Hour of day at each step by the standard or the household clock."""
        if clock == "standard":
            return standard_hour()
        return household_hour(job.pack.daylight_saving, job.site.utc_offset_h)

    def low_band(self, job: Job) -> Bools:
        """Whether the tariff's low band runs in each step."""
        tariff = job.tariff
        return within(self.hours_by(job, tariff.clock), tariff.low_start_h, tariff.low_end_h)

    def year(self, job: Job) -> Year:
        """The simulated year of a job."""
        loads = tuple((selectors.timetable(job, circuit), circuit.phase) for circuit in job.circuits)
        limits = job.limits
        settings = (limits.windows, limits.device_clock, limits.export_kw, limits.import_kw)
        key = ("year", self._pv_key(job), loads, selectors.energy_phases(job), self.converters(job), settings)
        return self.memo.get(key, lambda: self._year(job))

    def _pv_key(self, job: Job) -> Hashable:
        """What the DC power of the array rests on."""
        units = tuple((selectors.trackers(job, unit), job.sheet_of(unit).eta_mppt) for unit in job.units)
        return selectors.place(job), job.site.weather, units

    def _year(self, job: Job) -> Year:
        hours = self.hours_by(job, job.limits.device_clock)
        windows = tuple(
            ChargeWindow(within(hours, window.start_h, window.end_h), window.target_soc, window.power_kw)
            for window in job.limits.windows
        )
        return simulate(
            self.converters(job),
            self.pv_dc_kw(job),
            self.load_kw(job),
            windows,
            job.limits.export_kw,
            job.limits.import_kw,
        )

    def figures(self, job: Job) -> YearFigures:
        """The year's energies, ratios and money."""
        year = self.year(job)
        tariff = job.tariff
        price = price_steps(tariff.import_high, tariff.import_low, self.low_band(job))
        money = bill(
            year.import_kw,
            year.export_kw,
            year.load_kw,
            price,
            tariff.export,
            tariff.standing_per_day,
            year.load_kw.shape[1] / STEPS_PER_DAY,
            year.step_h,
        )
        return year_figures(year, self.converters(job), money)

    # --- outages ---------------------------------------------------------------------------------
    def step(self, job: Job, moment: Moment) -> int:
        """The step of the year that a moment stands for."""
        return step_of_moment(moment, self.weather(job).ghi_w_m2)

    def energy_at(self, job: Job, unit: Unit, moment: Moment) -> float:
        """Energy in a unit's battery at a moment in kWh: its set state of charge, else the simulated one."""
        index = job.units.index(unit)
        battery = self.converters(job)[index].battery
        if battery is None:
            return 0.0
        if moment.soc is not None:
            return min(moment.soc, battery.top_soc) * battery.capacity_kwh
        step = self.step(job, moment)
        year = self.year(job)
        return float(year.series.energy_kwh[index, step - 1] if step else year.e_start_kwh[index])

    def island(self, job: Job, unit: Unit) -> records.OutageArrays:
        """What a unit meets on its island in each step."""
        key = self._island_key(job, unit)
        index = job.units.index(unit)

        backed = self.backed(job, unit)

        def series(role: Role) -> tuple[CircuitSeries, ...]:
            circuits = [c for c in backed.circuits if c.role is role]
            part = backed.share
            if part == 1.0:
                return tuple(CircuitSeries(self.circuit_kw(job, c), c.running_kva, c.start_kva) for c in circuits)
            return tuple(
                CircuitSeries(self.circuit_kw(job, c) * part, c.running_kva * part, c.start_kva * part)
                for c in circuits
            )

        def make() -> records.OutageArrays:
            sun = self.pv_dc_kw(job)
            own = sun[index]
            for other in backed.following:  # what follows on AC reaches this unit's battery by its share
                own = own + backed.share * sun[job.units.index(other)] * job.sheet_of(other).efficiency[-1][1]
            return island_arrays(own, series(Role.HELD), series(Role.SHED), job.sheet_of(unit).own_use_kw)

        return self.memo.get(key, make)

    def _island_key(self, job: Job, unit: Unit) -> Hashable:
        """What a unit's island rests on."""
        backed = self.backed(job, unit)
        circuits = tuple((selectors.timetable(job, c), c.role, c.running_kva, c.start_kva) for c in backed.circuits)
        others = tuple(job.units.index(other) for other in backed.following)
        return ("island", self._pv_key(job), job.units.index(unit), circuits, backed.share, others,
                job.sheet_of(unit).own_use_kw)  # fmt: skip

    def backed(self, job: Job, unit: Unit) -> Backed:
        """What a unit carries in an outage: the circuits of its island, and its share of them by rating."""
        wiring = self.wiring(job)
        found = next((one for one in wiring.islands if unit.id in one.forming), None)
        if found is None:
            return Backed(unit, (), (), 1.0, ())
        inside = set(found.circuits)
        circuits = tuple(c for c in job.with_role(Role.HELD, Role.SHED) if c.id in inside)
        forming = tuple(one for one in job.units if one.id in found.forming)
        rated = {one.id: job.sheet_of(one).rated_kva for one in forming}
        following = tuple(one for one in job.units if one.id in found.following)
        return Backed(unit, circuits, forming, rated[unit.id] / sum(rated.values()), following)

    def outage(self, job: Job, unit: Unit, moment: Moment) -> Outage:
        """An outage that begins at a moment, on one unit's island."""
        converter = self._with_battery(job, unit)
        island = island_of(converter, job.limits.shed_soc)
        return run_outage(self.island(job, unit), island, self.step(job, moment), self.energy_at(job, unit, moment))

    def ride(self, job: Job, unit: Unit, reserve_soc: float | None = None) -> RideThrough:
        """How long the energy of the reserve alone lasts, from starts all over the year."""
        converter = self._with_battery(job, unit)
        assert converter.battery is not None
        capacity_kwh = converter.battery.capacity_kwh
        soc = job.limits.reserve_soc if reserve_soc is None else reserve_soc
        island = island_of(converter, job.limits.shed_soc, energy_only=True)
        horizon_h = ride_horizon_h(job.wishes.outage_h)
        key = ("ride", self._island_key(job, unit), island, soc, horizon_h)
        return self.memo.get(key, lambda: ride_through(self.island(job, unit), island, soc * capacity_kwh, horizon_h))

    def promised_reserve(self, job: Job, unit: Unit) -> float | None:
        """The least reserve in whole percent, as a share, that keeps the promised hours in every month.

        None where not even a full battery does.
        """
        converter = self._with_battery(job, unit)
        bank = converter.battery
        assert bank is not None
        percent = job.pack.value("ride_through_percentile").value
        island = island_of(converter, job.limits.shed_soc, energy_only=True)
        key = ("needed", self._island_key(job, unit), island, job.wishes.outage_h, percent)
        needed = self.memo.get(
            key, lambda: reserve_needed_kwh(self.island(job, unit), island, job.wishes.outage_h, percent)
        )
        soc = float(np.ceil(round(needed / bank.capacity_kwh * 100, 6))) / 100
        return max(soc, bank.floor_soc) if soc <= bank.top_soc else None

    def _with_battery(self, job: Job, unit: Unit) -> Converter:
        converter = self.converters(job)[job.units.index(unit)]
        if converter.battery is None:
            raise JobError("has no battery, so it holds no outage", f"units {unit.id}", "give it a bank of modules")
        return converter

    # --- wiring ----------------------------------------------------------------------------------
    def wiring(self, job: Job) -> Wiring:
        """The graph and its standard states."""
        sheets = tuple(map(job.sheet_of, job.units))
        circuits = tuple((c.id, c.name, c.role, c.phase, c.board, c.neutral_board, c.also_on) for c in job.circuits)
        placed = tuple((face.id, face.name, tuple(module.string for module in face.modules)) for face in job.faces)
        key = ("wiring", job.site, job.mains, circuits, job.units, job.banks, placed, job.strings, job.wiring, job.parts,
               job.adjustments, sheets, job.pack.name, job.pack.values.get("isolators_open_neutral"))  # fmt: skip

        def make() -> Wiring:
            return Wiring(build(job))

        return self.memo.get(key, make)


def evening_need_kwh(held_kw: Floats, start_hour: float, hours: float) -> Floats:
    """Energy that the held load takes over `hours` from `start_hour` on each day, shape (365,), in kWh."""
    length = round(hours / STEP_H)
    twice = np.concatenate([held_kw, held_kw[: 7 * STEPS_PER_DAY]])
    running = np.concatenate([[0.0], np.cumsum(twice)]) * STEP_H
    starts = np.arange(365) * STEPS_PER_DAY + round(start_hour / STEP_H)
    return np.asarray(running[starts + length] - running[starts])
