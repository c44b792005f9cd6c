"""The one door to a job's figures. Nothing here is stored with the job."""

from collections.abc import Callable, Hashable

import numpy as np

from lodestaff.energy import records
from lodestaff.energy.calendar import (
    STEPS_PER_DAY,
    Bools,
    Floats,
    household_hour,
    month_of_step,
    standard_hour,
)
from lodestaff.energy.dispatch import Converter, Year, most_ac_kw
from lodestaff.energy.loads import circuit_kw
from lodestaff.energy.night import Night, night_of
from lodestaff.energy.outage import (
    CircuitSeries,
    Outage,
    RideThrough,
    island_arrays,
    island_loads,
    islands_of,
    ride_horizon_h,
    ride_through,
    run_outage,
)
from lodestaff.energy.records import Generator
from lodestaff.energy.synthetic import synthetic_year
from lodestaff.energy.tariff import NO_BILL, bill
from lodestaff.energy.together import together
from lodestaff.energy.weather import Weather, read_file, spread
from lodestaff.job import Circuit, FileWeather, Job, Role, Unit
from lodestaff.places import Route, routes
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.recent import Recent
from lodestaff.reckoning import prices, selectors
from lodestaff.reckoning.controlling import Plan, netted, plans
from lodestaff.reckoning.figures import YearFigures, paid_export_kw, year_figures
from lodestaff.reckoning.generating import generator_of
from lodestaff.reckoning.memo import MOST_BYTES, Memo, T
from lodestaff.reckoning.moment import Moment, step_of_moment
from lodestaff.reckoning.off_grid import shed_level
from lodestaff.reckoning.sunlit import Sunlit
from lodestaff.reckoning.wired import Backed, Wiring, backed_of
from lodestaff.reckoning.yearly import Parts, on_phases, year_of
from lodestaff.topology import build
from lodestaff.topology.questions import Asked, asked


def no_attachments(digest: str) -> bytes:
    raise JobError(
        "the job's attachments are not at hand", digest[:12], "save the job and open it from its folder"
    )


class Reckoner:
    """Figures of any job, cached. `attachment` gives the bytes of an attached file by its SHA-256."""

    def __init__(
        self, attachment: Callable[[str], bytes] = no_attachments, most_bytes: int = MOST_BYTES
    ) -> None:
        self.attachment = attachment
        self.memo = Memo(most_bytes)
        self._of_job = Recent()
        self.sunlit = Sunlit(self, self._of_job)

    def of_job(self, name: str, job: Job, make: Callable[[], T]) -> T:
        """What was made of a job under a name, made once while that job is at hand."""
        return self._of_job.get(name, job, make)

    def of_parts(self, name: str, parts: tuple[object, ...], make: Callable[[], T]) -> T:
        """What was made of parts of a job under a name, made once while they are the very same."""
        return self._of_job.get_of_all(name, parts, make)

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
        return self.sunlit.dc_kw(job)

    def circuit_kw(self, job: Job, circuit: Circuit) -> Floats:
        """Mean power of a circuit in each step in kW, shape (step,)."""
        table = selectors.timetable(job, circuit)
        if table.climate is None:
            return self.memo.get(("circuit", table), lambda: circuit_kw(table))
        key = ("circuit", table, selectors.place(job), job.site.weather)
        return self.memo.get(key, lambda: circuit_kw(table, self.weather(job).temp_air_c))

    def load_kw(self, job: Job) -> Floats:
        """The circuits by phase, shape (phase, step), in kW, without those that take surplus only.

        Legs that a unit stands across are one phase.
        """
        nothing = np.zeros(standard_hour().size)
        powers = [nothing if c.role is Role.SURPLUS else self.circuit_kw(job, c) for c in job.circuits]
        return on_phases(job, tuple(powers))

    # --- the year --------------------------------------------------------------------------------
    def converters(self, job: Job) -> tuple[Converter, ...]:
        """The units as the year takes them."""
        return self._of_job.get("converters", job, lambda: selectors.converters(job))

    def plans(self, job: Job) -> tuple[Plan, ...]:
        """Who leads which units, and what each sees; none without a grid."""
        if not job.mains.grid:
            return ()
        return self._of_job.get("plans", job, lambda: plans(job, self.wiring(job).topology))

    def hours_by(self, job: Job, clock: str) -> Floats:
        """Hour of day at each step by the standard or the household clock."""
        if clock == "standard":
            return standard_hour()
        return household_hour(job.time_zone, job.site.utc_offset_h)

    def low_band(self, job: Job) -> Bools:
        """Whether import is cheap in each step."""
        return self._of_job.get("low band", job, lambda: prices.low_band(self, job))

    def import_price(self, job: Job) -> Floats:
        """What a kWh from the grid costs in each step, shape (step,)."""
        return self._of_job.get("import price", job, lambda: prices.import_price(self, job))

    def export_price(self, job: Job) -> Floats:
        """What a kWh to the grid earns in each step, shape (step,)."""
        return self._of_job.get("export price", job, lambda: prices.export_price(self, job))

    def year(self, job: Job) -> Year:
        """The simulated year of a job."""
        return self._of_job.get("year", job, lambda: self._known_year(job))

    def _known_year(self, job: Job) -> Year:
        loads = tuple(
            (
                selectors.timetable(job, circuit),
                circuit.phase,
                circuit.surplus if circuit.role is Role.SURPLUS else None,
            )
            for circuit in job.circuits
        )
        limits = job.limits
        settings = (limits.windows, limits.device_clock, limits.mode, limits.keep_room, job.mains.grid,
                    netted(job), tuple(unit.exports for unit in job.units),
                    tuple(circuit.from_battery for circuit in job.circuits))  # fmt: skip
        key = (
            "year",
            self.sunlit.key(job),
            loads,
            selectors.energy_phases(job),
            self.converters(job),
            self.plans(job),
            settings,
            self._off_grid_key(job),
        )
        return self.memo.get(key, lambda: year_of(self, job, self.parts(job)))

    def _off_grid_key(self, job: Job) -> Hashable:
        """What a year without a grid rests on besides."""
        if job.mains.grid:
            return None
        islands = tuple((at.forming, at.following, at.circuits) for at in self.asked(job).islands)
        generators = tuple(part for part in job.parts if part.kind == "generator")
        shed = tuple((c.role, shed_level(job, c)) for c in job.circuits)
        return islands, generators, shed, tuple(unit.id for unit in job.units)

    def parts(self, job: Job) -> Parts:
        """What a year is made of, for one that exchanges some of it."""
        return Parts(self.converters(job), self.pv_dc_kw(job), self.plans(job))

    def figures(self, job: Job) -> YearFigures:
        """The year's energies, ratios and money."""
        year = self.year(job)
        rests_on = (
            year,
            job.tariff,
            job.limits,
            job.mains,
            job.units,
            job.banks,
            job.sheets,
            job.site,
            job.pack,
        )
        return self._of_job.get_of_all(
            "figures", rests_on, lambda: self.figures_of(job, year, self.converters(job))
        )

    def figures_of(self, job: Job, year: Year, converters: tuple[Converter, ...]) -> YearFigures:
        """The figures of a year of a job."""
        if not job.mains.grid:
            fuel = job.tariff.fuel_per_litre
            return year_figures(year, converters, NO_BILL, off_grid=True, fuel_per_litre=fuel)
        tariff = job.tariff
        money = bill(
            year.import_kw,
            paid_export_kw(year, job.limits.export_kw),
            load_kw=year.load_kw,
            price=self.import_price(job),
            export_price=self.export_price(job),
            standing_per_day=tariff.standing_per_day,
            days=year.load_kw.shape[1] / STEPS_PER_DAY,
            step_h=year.step_h,
            demand_price=tariff.demand_per_kw_month,
            months=month_of_step(),
        )
        return year_figures(year, converters, money, limit_kw=job.limits.export_kw)

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
        """What the units of a unit's island meet together in each step."""
        key, backed = self.island_key(job, unit), self.backed(job, unit)

        def of_role(role: Role) -> tuple[Circuit, ...]:
            return tuple(c for c in backed.circuits if c.role is role)

        return self.memo.get(key, lambda: self.island_with(job, unit, of_role(Role.HELD), of_role(Role.SHED)))

    def island_with(
        self, job: Job, unit: Unit, held: tuple[Circuit, ...], shed: tuple[Circuit, ...]
    ) -> records.OutageArrays:
        """What the units of a unit's island would meet with these circuits held, and those shed first."""
        backed = self.backed(job, unit)
        forming = self.members(job, unit)

        def series(circuits: tuple[Circuit, ...]) -> tuple[CircuitSeries, ...]:
            return tuple(
                CircuitSeries(self.circuit_kw(job, c), c.running_kva, c.start_kva, shed_level(job, c))
                for c in circuits
            )

        sun, converters = self.pv_dc_kw(job), self.converters(job)
        own_use = sum(job.sheet_of(other).own_use_kw for other in (*forming, *backed.following))
        follows = [job.units.index(other) for other in backed.following]
        taken = tuple(
            (selectors.timetable(job, c), c.running_kva, c.start_kva, shed_level(job, c))
            for c in (*held, *shed)
        )
        place = (selectors.place(job), job.site.weather)
        loads = self.memo.get(
            ("island loads", taken, len(held), own_use, place),
            lambda: island_loads(series(held), series(shed), own_use, sun.shape[1]),
        )
        able = [most_ac_kw(converters[at], sun[at]) for at in follows]
        own_sun = sun[[job.units.index(other) for other in forming]]
        return island_arrays(own_sun, loads, ac_sun=np.sum(able, axis=0) if able else None)

    def island_key(self, job: Job, unit: Unit) -> Hashable:
        """What a unit's island rests on."""
        backed = self.backed(job, unit)
        circuits = tuple(
            (selectors.timetable(job, c), c.role, c.running_kva, c.start_kva, shed_level(job, c))
            for c in backed.circuits
        )
        forming = self.members(job, unit)
        numbers = tuple(tuple(map(job.units.index, units)) for units in (forming, backed.following))
        sheets = tuple(job.sheet_of(other) for other in (*forming, *backed.following))
        return ("island", self.sunlit.key(job), circuits, numbers, sheets)

    def backed(self, job: Job, unit: Unit) -> Backed:
        """What a unit carries in an outage: the circuits of its island, and its share of them by rating."""
        return self._of_job.get(("backed", unit.id), job, lambda: backed_of(self.wiring(job), job, unit))

    def outage(self, job: Job, unit: Unit, moment: Moment) -> Outage:
        """An outage that begins at a moment, on a unit's island: all units of the island carry it
        together."""
        return run_outage(
            self.island(job, unit),
            self.island_units(job, unit),
            self.step(job, moment),
            np.array([self.energy_at(job, member, moment) for member in self.members(job, unit)]),
            generator=self.generator(job, unit),
        )

    def generator(self, job: Job, unit: Unit) -> Generator | None:
        """The generator that a unit of this unit's island starts by itself; None where none does."""
        hours = self.hours_by(job, job.limits.device_clock)
        return generator_of(job, self.members(job, unit), hours)

    def island_energy(self, job: Job, unit: Unit, moment: Moment) -> float:
        """Energy in all batteries of a unit's island at a moment, kWh."""
        return sum(self.energy_at(job, member, moment) for member in self.members(job, unit))

    def island_units(self, job: Job, unit: Unit, energy_only: bool = False) -> tuple[records.Island, ...]:
        """The units that form a unit's island, each with its own battery. Raises JobError where none has
        one."""
        self.joint(job, unit)
        converters = self.converters(job)
        members = (converters[job.units.index(each)] for each in self.members(job, unit))
        return islands_of(tuple(members), energy_only)

    def island_name(self, job: Job, unit: Unit) -> str:
        """The units of a unit's island, as people say them."""
        return " and ".join(member.name for member in self.members(job, unit))

    def members(self, job: Job, unit: Unit) -> tuple[Unit, ...]:
        """The units that form a unit's island."""
        return self.backed(job, unit).forming or (unit,)

    def forming(self, job: Job) -> tuple[Unit, ...]:
        """The first unit of each island, by which the island is known."""
        return tuple(unit for unit in job.units if self.backed(job, unit).forming[:1] == (unit,))

    def leads(self, job: Job) -> tuple[Unit, ...]:
        """Those of islands that carry circuits and have a battery."""
        together = [unit for unit in self.forming(job) if self._together(job, unit).battery is not None]
        return tuple(unit for unit in together if self.backed(job, unit).carries)

    def night(self, job: Job, unit: Unit, held: tuple[Circuit, ...] | None = None) -> Night:
        """The worst month's night of a unit's island as it stands, or if it held these circuits."""
        arrays = self.island(job, unit) if held is None else self.island_with(job, unit, held, ())
        percentile = 100 - job.pack.value("ride_through_percentile").value
        return night_of(arrays.held_kw, self.joint(job, unit), job.wishes.outage_h, percentile)

    def ride(self, job: Job, unit: Unit, reserve_soc: float | None = None) -> RideThrough:
        """How long the energy of the reserve alone lasts, from starts all over the year."""
        converter = self.joint(job, unit)
        assert converter.battery is not None
        capacity_kwh = converter.battery.capacity_kwh
        soc = job.limits.reserve_soc if reserve_soc is None else reserve_soc
        island = self.island_units(job, unit, energy_only=True)
        horizon_h = ride_horizon_h(job.wishes.outage_h)
        key = ("ride", self.island_key(job, unit), island, soc, horizon_h)
        return self.memo.get(
            key, lambda: ride_through(self.island(job, unit), island, soc * capacity_kwh, horizon_h)
        )

    def _together(self, job: Job, unit: Unit) -> Converter:
        converters = self.converters(job)
        return together(tuple(converters[job.units.index(each)] for each in self.members(job, unit)))

    def joint(self, job: Job, unit: Unit) -> Converter:
        """The units of a unit's island as one. Raises JobError where none of them has a battery."""
        converter = self._together(job, unit)
        if converter.battery is None:
            raise JobError(
                "has no battery, so it holds no outage", f"units {unit.id}", "give it a bank of modules"
            )
        return converter

    # --- wiring ----------------------------------------------------------------------------------
    def wiring(self, job: Job) -> Wiring:
        """The graph and its standard states."""
        return self._of_job.get("wiring", job, lambda: self._wiring(job))

    def routes(self, job: Job) -> dict[str, Route]:
        """The ways of the runs whose ends have places on the walls."""
        return self._of_job.get("routes", job, lambda: routes(job, self.wiring(job).topology))

    def asked(self, job: Job) -> Asked:
        """What lives in an outage, and what the transformers see."""
        return asked(self.wiring(job).topology)

    def _wiring(self, job: Job) -> Wiring:
        sheets = tuple(map(job.sheet_of, job.units))
        circuits = tuple(
            (c.id, c.name, c.role, c.phase, c.board, c.neutral_board, c.also_on) for c in job.circuits
        )
        placed = tuple(
            (face.id, face.name, tuple((m.string, m.optimiser) for m in face.modules)) for face in job.faces
        )
        key = ("wiring", job.site.phases, job.site.supply, job.mains, circuits, job.units, job.banks,
               placed, job.strings, job.wiring, job.parts,
               job.adjustments, sheets, job.pack.name,
               job.pack.values.get("isolators_open_neutral"))  # fmt: skip

        def make() -> Wiring:
            return Wiring(build(job))

        return self.memo.get(key, make)
