"""The settings sheet: what the unit is told, each value as the device shows it, and how it gets there."""

from dataclasses import dataclass
from typing import Literal

from lodestaff.catalogue import BatterySheet
from lodestaff.job import Job, Unit
from lodestaff.quantities import text_of
from lodestaff.quantities.units import clock

Way = Literal["over the link", "by hand, read off"]


@dataclass(frozen=True)
class Setting:
    """One line: what it is, the value as the device shows it, why it is so, how it gets into the unit."""

    unit: str
    key: str
    name: str
    value: float | str
    shown: str
    because: str
    way: Way
    numbers: tuple[float, ...] = ()  # as the device holds them: kW, percent, hours; () for words


def device_soc_pct(soc: float, sheet: BatterySheet) -> float:
    """A state of charge on the device's own scale: many count floor to top as 0 to 100 %."""
    if not sheet.device_counts_usable:
        return 100 * soc
    return 100 * (soc - sheet.floor_soc) / (sheet.top_soc - sheet.floor_soc)


def settings_sheet(job: Job) -> tuple[Setting, ...]:
    """The sheet of every unit, in the order in which it is gone through on site."""
    return tuple(setting for unit in job.units for setting in _of_unit(job, unit))


def _of_unit(job: Job, unit: Unit) -> list[Setting]:
    limits, sheet, bank = job.limits, job.sheet_of(unit), job.bank_of(unit)

    def line(
        key: str, name: str, value: float | str, shown: str, because: str, numbers: tuple[float, ...] | None = None
    ) -> Setting:
        way: Way = "over the link" if key in sheet.settings_over_link else "by hand, read off"
        if numbers is None:
            numbers = (float(value),) if isinstance(value, float | int) else ()
        return Setting(unit.id, key, name, value, shown, because, way, numbers)

    profile = f"{job.pack.name}, {job.pack.value('nominal_v').value:g} V, {', '.join(job.site.phases)}"
    mode = "time of use" if limits.windows else "self-consumption"
    rows = [
        line(
            "clock",
            "Clock",
            limits.device_clock,
            f"{limits.device_clock} time, set to the minute",
            "windows run by it",
            (0.0,),
        ),
        line("grid_profile", "Grid profile", job.pack.name, profile, "the country's, before the unit meets the grid"),
        line(
            "mode",
            "Mode",
            mode,
            mode,
            "charge windows are set" if limits.windows else "no charge window",
            (float(bool(limits.windows)),),
        ),
        line(
            "serves",
            "Serves",
            "up to the CT",
            "everything up to the CT, its backup port in an outage",
            "one CT on the meter tails",
        ),
        line(
            "export_of",
            "May be exported",
            "sun only",
            "surplus sun, never the battery",
            "the battery is kept for the site",
        ),
        line(
            "export_kw",
            "Export limit",
            limits.export_kw,
            text_of(limits.export_kw, "kW"),
            f"{job.pack.word('permission')}: {job.site.permission.state}",
        ),
        line(
            "import_kw",
            "Import limit",
            limits.import_kw,
            text_of(limits.import_kw, "kW"),
            "the main fuse; charging yields to it",
        ),
    ]
    if bank is None:
        return rows
    battery = job.sheets.batteries[bank.sheet]
    scale = "of usable, the device's scale" if battery.device_counts_usable else "of rated capacity"
    for key, name, soc, because in (
        ("reserve_soc", "Reserve", limits.reserve_soc, f"{job.wishes.outage_h:g} h of outage promised"),
        ("shed_soc", "Shed level", limits.shed_soc, "shed-first circuits drop here in an outage"),
    ):
        percent = device_soc_pct(soc, battery)
        rows.append(line(key, name, percent, f"{percent:.0f} % {scale}", because))
    rows.append(
        line("charge_kw", "Charge limit", limits.charge_kw, text_of(limits.charge_kw, "kW"), "battery, cable and unit")
    )
    rows.append(
        line(
            "discharge_kw",
            "Discharge limit",
            limits.discharge_kw,
            text_of(limits.discharge_kw, "kW"),
            "battery, cable and unit",
        )
    )
    for window in limits.windows:
        target = device_soc_pct(window.target_soc, battery)
        shown = (
            f"{clock(window.start_h)} to {clock(window.end_h)}, to {target:.0f} % at {text_of(window.power_kw, 'kW')}"
        )
        rows.append(
            line(
                f"window:{window.id}",
                f"Charge window {window.id}",
                shown,
                shown,
                f"by the {limits.device_clock} clock",
                (window.start_h, window.end_h, target, window.power_kw),
            )
        )
    return rows
