"""Records for the checks of the storage and the runs of cable."""

from collections.abc import Iterator

from lodestaff.checks.conductors import Run
from lodestaff.checks.protection import Electrode
from lodestaff.checks.storage import BankPower
from lodestaff.energy.battery import battery_current
from lodestaff.job import Job, Role
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
        )


def runs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Run]:
    """The runs of every unit: its feed, the essential board's, the bypass's, the battery's, the array's."""
    cables = {cable.id: cable for cable in job.cables}
    nominal = job.pack.value("nominal_v").value
    known = {conductor.run for conductor in reckoner.wiring(job).topology.conductors}
    for unit in job.units:
        sheet, bank = job.sheet_of(unit), job.bank_of(unit)
        across = nominal * len(unit.legs)
        rated_a = sheet.rated_kva * 1000 / across
        backed = reckoner.backed(job, unit)
        held_a = sum(c.running_kva for c in backed.circuits) * backed.share * 1000 / across
        rows = [
            (f"{unit.id}-feed", f"{unit.name} feed", "AC source", rated_a, across, True),
            (f"{unit.id}-backup", "Essential board feed", "AC load", min(rated_a, held_a), across, False),
            (f"{unit.id}-bypass-feed", "Bypass feed", "AC load", held_a, across, False),
        ]
        if bank is not None:
            battery = job.sheets.batteries[bank.sheet]
            power = min(sheet.discharge_kw, bank.modules * battery.module_kwh * battery.discharge_c_per_h)
            if battery.v_min is not None:
                series_v = battery.v_min * bank.modules
                margin = job.pack.value("battery_current_margin").value
                found = battery_current(
                    power * 1000, series_v, sheet.eta_dcdc, margin, job.pack.table("battery_fuses").row_keys()
                )
                rows.append((f"{bank.id}-run", "Battery run", "battery", found.current_a, series_v, True))
        for tracker in sheet.trackers:
            strings = [(s, job.modules_in(s.id)) for s in job.strings_on(unit.id, tracker.name) if job.modules_in(s.id)]
            if strings and not sheet.module_level:
                modules = [job.sheets.modules[parts[0][0].module] for _, parts in strings]
                volts = min(
                    sum(n for _, n in parts) * module.vmp_v for (_, parts), module in zip(strings, modules, strict=True)
                )
                amps = sum(module.imp_a for module in modules)
                rows.append(
                    (
                        f"{unit.id}-array-{tracker.name.lower()}",
                        f"Array run {tracker.name}",
                        "array",
                        amps,
                        volts,
                        False,
                    )
                )
        for id, name, kind, amps, volts, two_way in rows:
            if id in known:
                yield Run(
                    id, name, kind, amps, volts, cables.get(id), job.pack, job.site, two_way, id.endswith("-backup")
                )


def electrodes(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Electrode]:
    needed = any(job.sheet_of(unit).neutral_switched for unit in job.units) or any(
        part.kind == "gateway" and part.neutral_switched for part in job.parts
    )
    yield Electrode(job.site, job.has_electrode, needed, "island_electrode_max_ohm", job.pack)
