"""Every setting as a row with its value typed or chosen: the drawing's equal."""

from dataclasses import replace

from lodestaff.desktop.stations.limits.rows import SettingRow, rows_of, typed_value
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.understood import Reads
from lodestaff.job import Change
from lodestaff.quantities.errors import JobError


class SettingsTable(Table[SettingRow]):
    """Setting, value, unit."""

    def __init__(self, store: Store) -> None:
        self.store = store
        columns: tuple[Column[SettingRow], ...] = (
            words("Setting", lambda row: row.words, wide=True),
            words(
                "Value",
                lambda row: row.text,
                typed=self._typed,
                reads=_reads,
                choices=lambda row: row.choices,
                figures=True,
            ),
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
            right = "; type a time like 01:30" if row.form == "clock" else ""
            self.store.trouble.emit("edit", f"Not changed. {row.words}: {trouble}{right}.")
        else:
            stored = replace(row, value=value)
            self.store.edit(
                f"Set {row.words[0].lower() + row.words[1:]} to {stored.text} {row.unit}".strip(),
                Change(row.path, row.stored(value)),
            )


def _reads(row: SettingRow) -> Reads | None:
    if row.choices:
        return None
    return lambda text: f"{replace(row, value=typed_value(text, row)).text} {row.unit}"
