"""Records for the checks of the storage and the runs of cable."""

from collections.abc import Iterator

from lodestaff.checks.electrode import Electrode
from lodestaff.checks.finding import Remedy, cure
from lodestaff.checks.storage import BankPower
from lodestaff.electrical.battery_power import deliberate, least_powers
from lodestaff.job import Job, Role
from lodestaff.job.plan import Electrode as ElectrodePart
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes


@makes
def bank_powers(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[BankPower]:
    permission = job.site.permission
    for unit, converter in zip(job.units, reckoner.converters(job), strict=True):
        bank = job.bank_of(unit)
        if bank is None or converter.battery is None:
            continue
        sheet, hybrid = job.sheets.batteries[bank.sheet], job.sheet_of(unit)
        backed = reckoner.backed(job, unit)
        yield BankPower(
            owner=bank.id,
            unit=unit.name,
            modules=bank.modules,
            min_modules=sheet.min_modules,
            max_modules=sheet.max_modules,
            module_dc_kw=sheet.module_kwh * sheet.discharge_c_per_h,
            unit_dc_kw=hybrid.discharge_kw,
            setting_dc_kw=job.told_discharge_kw(bank),
            setting_stays=deliberate(job.told_discharge_kw(bank), least_powers(job, unit)[1]),
            rated_kw=converter.rated_kw,
            k1=converter.k1,
            k2=converter.k2,
            held_kw=sum(c.running_w for c in backed.circuits if c.role is Role.HELD) / 1000 * backed.share,
            registered_kva=hybrid.rated_kva,
            permitted_kva=permission.parallel_kva.value if permission.parallel_state == "granted" else None,
            module_weight_kg=sheet.weight_kg,
            several=len(job.banks) > 1,
            grid=job.mains.grid,
            backup=bool(backed.forming),
        )


@makes
def electrodes(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Electrode]:
    """Asked where an island is formed: it needs an earth of its own where the neutral is opened, or where
    no grid is."""
    asked, off_grid = reckoner.asked(job), not job.mains.grid
    if not asked.has_backup:
        return
    forming = {name for island in asked.islands for name in island.forming}
    opening = [
        unit
        for unit in job.units
        if job.sheet_of(unit).transfer and job.sheet_of(unit).neutral_switched and unit.id in forming
    ]
    gateways = [part for part in job.parts if part.kind == "gateway" and part.neutral_switched]
    at = gateways[0].id if gateways else (opening or list(job.units))[0].id
    yield Electrode(
        site=job.site,
        planned=job.has_electrode,
        needed=bool(opening or gateways) or off_grid,
        pack=job.pack,
        off_grid=off_grid,
        cures=_plan_electrode(job, at),
    )


def _plan_electrode(job: Job, at: str) -> tuple[Remedy, ...]:
    if not job.parts:
        return cure("Plan an electrode at the changeover", "wiring/electrode", True)
    ids = {part.id for part in job.parts}
    part = ElectrodePart(
        id="electrode" if "electrode" not in ids else "electrode-of-the-island",
        name=f"{job.pack.word('earth').capitalize()} electrode",
        at=at,
    )
    parts = [*(part.model_dump(mode="json") for part in job.parts), part.model_dump(mode="json")]
    return cure(
        "Plan an electrode at the changeover" if job.mains.grid else "Plan an electrode", "parts", parts
    )
