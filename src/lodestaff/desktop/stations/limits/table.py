"""Every setting as a row with its value typed: the drawing's equal."""

import re
from dataclasses import dataclass, replace

from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.understood import Reads
from lodestaff.job import Change, Job
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.quantities.units import clock


@dataclass(frozen=True)
class SettingRow:
    """A setting: its words, path in the job, shown text, unit and factor from typed to stored."""

    words: str
    path: str
    value: float
    unit: str
    factor: float = 1.0
    is_hour: bool = False

    @property
    def text(self) -> str:
        return clock(self.value) if self.is_hour else f"{plain(self.value / self.factor)}"


def rows_of(job: Job) -> list[SettingRow]:
    """All settings of a job."""
    limits, tariff = job.limits, job.tariff
    rows = [
        SettingRow("Reserve", "limits/reserve_soc", limits.reserve_soc, "%", 0.01),
        SettingRow("Shed level", "limits/shed_soc", limits.shed_soc, "%", 0.01),
        SettingRow("Export limit", "limits/export_kw", limits.export_kw, "kW"),
        SettingRow("Import limit", "limits/import_kw", limits.import_kw, "kW"),
        SettingRow("Charge limit", "limits/charge_kw", limits.charge_kw, "kW"),
        SettingRow("Discharge limit", "limits/discharge_kw", limits.discharge_kw, "kW"),
    ]
    for window in limits.windows:
        path = f"limits/windows/{window.id}"
        rows += [
            SettingRow(
                f"Window {window.id}: begins", f"{path}/start_h", window.start_h, "clock", is_hour=True
            ),
            SettingRow(f"Window {window.id}: ends", f"{path}/end_h", window.end_h, "clock", is_hour=True),
            SettingRow(f"Window {window.id}: target", f"{path}/target_soc", window.target_soc, "%", 0.01),
            SettingRow(f"Window {window.id}: power", f"{path}/power_kw", window.power_kw, "kW"),
        ]
    money = f"{tariff.currency} a kWh"
    return [
        *rows,
        SettingRow("Import, high band", "tariff/import_high", tariff.import_high, money),
        SettingRow("Import, low band", "tariff/import_low", tariff.import_low, money),
        SettingRow("Low band begins", "tariff/low_start_h", tariff.low_start_h, "clock", is_hour=True),
        SettingRow("Low band ends", "tariff/low_end_h", tariff.low_end_h, "clock", is_hour=True),
        SettingRow("Export pay", "tariff/export", tariff.export, money),
        SettingRow("Outage hours promised", "wishes/outage_h", job.wishes.outage_h, "h"),
    ]


def typed_value(text: str, row: SettingRow) -> float:
    """What was typed as the stored value. Raises JobError with what would be right."""
    found = re.fullmatch(r"\s*(\d{1,2}):([0-5]\d)\s*", text)
    if row.is_hour and found:
        return int(found[1]) + int(found[2]) / 60
    unit = "h" if row.is_hour else "" if " a " in row.unit else row.unit  # money has no related units
    return read_number(text, unit) * row.factor


class SettingsTable(Table[SettingRow]):
    """Setting, value, unit."""

    def __init__(self, store: Store) -> None:
        self.store = store
        columns: tuple[Column[SettingRow], ...] = (
            words("Setting", lambda row: row.words, wide=True),
            words("Value", lambda row: row.text, typed=self._typed, reads=_reads, figures=True),
            words("Unit", lambda row: row.unit),
        )
        super().__init__("Settings", columns, together=store.together)

    def refresh(self) -> None:
        """Show the job's settings."""
        if self.store.job is not None:
            self.show_rows(rows_of(self.store.job))

    def _typed(self, row: SettingRow, text: str) -> None:
        try:
            value = typed_value(text, row)
        except JobError as trouble:
            right = "; type a time like 01:30" if row.is_hour else ""
            self.store.trouble.emit("edit", f"Not changed. {row.words}: {trouble}{right}.")
        else:
            stored = replace(row, value=value)
            self.store.edit(
                f"Set {row.words[0].lower() + row.words[1:]} to {stored.text} {row.unit}",
                Change(row.path, value),
            )


def _reads(row: SettingRow) -> Reads:
    return lambda text: f"{replace(row, value=typed_value(text, row)).text} {row.unit}"
