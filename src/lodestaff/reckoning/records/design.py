"""Records for the checks of the storage."""

from collections.abc import Iterator

from lodestaff.checks.storage import BankPower
from lodestaff.electrical.battery_power import deliberate, least_powers
from lodestaff.job import Job, Role
from lodestaff.places.room import modules_that_fit
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
            planned=bool({bank.id, bank.unit} & {standing.id for standing in job.standing}),
            room=modules_that_fit(job, reckoner.wiring(job).topology, bank.id),
        )
