"""All that the window shows of a job at a moment, computed on a snapshot."""

from dataclasses import dataclass, field

import numpy as np

from lodestaff.checks import Finding
from lodestaff.checks.shade import ShadedModule
from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY, Floats, daylight_saving
from lodestaff.energy.night import by_month, evening_need_kwh
from lodestaff.energy.outage import Outage
from lodestaff.job import Circuit, Job
from lodestaff.reckoning.back_again import BackAgain, back_again
from lodestaff.reckoning.figures import YearFigures
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.flows import DayFlows, day_flows
from lodestaff.reckoning.moment import Moment, day_of
from lodestaff.reckoning.night_charge import CheapHours, cheap_hours
from lodestaff.reckoning.promise import promise_cost
from lodestaff.reckoning.put_over import HandOutage, outages_by_hand
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.shade import shaded_modules
from lodestaff.reckoning.selectors import timetable


@dataclass(frozen=True)
class OutageView:
    """An outage of one island at the moment, and how it would go without an end of its own."""

    unit: str
    outage: Outage
    start_kwh: float
    capacity_kwh: float
    floor_soc: float
    after: BackAgain | None  # an empty battery
    soc: Floats  # through the night ahead: one value per step from the moment on, at most 24 h


@dataclass(frozen=True)
class Results:
    """Figures, findings, flows and outages of a job at a moment. `deep` says whether remedies are costed."""

    job: Job
    moment: Moment
    deep: bool
    figures: YearFigures
    findings: tuple[Finding, ...]
    flows: DayFlows
    outages: tuple[OutageView, ...]
    night_kwh: dict[str, float] = field(
        default_factory=dict
    )  # circuit id -> from late afternoon through the wanted hours
    soc_now: float = 0.0
    sun_day_kw: Floats = field(default_factory=lambda: np.zeros(STEPS_PER_DAY))
    promise_soc: float | None = (
        None  # the reserve that keeps the promised hours; None: not asked, or none does
    )
    promise_cost: float | None = None  # what that reserve costs a year
    sun_by_unit: tuple[
        tuple[str, float], ...
    ] = ()  # unit's name and the DC energy of its array in a year, kWh
    by_hand: tuple[HandOutage, ...] = ()  # with a switch put over
    modules: dict[str, ShadedModule] = field(default_factory=dict)  # by its path: its year, each alone
    cheap_hours: CheapHours | None = None  # None: no hours are cheaper than others

    def lasts_h(self) -> float | None:
        """The shortest outage among the islands; None where there is none."""
        return min((view.outage.hours for view in self.outages), default=None)


def compute(
    reckoner: Reckoner,
    job: Job,
    moment: Moment,
    deep: bool = True,
    with_promise: bool = False,
    stations: frozenset[str] | None = None,
) -> Results:
    """Compute everything for the window; a try-out asks for the findings of the stations in view only.

    Raises JobError where the job can't be computed.
    """
    figures = reckoner.figures(job)
    year = reckoner.year(job)
    converters = reckoner.converters(job)
    day = day_of(moment, reckoner.weather(job).ghi_w_m2)
    midnight = (day + 1) * STEPS_PER_DAY % STEPS
    summer = bool(daylight_saving(job.time_zone, job.site.utc_offset_h)[midnight])
    flows = day_flows(year, converters, day, summer)
    outages = tuple(_outages(reckoner, job, moment))
    backed = next(iter(reckoner.leads(job)), None) if job.mains.grid else None
    promise = promise_cost(reckoner, job, backed) if with_promise and backed else (None, None)
    steps = slice(day * STEPS_PER_DAY, (day + 1) * STEPS_PER_DAY)
    sun = reckoner.pv_dc_kw(job)[:, steps].sum(axis=0)
    return Results(
        job=job,
        moment=moment,
        deep=deep,
        figures=figures,
        findings=findings(reckoner, job, deep, stations=stations),
        flows=flows,
        outages=outages,
        by_hand=outages_by_hand(reckoner, job, moment),
        night_kwh=_nights(reckoner, job, moment),
        soc_now=soc_at(reckoner, job, moment),
        sun_day_kw=sun,
        promise_soc=promise[0],
        promise_cost=promise[1],
        sun_by_unit=tuple(
            (unit.name, float(row.sum() * STEP_H))
            for unit, row in zip(job.units, year.series.pv_dc_kw, strict=True)
            if job.sheet_of(unit).trackers
        ),
        modules=_modules(reckoner, job) if deep else {},
        cheap_hours=cheap_hours(reckoner, job),
    )


def _modules(reckoner: Reckoner, job: Job) -> dict[str, ShadedModule]:
    """The year of each module by itself, in its shade."""
    return {module.path: module for face in job.faces for module in shaded_modules(reckoner, job, face)}


def _outages(reckoner: Reckoner, job: Job, moment: Moment) -> list[OutageView]:
    views = []
    for unit in reckoner.leads(job):
        bank = reckoner.joint(job, unit).battery
        assert bank is not None
        outage, start = reckoner.outage(job, unit, moment), reckoner.island_energy(job, unit, moment)
        line = np.concatenate([[start], outage.energy_kwh[: round(24 / STEP_H)]]) / bank.capacity_kwh
        views.append(
            OutageView(
                reckoner.island_name(job, unit),
                outage,
                start_kwh=start,
                capacity_kwh=bank.capacity_kwh,
                floor_soc=bank.floor_soc,
                after=back_again(reckoner, job, unit, outage),
                soc=line,
            )
        )
    return views


def soc_at(reckoner: Reckoner, job: Job, moment: Moment) -> float:
    """State of charge of all batteries together at a moment; 0 where there is none."""
    banks = [
        (unit, converter.battery)
        for unit, converter in zip(job.units, reckoner.converters(job), strict=True)
        if converter.battery
    ]
    capacity = sum(bank.capacity_kwh for _, bank in banks)
    return sum(reckoner.energy_at(job, unit, moment) for unit, _ in banks) / capacity if capacity else 0.0


def _nights(reckoner: Reckoner, job: Job, moment: Moment) -> dict[str, float]:
    """Mean energy of each circuit from late afternoon through the wanted hours, in the moment's month."""
    hours, month = job.wishes.outage_h, moment.month - 1
    nights = {}
    for circuit in job.circuits:

        def mean(circuit: Circuit = circuit) -> float:
            return float(by_month(evening_need_kwh(reckoner.circuit_kw(job, circuit), hours))[month])

        key = ("night", month, hours, timetable(job, circuit), job.site.weather if circuit.climate else None)
        nights[circuit.id] = reckoner.memo.get(key, mean)
    return nights
