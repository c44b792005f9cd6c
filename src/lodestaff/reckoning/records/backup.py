"""Records for the checks of Loads, Limits and bonds."""

from collections.abc import Iterator

import numpy as np

from lodestaff.checks.finding import Remedy, cure, soft
from lodestaff.checks.limits import Export, ExportByPhase, Import, OwnLimit, Reserve
from lodestaff.checks.loads import Care, HeldEnergy, HeldLoad, LockOut
from lodestaff.checks.prices import Prices
from lodestaff.checks.wire import Bonds, GeneratorNeutral
from lodestaff.commissioning.shares import shares, site_export_kw, site_import_kw, zero_band_kw
from lodestaff.electrical.meter_error import export_meter_error
from lodestaff.electrical.permission import SUM_SYSTEMS
from lodestaff.electrical.split import derating
from lodestaff.energy.calendar import moment_words
from lodestaff.energy.dispatch import Converter
from lodestaff.job import Job, Role, Unit
from lodestaff.job.plan import Generator, Transformer
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.by_leg import leg_import_kw
from lodestaff.reckoning.promise import promise_cost
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.topology import Topology
from lodestaff.topology.questions import led


@makes
def held_loads(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[HeldLoad]:
    for unit in reckoner.forming(job):
        sheet, backed, ambient = job.sheet_of(unit), reckoner.backed(job, unit), unit.ambient_max_c
        share = derating(
            ambient_c=ambient.value if ambient.value is not None else 25.0,
            altitude_m=job.site.altitude_m,
            from_c=sheet.derate_from_c,
            pct_per_k=sheet.derate_pct_per_k,
            from_m=sheet.derate_from_m,
        )
        held = tuple(c for c in backed.circuits if c.role is Role.HELD)
        words = "ambient unknown"
        if ambient.value is not None:
            words = (
                f"place up to {text_of(ambient.value, '°C')} ({ambient.words()}), "
                f"{plain(job.site.altitude_m)} m"
            )
        silent = ("the sheet gives no derating",) if sheet.derate_from_c is None else ()
        facts = {f"hottest_place_of_{unit.name}": ambient}
        powers = {f"running_power_of_{c.name}": c.known for c in held}
        sheets = [job.sheet_of(unit) for unit in backed.forming]
        yield HeldLoad(
            owner=unit.id,
            unit=" and ".join(unit.name for unit in backed.forming),
            phase=unit.phase,
            circuits=held,
            rated_kw=sum(sheet.rated_kw for sheet in sheets),
            rated_kva=sum(sheet.rated_kva for sheet in sheets),
            surge_kva=sum(sheet.surge_kva for sheet in sheets),
            surge_s=sheet.surge_s,
            rated_share=share,
            derating_words=words,
            continuous_margin=job.pack.value("continuous_margin_share"),
            surge_margin=job.pack.value("surge_margin_share"),
            soft_facts=soft(**facts) + silent + soft(**powers),
        )


def _with_batteries(reckoner: Reckoner, job: Job) -> Iterator[tuple[Unit, Converter]]:
    """The first unit of each island that carries circuits, and the island's units as one."""
    for unit in reckoner.leads(job):
        yield unit, reckoner.joint(job, unit)


@makes
def held_energies(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[HeldEnergy]:
    for unit, converter in _with_batteries(reckoner, job):
        bank, night = converter.battery, reckoner.night(job, unit)
        assert bank is not None
        free = [
            c
            for c in reckoner.backed(job, unit).circuits
            if c.role is Role.HELD and not c.wish and c.care == "none"
        ]
        yield HeldEnergy(
            owner=unit.id,
            night=night,
            capacity_kwh=bank.capacity_kwh,
            reserve_soc=bank.reserve_soc,
            top_soc=bank.top_soc,
            largest=max(free, key=lambda c: c.kwh_year, default=None),
            soft_facts=soft(wanted_hours=job.wishes.known),
            above="reserve" if job.mains.grid else "floor",
        )


@makes
def lock_outs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[LockOut]:
    if reckoner.asked(job).has_backup:
        yield LockOut(job.circuits)


@makes
def cares(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Care]:
    yield Care(job.circuits, job.pack.caution("not_emergency"))


@makes
def bonds(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Bonds]:
    yield Bonds(
        states=tuple((answer.state.name, answer.networks) for answer in reckoner.wiring(job).answers),
        per_network=job.pack.value("bonds_per_network"),
        bond_word=job.pack.word("bond"),
        rcd_word=job.pack.word("residual_current_device"),
        unit_has_relay=all(job.sheet_of(unit).bond_relay for unit in job.units),
        soft_facts=soft(earthing_arrangement=job.site.supply.earthing),
        generators=tuple(
            GeneratorNeutral(part.id, part.name, bonded=part.bonded, earthed=part.neutral_earthed)
            for part in job.parts
            if isinstance(part, Generator)
        ),
    )


@makes
def exports(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Export]:
    if not job.mains.grid:
        return
    permission, topology = job.site.permission, reckoner.wiring(job).topology
    keeping = {name for group in led(topology) if group.ct is not None for name in group.units}
    free = _free(job, topology, keeping)
    on_loss = {job.sheet_of(unit).on_meter_loss for unit in job.units if unit.id in keeping}
    worst = next((word for word in ("export goes on", "not stated") if word in on_loss), "export stops")
    yield Export(
        setting_kw=job.limits.export_kw,
        permission_kw=permission.export_kw.value,
        state=permission.state,
        permission_word=job.pack.word("permission"),
        meter_error=export_meter_error(job),
        on_meter_loss=worst,
        soft_facts=soft(permitted_export=permission.export_kw),
        free=tuple((unit.name, job.sheet_of(unit).rated_kw) for unit in free),
        band=zero_band_kw(job, tuple(keeping)),
        cures=_follows(job, free),
    )


def _free(job: Job, topology: Topology, keeping: set[str]) -> list[Unit]:
    """Units that make sun and keep no limit."""
    return [unit for unit in job.units if unit.id not in keeping and topology.unit(unit.id).arrays]


def _follows(job: Job, free: list[Unit]) -> tuple[Remedy, ...]:
    """That free units keep the limit of the transformer on the supply: for whoever has the maker's word."""
    whole = next((part for part in job.parts if isinstance(part, Transformer) and part.proves_limit), None)
    if whole is None or not free:
        return ()
    names = f"{' and '.join(unit.name for unit in free)} follow{'s' if len(free) == 1 else ''}"
    follow = [*whole.obeyed_by, *(unit.id for unit in free)]
    return cure(
        f"Note that {names} {whole.name}, by the maker's statement", f"parts/{whole.id}/obeyed_by", follow
    )


@makes
def exports_by_phase(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[ExportByPhase]:
    """For units that stand on different phases."""
    phases, permission = job.site.phases, job.site.permission
    if not job.mains.grid or len(phases) < 2 or len({unit.legs for unit in job.units}) < 2:
        return
    loads = [c for c in job.circuits if c.role is not Role.SURPLUS]
    least = {c.id: float(np.percentile(reckoner.circuit_kw(job, c), 5)) / len(c.legs) for c in loads}
    each = {unit.id: job.sheet_of(unit).rated_kw / len(unit.legs) for unit in job.units}
    notify = job.pack.value("notify_a_per_phase").value * job.pack.value("nominal_v").value / 1000
    held = permission.parallel_kva.value if permission.parallel_state == "granted" else None
    yield ExportByPhase(
        phases=phases,
        available_kw=tuple(sum(each[unit.id] for unit in job.units if leg in unit.legs) for leg in phases),
        load_kw=tuple(sum(least[c.id] for c in loads if leg in c.legs) for leg in phases),
        per_phase_kw=max(notify, held or 0.0),
        total_kw=job.limits.export_kw,
    )


@makes
def own_limits(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[OwnLimit]:
    """What units are told of their own, export by the transformers that keep it."""
    if not job.mains.grid or not any(unit.export_kw is not None or unit.import_kw for unit in job.units):
        return
    told = shares(job, reckoner.wiring(job).topology)
    sites = {"export": site_export_kw(job), "import": site_import_kw(job)}
    for unit in job.units:
        for what, own in (("export", unit.export_kw), ("import", unit.import_kw)):
            if own is None:
                continue
            parted = told[unit.id].split and what == "export"
            groups = {share.led.units: share.export_kw or 0.0 for share in told.values() if share.obeys}
            total = sum(groups.values()) if parted else None
            yield OwnLimit(unit.id, unit.name, what, own_kw=own, site_kw=sites[what], together_kw=total)


@makes
def imports(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Import]:
    if not job.mains.grid:
        return
    year, by_leg = reckoner.year(job), leg_import_kw(reckoner, job)
    leg, step = np.unravel_index(int(np.argmax(by_leg)), by_leg.shape)
    topology = reckoner.wiring(job).topology
    banked = {bank.unit for bank in job.banks}
    free = [name for group in led(topology) if group.ct is None for name in group.units if name in banked]
    share = shares(job, topology)
    yield Import(
        limit_kw=job.limits.import_kw,
        fuse_a=job.site.supply.rating_a.value,
        nominal=job.pack.value("nominal_v"),
        phases=len(job.site.phases),
        peak_kw=float(by_leg[leg, step]),
        peak_when=moment_words(int(step)),
        charge_then_kw=float(np.clip(year.series.battery_ac_kw[:, step], 0, None).sum()),
        soft_facts=soft(service_rating=job.site.supply.rating_a),
        peak_facts=soft(place=job.site.place_known),
        leg_word="leg" if job.mains.system in SUM_SYSTEMS else "phase",
        leg=job.site.phases[leg] if len(job.site.phases) > 1 else "",
        free_kw=sum(share[name].charge_kw for name in free),
        free=" and ".join(unit.name for unit in job.units if unit.id in free),
    )


@makes
def reserves(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Reserve]:
    percent, promised = job.pack.value("ride_through_percentile"), job.wishes.outage_h
    if not job.mains.grid:
        return  # no reserve is kept for the outage of a grid that isn't there
    for unit, _ in _with_batteries(reckoner, job):
        ride = reckoner.ride(job, unit)
        month, hours = ride.worst(percent.value)
        better, cost = promise_cost(reckoner, job, unit) if deep and hours < promised else (None, None)
        yield Reserve(
            owner=unit.id,
            reserve_soc=job.limits.reserve_soc,
            promised_h=promised,
            worst_month=month,
            worst_h=hours,
            horizon_h=ride.horizon_h,
            percentile=percent,
            by_month_h=tuple(ride.percentile_h(number, percent.value) for number in range(12)),
            better_soc=better,
            shed_soc=job.limits.shed_soc,
            better_cost=cost,
            currency=job.tariff.currency,
            soft_facts=soft(promised_hours=job.wishes.known, place=job.site.place_known),
        )


@makes
def tariffs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Prices]:
    if job.mains.grid:
        shown = job.tariff
        yield Prices(shown.currency, shown.import_high, shown.import_low, shown.export)
