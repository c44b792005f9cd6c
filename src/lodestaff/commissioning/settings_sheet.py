"""The settings sheet: what each unit is told, each value as the device shows it, and how it gets there."""

from dataclasses import dataclass
from typing import Literal

from lodestaff.catalogue import BatterySheet
from lodestaff.commissioning.shares import Share, shares, site_export_kw, site_import_kw
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.job import Job, Role, Unit, Window
from lodestaff.job.plan import Generator
from lodestaff.link.keys import window_key
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.units import clock
from lodestaff.topology import Topology
from lodestaff.topology.questions import asked

Way = Literal["over the link", "by hand, read off"]
OFF_GRID = "off grid"
MODES = {"hold for outages": ("held for outages", 3.0), "shave the peak": ("peak shaving", 4.0)}
EXPORTS = {
    "nothing": ("nothing", "this unit lets nothing out"),
    "sun only": ("surplus sun, never the battery", "the battery is kept for the site"),
    "sun and battery": ("surplus sun and the battery", "the battery gives to the grid when it is told to"),
}
WINDOWS = {"charge": "Charge window", "hold": "Hold window", "give": "Window that gives to the grid"}


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


def when_words(window: Window) -> str:
    """The months and days that a window is for; nothing where it is for all."""
    words = ""
    if window.months:
        words += f", in {', '.join(MONTH_NAMES[month - 1] for month in window.months)}"
    if window.days != "every day":
        words += f", {window.days}"
    return words + (f", on {', '.join(window.on)}" if window.on else "")


def device_soc_pct(soc: float, sheet: BatterySheet) -> float:
    """A state of charge on the device's own scale: many count floor to top as 0 to 100 %."""
    if not sheet.device_counts_usable:
        return 100 * soc
    return 100 * (soc - sheet.floor_soc) / (sheet.top_soc - sheet.floor_soc)


def sheet_soc(percent: float, sheet: BatterySheet) -> float:
    """The same the other way: of rated capacity, from what the device shows."""
    if not sheet.device_counts_usable:
        return percent / 100
    return sheet.floor_soc + percent / 100 * (sheet.top_soc - sheet.floor_soc)


def settings_sheet(job: Job, topology: Topology) -> tuple[Setting, ...]:
    """The sheet of every unit, in the order in which it is gone through on site."""
    own = shares(job, topology)
    return tuple(
        setting for unit in job.units for setting in _Sheet(job, topology, unit, own[unit.id]).rows()
    )


class _Sheet:
    """The lines of one unit: only what this unit has, on this site."""

    def __init__(self, job: Job, topology: Topology, unit: Unit, share: Share) -> None:
        self.job, self.topology, self.unit, self.share = job, topology, unit, share
        self.sheet, self.bank = job.sheet_of(unit), job.bank_of(unit)
        self.island = next((island for island in asked(topology).islands if unit.id in island.forming), None)

    def line(
        self,
        key: str,
        name: str,
        value: float | str,
        shown: str,
        because: str,
        numbers: tuple[float, ...] | None = None,
    ) -> Setting:
        way: Way = "over the link" if key in self.sheet.settings_over_link else "by hand, read off"
        if numbers is None:
            numbers = (float(value),) if isinstance(value, float | int) else ()
        return Setting(
            self.unit.id, key, name=name, value=value, shown=shown, because=because, way=way, numbers=numbers
        )

    def rows(self) -> list[Setting]:
        job, grid = self.job, self.job.mains.grid
        clock_of = job.limits.device_clock
        because = (
            "windows run by it" if self.bank and job.limits.windows and grid else "its records run by it"
        )
        volts = f"{plain(job.pack.value('nominal_v').value)} V"
        rows = [
            self.line(
                "clock",
                "Clock",
                value=clock_of,
                shown=f"{clock_of} time, set to the minute",
                because=because,
                numbers=(0.0,),
            )
        ]
        if grid:
            profile = f"{job.pack.name}, {volts}, {', '.join(job.site.phases)}"
            rows.append(
                self.line(
                    "grid_profile",
                    "Grid profile",
                    job.pack.name,
                    profile,
                    "the country's, before the unit meets the grid",
                )
            )
        else:
            rows.append(
                self.line(
                    "grid_profile",
                    "Output",
                    OFF_GRID,
                    f"{volts}, {', '.join(self.unit.legs)}, no grid",
                    "it makes the supply of the site",
                )
            )
        rows += [*self._modes(), *self._limits()]
        rows += self._battery() if self.bank is not None else []
        return rows + self._generator()

    def _generator(self) -> list[Setting]:
        """When this unit starts and stops a generator."""
        part = next(
            (p for p in self.job.parts if isinstance(p, Generator) and p.started_by == self.unit.id), None
        )
        if part is None or self.bank is None:
            return []
        cells, rows = self.job.sheets.batteries[self.bank.sheet], []
        if part.start_by == "volts":
            shown = "volts not told" if part.start_v is None else text_of(part.start_v, "V")
            shown += f" for {plain(part.start_delay_min, 0)} min"
            because = "the battery's volts"
            rows = [self.line("generator_start_v", f"{part.name} starts at", shown, shown, because,
                              numbers=(part.start_v or 0.0,))]  # fmt: skip
            if part.stop_v is not None:
                full = text_of(part.stop_v, "V")
                rows.append(
                    self.line(
                        "generator_stop_v",
                        f"{part.name} stops at",
                        full,
                        full,
                        because,
                        numbers=(part.stop_v,),
                    )
                )
            return rows + self._hours_of(part)
        for key, name, soc in (
            ("generator_start_soc", f"{part.name} starts at", part.start_soc),
            ("generator_stop_soc", f"{part.name} stops at", part.stop_soc),
        ):
            percent = device_soc_pct(soc, cells)
            shown = f"{plain(percent, 0)} %"
            rows.append(self.line(key, name, percent, shown, "the charge of its battery"))
        return rows + self._hours_of(part)

    def _hours_of(self, part: Generator) -> list[Setting]:
        """When a generator may run, and when it runs for its own sake."""
        rows = []
        if part.quiet_from_h is not None and part.quiet_to_h is not None:
            shown = f"{clock(part.quiet_from_h)} to {clock(part.quiet_to_h)}"
            rows.append(
                self.line(
                    "generator_quiet",
                    f"{part.name} is quiet from",
                    shown,
                    shown,
                    "as decided",
                    numbers=(part.quiet_from_h, part.quiet_to_h),
                )
            )
        if part.exercise_h_week > 0:
            shown = f"{text_of(part.exercise_h_week, 'h')} a week"
            name = f"{part.name} is exercised"
            rows.append(
                self.line(
                    "generator_exercise", name, shown, shown, "as decided", numbers=(part.exercise_h_week,)
                )
            )
        return rows

    def _modes(self) -> list[Setting]:
        windows = self.job.limits.windows if self.job.mains.grid else ()
        rows = []
        if self.bank is not None:
            mode = "time of use" if windows else "self-consumption"
            why, number = "windows are set" if windows else "no window", float(bool(windows))
            limits = self.job.limits
            if limits.mode in MODES:
                mode, number = MODES[limits.mode]
                why = "as decided"
                if limits.mode == "shave the peak" and limits.peak_kw is not None:
                    why = f"import is kept below {text_of(limits.peak_kw, 'kW')}"
            if not self.job.mains.grid:
                mode, why, number = OFF_GRID, "no grid stands here", 2.0
            rows.append(self.line("mode", "Mode", value=mode, shown=mode, because=why, numbers=(number,)))
            if limits.mode == "shave the peak" and limits.peak_kw is not None and self.job.mains.grid:
                part = (self.share.import_kw or 0.0) / max(site_import_kw(self.job), 0.01)
                kw = round(min(1.0, part) * limits.peak_kw, 2)
                rows.append(self.line("peak_kw", "Peak", kw, text_of(kw, "kW"), "import stays below it"))
        value, shown, why = self._serves()
        rows.append(self.line("serves", "Serves", value, shown, why))
        if self.bank is not None and self.job.mains.grid:
            shown, why = EXPORTS[self.unit.exports]
            rows.append(self.line("export_of", "May be exported", self.unit.exports, shown, why))
            if self.job.limits.keep_room:
                why = "the midday sun finds room in the battery"
                rows.append(self.line("late", "Charge late", "yes", "on", why, numbers=(1.0,)))
        return rows

    def _serves(self) -> tuple[str, str, str]:
        port = self.topology.unit(self.unit.id)
        outage = ""
        if self.island is not None:
            outage = (
                ", its backup port in an outage"
                if port.transfer
                else ", what stands behind the gateway in an outage"
            )
        if not self.job.mains.grid:
            return (
                "own port",
                "what hangs on its output" if port.transfer else "what hangs on the common bus",
                "no grid",
            )
        if self.unit.serves == "own port":
            return "own port", f"what hangs on its own port{outage}", "as decided"
        ct = self.share.led.ct
        if ct is None:
            return (
                "grid",
                f"feeds what it makes; it obeys no transformer{outage}",
                "none is noted that it follows",
            )
        words = "everything up to the CT" if self.share.led.whole else f"the circuits that {ct.name} sees"
        why = "one CT on the meter tails" if self.share.led.whole else f"{ct.name}, not on the supply"
        if self.unit.id != ct.serves:
            why = f"{why}; it follows {next(unit.name for unit in self.job.units if unit.id == ct.serves)}"
        return "up to the CT", words + outage, why

    def _limits(self) -> list[Setting]:
        job, share, rows = self.job, self.share, []
        if share.export_kw is not None:
            because = f"{job.pack.word('permission')}: {job.site.permission.state}"
            if self.unit.export_kw is not None:
                because += f"; its own, of {text_of(site_export_kw(job), 'kW')} for the site"
            elif share.split:
                because += f"; its share of {text_of(site_export_kw(job), 'kW')} for the site"
            rows.append(
                self.line(
                    "export_kw", "Export limit", share.export_kw, text_of(share.export_kw, "kW"), because
                )
            )
        if share.import_kw is not None:
            because = "the main fuse; charging yields to it"
            if self.unit.import_kw is not None:
                because += f"; its own, of {text_of(site_import_kw(job), 'kW')} for the site"
            elif share.import_kw < site_import_kw(job) - 0.005:
                because += f"; its share of {text_of(site_import_kw(job), 'kW')} for the site"
            elif site_import_kw(job) < job.limits.import_kw:
                because += ", the smaller one until it is raised"
            rows.append(
                self.line(
                    "import_kw", "Import limit", share.import_kw, text_of(share.import_kw, "kW"), because
                )
            )
        return rows

    def _battery(self) -> list[Setting]:
        job, limits, bank = self.job, self.job.limits, self.bank
        assert bank is not None
        cells, rows = job.sheets.batteries[bank.sheet], []
        scale = "of usable, the device's scale" if cells.device_counts_usable else "of rated capacity"
        levels = []
        if job.mains.grid:
            why = (
                f"{plain(job.wishes.outage_h)} h of outage promised"
                if self.island
                else "kept in the battery; there is no backup"
            )
            levels.append(("reserve_soc", "Reserve", limits.reserve_soc, why))
        if self.island and any(job.circuit(name).role is Role.SHED for name in self.island.circuits):
            where = "in an outage" if job.mains.grid else "before the battery is empty"
            levels.append(
                ("shed_soc", "Shed level", limits.shed_soc, f"shed-first circuits drop here {where}")
            )
        for key, name, soc, because in levels:
            percent = device_soc_pct(soc, cells)
            rows.append(self.line(key, name, percent, f"{plain(percent, 0)} % {scale}", because))
        for key, name, kw in (
            ("charge_kw", "Charge limit", self.share.charge_kw),
            ("discharge_kw", "Discharge limit", self.share.discharge_kw),
        ):
            rows.append(self.line(key, name, kw, text_of(kw, "kW"), "battery, cable and unit"))
        for window in limits.windows if job.mains.grid else ():
            target = device_soc_pct(window.target_soc, cells)
            shown = f"{clock(window.start_h)} to {clock(window.end_h)}"
            if window.kind != "hold":
                shown += f", {'down ' if window.kind == 'give' else ''}to {plain(target, 0)} % at "
                shown += text_of(window.power_kw, "kW")
            shown += when_words(window)
            rows.append(
                self.line(
                    window_key(window.id),
                    f"{WINDOWS[window.kind]} {window.id}",
                    value=shown,
                    shown=shown,
                    because=f"by the {limits.device_clock} clock",
                    numbers=(window.start_h, window.end_h, target, window.power_kw),
                )
            )
        return rows
