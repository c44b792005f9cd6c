"""Records for the checks of the storage and the runs of cable."""

from collections.abc import Iterator

from lodestaff.checks.electrode import Electrode
from lodestaff.checks.finding import Remedy
from lodestaff.checks.storage import BankPower
from lodestaff.job import Change, Job, Role
from lodestaff.job.plan import Electrode as ElectrodePart
from lodestaff.reckoning.reckoner import Reckoner


def bank_powers(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[BankPower]:
    for unit, converter in zip(job.units, reckoner.converters(job), strict=True):
        bank = job.bank_of(unit)
        if bank is None or converter.battery is None:
            continue
        sheet, hybrid = job.sheets.batteries[bank.sheet], job.sheet_of(unit)
        # AC out of one module: its limit at the DC bus, less the inverter's loss at full power.
        inverting = converter.rated_kw / (
            converter.rated_kw * (1 + converter.k1) + converter.k2 * converter.rated_kw**2
        )
        backed = reckoner.backed(job, unit)
        held = sum(c.running_w for c in backed.circuits if c.role is Role.HELD) / 1000 * backed.share
        permission = job.site.permission
        allowed = permission.parallel_kva.value if permission.parallel_state == "granted" else None
        yield BankPower(
            bank.id,
            unit.name,
            bank.modules,
            sheet.min_modules,
            sheet.max_modules,
            sheet.module_kwh * sheet.discharge_c_per_h * inverting,
            sheet.module_kwh * sheet.charge_c_per_h,
            min(hybrid.rated_kw, hybrid.discharge_kw * inverting),
            hybrid.charge_kw,
            job.limits.discharge_kw * inverting,
            held,
            hybrid.rated_kva,
            allowed,
            sheet.weight_kg,
            False,
            len(job.banks) > 1,
            job.mains.grid,
        )


def electrodes(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Electrode]:
    """Asked where an island is formed: it needs an earth of its own where the neutral is opened, or where no grid is."""
    found = reckoner.asked(job)
    if not found.has_backup:
        return
    opening = [unit for unit in job.units if job.sheet_of(unit).transfer and job.sheet_of(unit).neutral_switched
               and any(unit.id in one.forming for one in found.islands)]  # fmt: skip
    gateways = [part for part in job.parts if part.kind == "gateway" and part.neutral_switched]
    off_grid = not job.mains.grid
    at = gateways[0].id if gateways else (opening or list(job.units))[0].id
    yield Electrode(job.site, job.has_electrode, bool(opening or gateways) or off_grid, "island_electrode_max_ohm", job.pack,
                    off_grid, _plan_electrode(job, at))  # fmt: skip


def _plan_electrode(job: Job, at: str) -> tuple[Remedy, ...]:
    if not job.parts:
        return (Remedy("Plan an electrode at the changeover", (Change("wiring/electrode", True),)),)
    name = f"{job.pack.word('earth').capitalize()} electrode"
    ids = {part.id for part in job.parts}
    part = ElectrodePart(id="electrode" if "electrode" not in ids else "electrode-of-the-island", name=name, at=at)
    parts = [*(one.model_dump(mode="json") for one in job.parts), part.model_dump(mode="json")]
    return (
        Remedy(
            "Plan an electrode at the changeover" if job.mains.grid else "Plan an electrode", (Change("parts", parts),)
        ),
    )
