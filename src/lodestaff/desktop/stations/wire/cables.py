"""The cables of every run, and the pack's values and tables: typed here, kept with the job."""

from typing import Any

from lodestaff.desktop.stations.typed_table import TypedTable
from lodestaff.desktop.store import Store
from lodestaff.desktop.understood import Reads, as_number
from lodestaff.job import Change, Job
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number

# Heading, field of the cable, whether an empty cell means none.
COLUMNS: tuple[tuple[str, str, bool], ...] = (
    ("mm²", "size_mm2", False),
    ("Length, m", "length_m", False),
    ("Table", "table", False),
    ("Ambient, °C", "ambient_c", False),
    ("Circuits", "grouping", False),
    ("In insulation, mm", "insulation_mm", False),
    ("Device, A", "device_a", True),
    ("Curve", "curve", True),
    ("PE, mm²", "cpc_mm2", True),
    ("RCD, mA", "rcd_ma", True),
    ("Depth, mm", "depth_mm", True),
    ("RCD type", "rcd_type", True),
    ("Terminals, °C", "terminals_c", True),
)
WORDS = ("table", "curve", "rcd_type", "terminals_c")


def _unit_of(heading: str) -> str:
    """The unit that a heading names."""
    return heading.rpartition(", ")[2] if ", " in heading or heading == "mm²" else ""


class _Typed(TypedTable):
    """A table of numbers of the job."""

    def __init__(self, store: Store, name: str, headings: list[str]) -> None:
        super().__init__(name, headings, together=store.together)
        self.store = store

    def number(self, where: str, text: str, unit: str) -> float | None:
        """What was typed as a number; None, with a notice, where it is none."""
        try:
            return read_number(text, unit)
        except JobError as trouble:
            self.store.trouble.emit("edit", f"Not changed. {where}: {trouble}.")
            return None


class CableTable(_Typed):
    """A row per run; typing into the row of a run without a cable begins one."""

    def __init__(self, store: Store) -> None:
        super().__init__(store, "Cables", ["Run", *(heading for heading, *_ in COLUMNS)])
        self.runs: list[str] = []
        self.dc: list[bool] = []

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        topology = self.store.reckoner.wiring(job).topology
        self.runs = list(dict.fromkeys(one.run for one in topology.conductors if one.run))
        self.dc = [topology.runs[run].dc for run in self.runs]
        cables = {cable.id: cable for cable in job.cables}
        self.blockSignals(True)
        self.setRowCount(len(self.runs))
        for row, run in enumerate(self.runs):
            self.put(row, 0, run.replace("-", " "), False)
            for column, (_, field, _none) in enumerate(COLUMNS, start=1):
                value = getattr(cables[run], field) if run in cables else None
                self.put(
                    row,
                    column,
                    ""
                    if value is None
                    else f"{plain(value)}"
                    if isinstance(value, float | int)
                    else str(value),
                    True,
                )
        self.blockSignals(False)

    def reads(self, row: int, column: int) -> Reads | None:
        heading, field, _ = COLUMNS[column - 1]
        return None if column == 0 or field in WORDS else as_number(_unit_of(heading))

    def typed(self, row: int, column: int, text: str) -> None:
        job = self.store.job
        if job is None or column == 0:
            return
        run, (heading, field, may_be_none) = self.runs[row], COLUMNS[column - 1]
        value: Any = text
        if not text and may_be_none:
            value = None
        elif field not in WORDS:
            number = self.number(f"{run}, {heading}", text, _unit_of(heading))
            if number is None:
                return
            value = int(number) if field == "grouping" and number == int(number) else number
        shown = f"{plain(value)}" if isinstance(value, float | int) else text
        words = f"Set {heading} of {run.replace('-', ' ')} to {shown or 'none'}"
        if any(cable.id == run for cable in job.cables):
            self.store.edit(words, Change(f"cables/{run}/{field}", value))
        else:
            dc = self.dc[row] and "dc_cables" in job.pack.tables
            sizes = job.pack.table("copper_r20" if dc else "cables").row_keys()
            fresh = {
                "id": run,
                "size_mm2": next((size for size in sizes if size >= 6), sizes[-1]),
                "length_m": 10.0,
                "table": "DC class 5" if dc else job.pack.methods[0],
                field: value,
            }
            others = [cable.model_dump(mode="json") for cable in job.cables]
            self.store.edit(words, Change("cables", [*others, fresh]))


class PackTableView(_Typed):
    """Every value and table cell of the pack with its source; what is corrected is marked and kept with the
    job."""

    def __init__(self, store: Store) -> None:
        super().__init__(store, "Values of the rule pack", ["Value", "Is", "Unit", "Source", "Provenance"])
        self.cells: list[tuple[str, int, int]] = []

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        rows = list(_rows(job))
        self.cells = [cell for cell, *_ in rows]
        self.blockSignals(True)
        self.setRowCount(len(rows))
        for row, (_, name, value, unit, source, provenance) in enumerate(rows):
            for column, text in enumerate((name, value, unit, source, provenance)):
                self.put(row, column, text, column == 1)
        self.blockSignals(False)

    def typed(self, row: int, column: int, text: str) -> None:
        job = self.store.job
        if job is None or column != 1:
            return
        name, line, place = self.cells[row]
        number = self.number(name, text, job.pack.values[name].unit if line < 0 else "")
        if number is None:
            return
        if line < 0:
            changes = (
                Change(f"pack/values/{name}/value", number),
                Change(f"pack/values/{name}/corrected", True),
            )
            self.store.edit(f"Correct {name} to {text}", *changes)
            return
        table = job.pack.tables[name].model_dump(mode="json")
        table["rows"][line][place] = number
        table["corrected"] = True
        self.store.edit(f"Correct {name} to {text}", Change(f"pack/tables/{name}", table))


def _rows(job: Job) -> Any:
    """Cell (name, row, column), words, value, unit, source and provenance of every value and table cell."""
    for name, value in job.pack.values.items():
        source = str(value.cite()).rsplit(" (", 1)[0]
        yield (
            (name, -1, 0),
            name.replace("_", " "),
            plain(value.value),
            value.unit,
            source,
            str(value.provenance),
        )
    for name, table in job.pack.tables.items():
        source = str(table.cite()).rsplit(" (", 1)[0]
        for line, row in enumerate(table.rows):
            for place, cell in enumerate(row[1:], start=1):
                if cell is not None:
                    words = (
                        f"{name.replace('_', ' ')}: {plain(row[0] or 0.0)} {table.unit}, "
                        f"{table.columns[place]}"
                    )
                    yield (name, line, place), words, plain(cell), "", source, str(table.provenance)
