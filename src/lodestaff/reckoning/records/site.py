"""Records for the checks of Site: rating, permits and papers, voltage, earth, space, found devices."""

from collections.abc import Iterator

import numpy as np

from lodestaff.checks.drop import loop_ohm
from lodestaff.checks.found import FoundThing
from lodestaff.checks.permits import Papers, PermitOnPhase
from lodestaff.checks.site import Earth, ElectrodeConductor, Place, Rating, Space
from lodestaff.checks.voltage import Volts
from lodestaff.electrical.permission import notify_kva, registered, supply_phases
from lodestaff.energy.calendar import YEAR, moment_words
from lodestaff.job import Found, Job, Unit
from lodestaff.quantities import Source
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.zones import standard_offset_h, zones_near
from lodestaff.reckoning.by_leg import leg_load_kw
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.records.paths import paths_of
from lodestaff.reckoning.records.runs import runs

ZE_LIMIT = {"TN-C-S": "tncs_ze_max_ohm", "TN-S": "tns_ze_max_ohm", "TT": "tt_ra_max_ohm",
            "TN-C": "tncs_ze_max_ohm",
            "MEN": "tncs_ze_max_ohm"}  # fmt: skip


@makes
def where(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Place]:
    site, zone = job.site, job.time_zone
    offset_h = standard_offset_h(zone, YEAR) if zone else None
    yield Place(
        site=site, time_zone=zone, near=zones_near(site.latitude_deg, site.longitude_deg), offset_h=offset_h
    )


@makes
def ratings(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Rating]:
    if not job.mains.grid:
        return
    by_leg = leg_load_kw(reckoner, job)
    leg, step = np.unravel_index(int(np.argmax(by_leg)), by_leg.shape)
    where = f"{job.site.phases[leg]}, " if len(job.site.phases) > 1 else ""
    yield Rating(
        site=job.site,
        demand_kw=float(by_leg[leg, step]),
        demand_when=f"{where}{moment_words(int(step))}",
        nominal=job.pack.value("nominal_v"),
        usual=job.pack.value("usual_service_a"),
        method=job.pack.demand,
    )


@makes
def permits(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[PermitOnPhase]:
    for phases in supply_phases(job) if job.mains.grid else ():
        units = registered(job, phases)
        if units:
            yield PermitOnPhase(
                site=job.site,
                phase="+".join(phases),
                registered_kva=sum(kva for _, kva in units),
                units=units,
                notify_a=job.pack.value("notify_a_per_phase"),
                nominal=job.pack.value("nominal_v"),
                permission_word=job.pack.word("permission"),
                export_setting_kw=job.limits.export_kw,
                smaller=_smaller(job, phases),
                legs=len(phases),
                island=reckoner.asked(job).has_backup,
            )


def _smaller(job: Job, phases: tuple[str, ...]) -> tuple[str, str, str] | None:
    """The largest sheet of the job that would keep these phases within what is allowed, for their largest
    unit."""
    permission, notify = job.site.permission, notify_kva(job, phases)
    held = permission.parallel_state in ("granted", "granted without export")
    allowed = max(notify, permission.parallel_kva.value or 0.0) if held else notify
    mine = [unit for unit in job.units if set(phases) & set(unit.legs) and unit.sheet in job.sheets.hybrids]
    if not mine:
        return None
    unit = max(mine, key=lambda own: job.sheet_of(own).rated_kva)
    sheet = job.sheets.hybrids[unit.sheet]
    part = sum(leg in phases for leg in unit.legs) / len(unit.legs)
    others = sum(kva for _, kva in registered(job, phases)) - sheet.rated_kva * part
    trackers = {tracker.name for tracker in sheet.trackers}
    fitting = [
        (id, other)
        for id, other in job.sheets.hybrids.items()
        if other.rated_kva < sheet.rated_kva
        and other.phases == sheet.phases
        and others + other.rated_kva * part <= allowed * (1 + 1e-9)
        and trackers
        >= {s.tracker for s in job.strings if s.unit == unit.id}
        <= {t.name for t in other.trackers}
    ]
    if not fitting:
        return None
    id, fit = max(fitting, key=lambda pair: pair[1].rated_kva)
    return id, fit.name, unit.id


@makes
def papers(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Papers]:
    if job.mains.grid:
        yield Papers(
            site=job.site,
            import_setting_kw=job.limits.import_kw,
            export_setting_kw=job.limits.export_kw,
            nominal=job.pack.value("nominal_v"),
            phases=len(job.site.phases),
        )


STAGES = (
    ("over_voltage_mean_v", "the sustained over-voltage stage"),
    ("over_voltage_1_v", "over-voltage stage 1"),
)


@makes
def volts(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Volts]:
    if not job.mains.grid or not job.units:
        return
    unit, pack = max(job.units, key=lambda unit: job.sheet_of(unit).rated_kva), job.pack
    stages = [(words, pack.value(name)) for name, words in STAGES if name in pack.values]
    yield Volts(
        site=job.site,
        low=pack.value("voltage_low_v"),
        high=pack.value("voltage_high_v"),
        nominal=pack.value("nominal_v"),
        stages=(("the top of the range", pack.value("voltage_high_v")), *stages),
        export_kw=min(job.limits.export_kw, job.sheet_of(unit).rated_kw),
        unit=unit.name,
        wiring_ohm=_feed_ohm(reckoner, job, unit),
        legs=len(unit.legs),
    )


def _feed_ohm(reckoner: Reckoner, job: Job, unit: Unit) -> float | None:
    """Loop resistance from the origin to a unit; None while a cable on the way isn't chosen or no table has
    it."""
    mine = tuple(runs(reckoner, job, False))
    way = next(
        (
            path.runs
            for path in paths_of(job, reckoner.wiring(job).before, mine)
            if path.end.id == f"{unit.id}-feed"
        ),
        tuple(run for run in mine if run.id == f"{unit.id}-feed"),
    )
    each = [loop_ohm(run) for run in way]
    known = [ohm for ohm in each if ohm is not None]
    return sum(known) if known and len(known) == len(each) else None


@makes
def earths(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Earth]:
    if job.mains.grid:
        limit = ZE_LIMIT[job.site.supply.earthing.value or "TN-C-S"]
        yield Earth(
            site=job.site,
            ze_max=job.pack.value(limit),
            earthing=job.pack.value("earthing_mm2"),
            bonding=job.pack.value("bonding_mm2"),
            earth_word=job.pack.word("earth"),
        )


@makes
def electrode_conductors(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[ElectrodeConductor]:
    """Of a service: its own conductors as chosen or read."""
    if job.mains.grid and job.pack.conductor_rule == "NEC":
        tails = next((run.cable for run in runs(reckoner, job, False) if run.use == "service"), None)
        read = job.site.supply.tails_mm2.value
        yield ElectrodeConductor(
            site=job.site, pack=job.pack, service_mm2=tails.size_mm2 if tails is not None else read
        )


@makes
def spaces(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Space]:
    yield Space(
        site=job.site,
        ways_needed=len(job.units) * (2 if job.has_bypass else 1),
        board_word=job.pack.word("board"),
        isolator_word=job.pack.word("isolator"),
        grid=job.mains.grid,
        surge_rule=job.pack.values.get("service_surge"),
    )


@makes
def found_things(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[FoundThing]:
    for thing in job.site.found:
        known = thing.what == "conductor" and thing.rating.value is not None
        carries_a, table, next_mm2 = _by_today(job, thing) if known else (None, None, None)
        yield FoundThing(thing=thing, carries_a=carries_a, table=table, next_mm2=next_mm2)


def _by_today(job: Job, thing: Found) -> tuple[float | None, Source, float | None]:
    """What today's table gives an old conductor by the pack's usual method, and the size its device would
    want."""
    table = job.pack.table("cables")
    column = "Cu A" if job.pack.conductor_rule == "NEC" else f"{job.pack.methods[0]} A"
    rated: list[tuple[float, float]] = []
    for size in table.row_keys():
        try:
            rated.append((size, table.at(size, column)))
        except JobError:
            continue
    size_mm2 = thing.rating.value or 0.0
    # an old size that no table has is read as the next smaller one, on the safe side
    carries = max((amps for size, amps in rated if size <= size_mm2 * 1.02), default=None)
    device = thing.device_a.value
    wanted = (
        min((size for size, amps in rated if amps >= device), default=None) if device is not None else None
    )
    return carries, table.cite(), wanted
