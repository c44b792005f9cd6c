"""The strings as rows: where they are landed, what stands behind their modules, and what joins them."""

from dataclasses import dataclass

from lodestaff.desktop.stations.array.geometry import string_word
from lodestaff.desktop.stations.array.roof_tables import RoofTable
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import words
from lodestaff.job import Change, Job, ModuleString
from lodestaff.job.facts import Known

NONE = "none"
OWN, JOINED = "a pair of its own", "joined on the roof"
KEPT = ("none", "some", "all")


@dataclass(frozen=True)
class StringRow:
    """A string, with the trackers of its unit and the sheets of optimisers that the job holds."""

    string: ModuleString
    name: str
    unit: str
    trackers: tuple[str, ...]
    optimisers: str
    sheets: tuple[str, ...]
    alone: bool  # a unit behind each module: no optimisers, no home run


class StringsTable(RoofTable):
    """A row for each string."""

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "Strings",
            (
                words("String", lambda row: row.name, typed=self._name),
                words("Unit", lambda row: row.unit),
                words(
                    "Tracker",
                    lambda row: row.string.tracker,
                    typed=lambda row, text: self._set(row, "tracker", text),
                    choices=lambda row: row.trackers,
                    standing=True,
                    spoken=lambda row: f"Tracker of {row.name}",
                ),
                words(
                    "Optimisers",
                    lambda row: row.optimisers,
                    typed=self._fit,
                    may=lambda row: not row.alone,
                    choices=lambda row: () if row.alone else KEPT,
                    standing=True,
                    spoken=lambda row: f"Optimisers of {row.name}",
                ),
                words(
                    "Their sheet",
                    lambda row: row.string.optimiser or NONE,
                    typed=lambda row, text: self._set(row, "optimiser", "" if text == NONE else text),
                    may=lambda row: not row.alone,
                    choices=lambda row: () if row.alone else row.sheets,
                    standing=True,
                    spoken=lambda row: f"Optimisers' sheet of {row.name}",
                ),
                words(
                    "Home run",
                    lambda row: JOINED if row.string.joined_on_roof else OWN,
                    typed=lambda row, text: self._set(row, "joined_on_roof", text == JOINED),
                    may=lambda row: not row.alone,
                    choices=lambda row: () if row.alone else (OWN, JOINED),
                    standing=True,
                    spoken=lambda row: f"Home run of {row.name}",
                ),
                words(
                    "Its connectors",
                    lambda row: row.string.connector.value or "",
                    typed=self._connector,
                    may=lambda row: not row.alone,
                    wide=True,
                ),
            ),
        )

    def refresh(self) -> None:
        """Show the job's strings."""
        job = self.store.job
        if job is not None:
            self.show_rows([_row(job, string) for string in job.strings])

    def _set(self, row: StringRow, field: str, value: object) -> bool:
        shown = "yes" if value is True else "no" if value is False else value or NONE
        words_ = f"Set {field.replace('_', ' ')} of {row.name} to {shown}"
        return self.store.edit(words_, Change(f"strings/{row.string.id}/{field}", value))

    def _name(self, row: StringRow, text: str) -> bool:
        return self.store.edit(f"Call {row.name} {text}", Change(f"strings/{row.string.id}/name", text))

    def _fit(self, row: StringRow, text: str) -> bool:
        """On all or none of its modules; on some: those that are marked stay so."""
        job = self.store.job
        assert job is not None
        changes = [Change(f"strings/{row.string.id}/optimisers", text)]
        if text != "some":
            changes += [
                Change(f"faces/{face.id}/modules/{module.id}/optimiser", text == "all")
                for face, module in job.placed_in(row.string.id)
            ]
        return self.store.edit(f"Optimisers on {text} of {row.name}", *changes)

    def _connector(self, row: StringRow, text: str) -> bool:
        fact = {"value": text.strip() or None, "known": (Known.READ if text.strip() else Known.ASSUMED).value}
        return self.store.edit(
            f"Connectors of {row.name}", Change(f"strings/{row.string.id}/connector", fact)
        )


def _row(job: Job, string: ModuleString) -> StringRow:
    unit = job.unit(string.unit)
    sheet = job.sheet_of(unit)
    word = string_word(job, string)
    return StringRow(
        string,
        f"{word} {string.name}",
        unit=unit.name,
        trackers=tuple(tracker.name for tracker in sheet.trackers),
        optimisers="" if sheet.module_level else job.optimisers_on(string),
        sheets=(NONE, *job.sheets.optimisers),
        alone=sheet.module_level,
    )
