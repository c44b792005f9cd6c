"""From the job to the small frozen records that figures take; each record is its figure's cache key."""

from functools import lru_cache

import numpy as np

from lodestaff.catalogue import BatterySheet, HybridSheet
from lodestaff.energy.calendar import STEPS_PER_DAY, Floats, month_of_step
from lodestaff.energy.dispatch import Battery, Converter, loss_curve
from lodestaff.energy.horizon import Points, seen_from
from lodestaff.energy.loads import Timetable
from lodestaff.energy.sun import Place, sun_over_year
from lodestaff.energy.surplus import SurplusLoad
from lodestaff.energy.synthetic import Climate
from lodestaff.energy.weather import Weather as WeatherYear
from lodestaff.job import Bank, Circuit, FileWeather, Job, SyntheticWeather, Unit


def place(job: Job) -> Place:
    site = job.site
    return Place(site.latitude_deg, site.longitude_deg, site.altitude_m, site.utc_offset_h)


def horizon(job: Job) -> Points:
    return tuple((point.azimuth_deg, point.elevation_deg) for point in job.site.horizon)


def sky(job: Job) -> tuple[Place, Points, SyntheticWeather | FileWeather]:
    """What the sun on any face rests on."""
    return place(job), horizon(job), job.site.weather


def seen(job: Job, weather: WeatherYear) -> WeatherYear:
    """A year of weather as the place behind its horizon has it."""
    return seen_from(horizon(job), sun_over_year(place(job)), weather)


def climate(weather: SyntheticWeather) -> Climate:
    return Climate(
        weather.clearness,
        weather.temperature_low_c,
        weather.temperature_high_c,
        weather.wind_m_s,
        weather.seed,
    )


def timetable(job: Job, circuit: Circuit) -> Timetable:
    return Timetable(
        circuit.id,
        circuit.running_w / 1000,
        kwh_year=circuit.kwh_year,
        event_minutes=circuit.event_minutes,
        weekday=circuit.weekday,
        weekend=circuit.weekend,
        months=circuit.months,
        daylight_saving=job.time_zone,
        utc_offset_h=job.site.utc_offset_h,
        seed=getattr(job.site.weather, "seed", 1),
        climate=None
        if circuit.climate is None
        else (circuit.climate.kind, circuit.climate.balance_c, circuit.climate.share),
    )


def battery(job: Job, bank: Bank, sheet: BatterySheet, unit: HybridSheet) -> Battery:
    """The bank behind its unit's DC/DC converter: powers are the least of modules, unit and setting."""
    nominal_kwh = bank.modules * sheet.module_kwh
    one_way = sheet.eta_round_trip**0.5 * unit.eta_dcdc
    return Battery(
        capacity_kwh=nominal_kwh * bank.state_of_health,
        floor_soc=sheet.floor_soc,
        reserve_soc=job.limits.reserve_soc
        if job.mains.grid
        else sheet.floor_soc,  # kept for an outage of the grid
        top_soc=sheet.top_soc,
        charge_kw=min(unit.charge_kw, nominal_kwh * sheet.charge_c_per_h, job.told_charge_kw(bank)),
        discharge_kw=min(
            unit.discharge_kw, nominal_kwh * sheet.discharge_c_per_h, job.told_discharge_kw(bank)
        ),
        eta_charge=one_way,
        eta_discharge=one_way,
        taper_start_soc=sheet.taper_start_soc,
        taper_end_share=sheet.taper_end_share,
    )


def energy_phases(job: Job) -> tuple[tuple[str, ...], ...]:
    """The phases that energy is balanced on: legs of 120/240 V that a unit stands across are one, for its
    power is on both."""
    across = tuple(unit.legs for unit in job.units) if job.mains.system == "120/240 V" else ()
    return _joined(job.site.phases, across)


@lru_cache(maxsize=64)
def _joined(phases: tuple[str, ...], across: tuple[tuple[str, ...], ...]) -> tuple[tuple[str, ...], ...]:
    groups = [{phase} for phase in phases]
    for legs in across:
        touched = [group for group in groups if group & set(legs)]
        groups = [group for group in groups if not group & set(legs)] + [set().union(*touched)]
    ordered = sorted(groups, key=lambda group: min(phases.index(phase) for phase in group))
    return tuple(tuple(phase for phase in phases if phase in group) for group in ordered)


def phase_index(job: Job, leg: str) -> int:
    """Which of the energy phases a leg belongs to."""
    return next(index for index, group in enumerate(energy_phases(job)) if leg in group)


def converters(job: Job) -> tuple[Converter, ...]:
    """One converter per unit, in the job's order."""
    return tuple(converter(job, unit, job.sheet_of(unit), job.bank_of(unit)) for unit in job.units)


def converter(job: Job, unit: Unit, sheet: HybridSheet, bank: Bank | None) -> Converter:
    """A unit with a sheet and a bank, its own or others, as the year takes it."""
    k1, k2 = loss_curve(sheet.efficiency, sheet.rated_kw, sheet.own_use_kw)
    rows = tuple(dict.fromkeys(phase_index(job, leg) for leg in unit.legs))
    return Converter(
        phase=rows[0],
        also=rows[1:],
        unequal=sheet.feeds_unequal is True,
        rated_kw=sheet.rated_kw,
        rated_kva=sheet.rated_kva,
        surge_kva=sheet.surge_kva,
        k1=k1,
        k2=k2,
        own_use_kw=sheet.own_use_kw,
        pv_max_kw=sheet.max_dc_kw,
        battery=battery(job, bank, job.sheets.batteries[bank.sheet], sheet) if bank else None,
        ac_charge=bank is not None,
    )


def surplus_load(job: Job, circuit: Circuit, usual_kw: Floats) -> SurplusLoad:
    """A circuit that takes surplus only, as the year takes it: its need spread over its months."""
    days = np.array(circuit.months)[month_of_step()[::STEPS_PER_DAY]]
    return SurplusLoad(
        phase_index(job, circuit.legs[0]),
        circuit.running_w / 1000,
        start_kw=circuit.surplus.start_kw,
        stop_kw=circuit.surplus.stop_kw,
        min_soc=circuit.surplus.min_soc,
        need_kwh=circuit.kwh_year * days / max(days.sum(), 1e-9),
        usual_kw=usual_kw,
        top_up=circuit.surplus.top_up,
    )
