"""Records for the checks of Loads, Limits and bonds."""

from collections.abc import Iterator

import numpy as np

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Remedy, soft
from lodestaff.checks.limits import Export, ExportByPhase, Import, Reserve
from lodestaff.checks.loads import Care, HeldEnergy, HeldLoad, LockOut
from lodestaff.checks.wire import Bonds
from lodestaff.commissioning.shares import shares, zero_band_kw
from lodestaff.electrical.permission import SUM_SYSTEMS
from lodestaff.electrical.split import derating
from lodestaff.energy.battery import bank_energies
from lodestaff.energy.calendar import MONTH_NAMES, STEPS_PER_DAY, moment_of, month_of_step
from lodestaff.energy.dispatch import Converter
from lodestaff.job import Change, Job, Role, Unit, edit
from lodestaff.job.plan import Transformer
from lodestaff.quantities import text_of
from lodestaff.quantities.units import clock
from lodestaff.reckoning.by_leg import leg_import_kw
from lodestaff.reckoning.reckoner import Reckoner, evening_need_kwh
from lodestaff.topology import Topology
from lodestaff.topology.questions import led

LATE_AFTERNOON_H = 17.0


def _value(job: Job, name: str) -> PackValue:
    return job.pack.value(name)


def held_loads(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[HeldLoad]:
    for unit in job.units:
        sheet, backed = job.sheet_of(unit), reckoner.backed(job, unit)
        if backed.forming[:1] != (unit,):
            continue
        together = backed.forming
        ambient = unit.ambient_max_c
        share = derating(
            ambient.value if ambient.value is not None else 25.0,
            job.site.altitude_m,
            sheet.derate_from_c,
            sheet.derate_pct_per_k,
            sheet.derate_from_m,
        )
        held = tuple(c for c in backed.circuits if c.role is Role.HELD)
        words = (
            f"place up to {text_of(ambient.value, '°C')} ({ambient.words()}), {job.site.altitude_m:g} m"
            if ambient.value is not None
            else "ambient unknown"
        )
        open_because = soft(**{f"hottest_place_of_{unit.name}": ambient})
        if sheet.derate_from_c is None:
            open_because += ("the sheet gives no derating",)
        for c in held:
            open_because += soft(**{f"running_power_of_{c.name}": c.known})
        sheets = [job.sheet_of(one) for one in together]
        yield HeldLoad(
            " and ".join(one.name for one in together),
            unit.phase,
            held,
            sum(one.rated_kw for one in sheets),
            sum(one.rated_kva for one in sheets),
            sum(one.surge_kva for one in sheets),
            sheet.surge_s,
            share,
            words,
            _value(job, "continuous_margin_share"),
            _value(job, "surge_margin_share"),
            open_because,
            unit.id,
        )


def _with_batteries(reckoner: Reckoner, job: Job) -> Iterator[tuple[Unit, Converter]]:
    """The first unit of each island that carries circuits, and the island's units as one."""
    for unit in reckoner.leads(job):
        yield unit, reckoner.joint(job, unit)


def held_energies(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[HeldEnergy]:
    percent = _value(job, "ride_through_percentile").value
    months = month_of_step()[::STEPS_PER_DAY]
    for unit, converter in _with_batteries(reckoner, job):
        bank = converter.battery
        assert bank is not None
        nights = evening_need_kwh(reckoner.island(job, unit).held_kw, LATE_AFTERNOON_H, job.wishes.outage_h)
        needs = [float(np.percentile(nights[months == month], 100 - percent)) for month in range(12)]
        worst = int(np.argmax(needs))
        mean_kw = needs[worst] / job.wishes.outage_h
        inverter = mean_kw / (mean_kw + converter.k1 * mean_kw + converter.k2 * mean_kw**2) if mean_kw > 0 else 1.0
        share = bank.eta_discharge * inverter
        energies = bank_energies(bank.capacity_kwh, 1.0, bank.floor_soc, bank.top_soc, bank.reserve_soc, share)
        free = [c for c in reckoner.backed(job, unit).circuits
                if c.role is Role.HELD and not c.wish and c.care == "none"]  # fmt: skip
        largest = max(free, key=lambda c: c.kwh_year, default=None)
        yield HeldEnergy(
            reckoner.island_name(job, unit),
            job.wishes.outage_h,
            LATE_AFTERNOON_H,
            needs[worst],
            MONTH_NAMES[worst],
            energies.cycling_ac_kwh,
            bank.capacity_kwh,
            bank.reserve_soc,
            bank.top_soc,
            share,
            largest,
            100 - percent,
            soft(wanted_hours=job.wishes.known),
            "reserve" if job.mains.grid else "floor",
            unit.id,
        )


def lock_outs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[LockOut]:
    yield LockOut(job.circuits)


def cares(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Care]:
    yield Care(job.circuits, job.pack.caution("not_emergency"))


def bonds(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Bonds]:
    wiring = reckoner.wiring(job)
    states = tuple((found.state.name, found.networks) for found in wiring.answers)
    relay = all(job.sheet_of(unit).bond_relay for unit in job.units)
    yield Bonds(
        states,
        _value(job, "bonds_per_network"),
        job.pack.word("bond"),
        job.pack.word("residual_current_device"),
        relay,
        soft(earthing_arrangement=job.site.supply.earthing),
    )


def exports(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Export]:
    if not job.mains.grid:
        return
    permission, topology = job.site.permission, reckoner.wiring(job).topology
    keeping = {name for one in led(topology) if one.ct is not None for name in one.units}
    free = tuple((unit.name, job.sheet_of(unit).rated_kw) for unit in job.units
                 if unit.id not in keeping and topology.unit(unit.id).arrays)  # fmt: skip
    on_loss = {job.sheet_of(unit).on_meter_loss for unit in job.units if unit.id in keeping}
    worst = next((word for word in ("export goes on", "not stated") if word in on_loss), "export stops")
    yield Export(
        job.limits.export_kw,
        permission.export_kw.value,
        permission.state,
        job.pack.word("permission"),
        _value(job, "meter_error_share"),
        worst,
        soft(permitted_export=permission.export_kw),
        free,
        zero_band_kw(job, tuple(keeping)),
        _follows(job, topology, keeping),
    )


def _follows(job: Job, topology: Topology, keeping: set[str]) -> tuple[Remedy, ...]:
    """That units which make sun keep the limit of the transformer on the supply: for whoever has the maker's word."""
    whole = next((one for one in job.parts if isinstance(one, Transformer) and one.proves_limit), None)
    if whole is None:
        return ()
    free = [unit for unit in job.units if unit.id not in keeping and topology.unit(unit.id).arrays]
    names = " and ".join(unit.name for unit in free)
    follow = [*whole.obeyed_by, *(unit.id for unit in free)]
    return (Remedy(f"Note that {names} follow{'s' if len(free) == 1 else ''} {whole.name}, by the maker's statement",
                   (Change(f"parts/{whole.id}/obeyed_by", follow),)),) if free else ()  # fmt: skip


def exports_by_phase(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[ExportByPhase]:
    """For units that stand on different phases."""
    phases = job.site.phases
    if not job.mains.grid or len(phases) < 2 or len({unit.legs for unit in job.units}) < 2:
        return
    made = tuple(
        sum(job.sheet_of(unit).rated_kw / len(unit.legs) for unit in job.units if phase in unit.legs)
        for phase in phases
    )
    used = tuple(
        sum(float(np.percentile(reckoner.circuit_kw(job, c), 5)) / len(c.legs) for c in job.circuits
            if phase in c.legs and c.role is not Role.SURPLUS)
        for phase in phases
    )  # fmt: skip
    permission = job.site.permission
    notify = _value(job, "notify_a_per_phase").value * _value(job, "nominal_v").value / 1000
    held = permission.parallel_kva.value if permission.parallel_state == "granted" else None
    yield ExportByPhase(phases, made, used, max(notify, held or 0.0), job.limits.export_kw)


def imports(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Import]:
    if not job.mains.grid:
        return
    year, by_leg = reckoner.year(job), leg_import_kw(reckoner, job)
    leg, step = np.unravel_index(int(np.argmax(by_leg)), by_leg.shape)
    day, hour = moment_of(int(step))
    topology = reckoner.wiring(job).topology
    banked = {bank.unit for bank in job.banks}
    free = [name for one in led(topology) if one.ct is None for name in one.units if name in banked]
    share = shares(job, topology)
    charging = float(np.clip(-year.series.battery_ac_kw[:, step], 0, None).sum())
    yield Import(
        job.limits.import_kw,
        job.site.supply.rating_a.value,
        _value(job, "nominal_v"),
        len(job.site.phases),
        float(by_leg[leg, step]),
        f"{day.day} {MONTH_NAMES[day.month - 1]} {clock(hour)}",
        charging,
        soft(service_rating=job.site.supply.rating_a),
        "leg" if job.mains.system in SUM_SYSTEMS else "phase",
        job.site.phases[leg] if len(job.site.phases) > 1 else "",
        sum(share[name].charge_kw for name in free),
        " and ".join(unit.name for unit in job.units if unit.id in free),
    )


def reserves(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Reserve]:
    percent = _value(job, "ride_through_percentile")
    if not job.mains.grid:
        return  # no reserve is kept for the outage of a grid that isn't there
    for unit, _ in _with_batteries(reckoner, job):
        ride = reckoner.ride(job, unit)
        month, hours = ride.worst(percent.value)
        better, cost = None, None
        if deep and hours < job.wishes.outage_h:
            better, cost = promise_cost(reckoner, job, unit)
        yield Reserve(
            job.limits.reserve_soc,
            job.wishes.outage_h,
            month,
            hours,
            ride.horizon_h,
            percent,
            tuple(ride.percentile_h(number, percent.value) for number in range(12)),
            better,
            job.limits.shed_soc,
            cost,
            job.tariff.currency,
            soft(promised_hours=job.wishes.known),
            unit.id,
        )


def promise_cost(reckoner: Reckoner, job: Job, unit: Unit) -> tuple[float | None, float | None]:
    """The reserve that keeps the promised hours, and what it costs a year against the present one."""
    needed = reckoner.promised_reserve(job, unit)
    if needed is None:
        return None, None
    kept = edit(job, Change("limits/reserve_soc", needed), Change("limits/shed_soc", max(needed, job.limits.shed_soc)))
    return needed, reckoner.figures(kept).bill - reckoner.figures(job).bill
