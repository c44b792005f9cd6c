"""From the job to the small frozen records that figures take; each record is its figure's cache key."""

from lodestaff.catalogue import BatterySheet, HybridSheet
from lodestaff.energy.array import FAIMAN, Plane
from lodestaff.energy.dispatch import Battery, Converter, loss_curve
from lodestaff.energy.loads import Timetable
from lodestaff.energy.sun import Place
from lodestaff.energy.synthetic import Climate
from lodestaff.job import Bank, Circuit, Job, Unit
from lodestaff.job.model import SyntheticWeather


def place(job: Job) -> Place:
    site = job.site
    return Place(site.latitude_deg, site.longitude_deg, site.altitude_m, site.utc_offset_h)


def climate(weather: SyntheticWeather) -> Climate:
    return Climate(
        weather.clearness,
        weather.temperature_low_c,
        weather.temperature_high_c,
        weather.wind_m_s,
        weather.seed,
    )


def planes(job: Job, unit: Unit) -> tuple[Plane, ...]:
    """One plane per face of the unit."""
    result = []
    for face in job.faces:
        if face.unit == unit.id:
            module = job.sheets.modules[face.module]
            u0, u1 = FAIMAN[face.mounting]
            result.append(
                Plane(
                    face.tilt_deg,
                    face.azimuth_deg,
                    module.pmp_w * face.count / 1000,
                    module.gamma_pmp_pct_per_k,
                    u0,
                    u1,
                )
            )
    return tuple(result)


def timetable(job: Job, circuit: Circuit) -> Timetable:
    return Timetable(
        circuit.id,
        circuit.running_w / 1000,
        circuit.kwh_year,
        circuit.event_minutes,
        circuit.weekday,
        circuit.weekend,
        circuit.months,
        job.pack.daylight_saving,
        job.site.utc_offset_h,
        getattr(job.site.weather, "seed", 1),
    )


def battery(job: Job, bank: Bank, sheet: BatterySheet, unit: HybridSheet) -> Battery:
    """The bank behind its unit's DC/DC converter: powers are the least of modules, unit and setting."""
    nominal_kwh = bank.modules * sheet.module_kwh
    one_way = sheet.eta_round_trip**0.5 * unit.eta_dcdc
    return Battery(
        capacity_kwh=nominal_kwh * bank.state_of_health,
        floor_soc=sheet.floor_soc,
        reserve_soc=job.limits.reserve_soc,
        top_soc=sheet.top_soc,
        charge_kw=min(unit.charge_kw, nominal_kwh * sheet.charge_c_per_h, job.limits.charge_kw),
        discharge_kw=min(unit.discharge_kw, nominal_kwh * sheet.discharge_c_per_h, job.limits.discharge_kw),
        eta_charge=one_way,
        eta_discharge=one_way,
        taper_start_soc=sheet.taper_start_soc,
        taper_end_share=sheet.taper_end_share,
    )


def converters(job: Job) -> tuple[Converter, ...]:
    """One converter per unit, in the job's order."""
    result = []
    for unit in job.units:
        sheet, bank = job.hybrid_of(unit), job.bank_of(unit)
        k1, k2 = loss_curve(sheet.efficiency, sheet.rated_kw, sheet.own_use_kw)
        result.append(
            Converter(
                phase=job.site.phases.index(unit.phase),
                rated_kw=sheet.rated_kw,
                rated_kva=sheet.rated_kva,
                surge_kva=sheet.surge_kva,
                k1=k1,
                k2=k2,
                own_use_kw=sheet.own_use_kw,
                pv_max_kw=sheet.max_dc_kw,
                battery=battery(job, bank, job.sheets.batteries[bank.sheet], sheet) if bank else None,
            )
        )
    return tuple(result)
