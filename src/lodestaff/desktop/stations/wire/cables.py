"""The cables of every run, and the pack's values and tables: typed here, kept with the job."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

from lodestaff.checks.finding import Finding
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.understood import Reads, as_number
from lodestaff.job import Cable, Change, Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.reckoning.cabling import proposed
from lodestaff.reckoning.records.runs import runs

# Heading, field of the cable, whether an empty cell means none.
COLUMNS: tuple[tuple[str, str, bool], ...] = (
    ("Size", "size_mm2", False),
    ("Length, m", "length_m", False),
    ("Table", "table", False),
    ("Device, A", "device_a", True),
    ("Curve", "curve", True),
    ("PE, mm²", "cpc_mm2", True),
    ("Outside, mm", "outside_mm", True),
    ("Gland from, mm", "gland_least_mm", True),
    ("Gland to, mm", "gland_most_mm", True),
    ("RCD, mA", "rcd_ma", True),
    ("Ambient, °C", "ambient_c", True),
    ("Soil, K m/W", "soil_k_m_w", True),
    ("Circuits", "grouping", False),
    ("In insulation, mm", "insulation_mm", False),
    ("Depth, mm", "depth_mm", True),
    ("RCD type", "rcd_type", True),
    ("Terminals, °C", "terminals_c", True),
    ("DC isolator, V", "isolator_v", True),
    ("DC isolator, A", "isolator_a", True),
    ("String fuse, A", "string_fuse_a", True),
    ("Surge protection", "surge", True),
    ("Its leads, m", "surge_lead_m", True),
    ("Breaking, kA", "breaking_ka", True),
    ("Why otherwise", "why", False),
)
WORDS = ("table", "curve", "rcd_type", "terminals_c", "surge", "why")
STATUSES = ("blocks", "warns", "open", "notes", "passed")
CHOICES = {"curve": ("B", "C", "D"), "rcd_type": ("AC", "A", "F", "B"), "terminals_c": ("60", "75"),
           "surge": ("none", "one end", "both ends")}  # fmt: skip
SAME = 0.01  # a size that was typed by its gauge is the table's


def _unit_of(heading: str) -> str:
    """The unit that a heading names."""
    return "mm²" if heading == "Size" else heading.rpartition(", ")[2] if ", " in heading else ""


@dataclass(frozen=True)
class Run:
    """A row: a run of the graph, what flows in it, the cable chosen for it, and its size in words."""

    id: str
    name: str
    cable: Cable | None
    carries_a: float | None
    size: str
    finding: Finding | None  # the gravest on it


class CableTable(Table[Run]):
    """A row per run; typing into the row of a run without a cable begins with the one that is proposed."""

    def __init__(self, store: Store) -> None:
        self.store = store
        columns: tuple[Column[Run], ...] = (
            words("Run", lambda run: run.name),
            words(
                "Carries",
                lambda run: text_of(run.carries_a, "A") if run.carries_a is not None else "not known",
                order=lambda run: run.carries_a,
                figures=True,
            ),
            words("Check", lambda run: run.finding.status if run.finding is not None else ""),
            *(
                words(
                    heading,
                    partial(_cable_text, field),
                    typed=partial(self._typed, heading, field, may_be_none),
                    reads=partial(_reads, heading, field),
                    order=partial(_order, field),
                    choices=partial(self._choices, field),
                    figures=field not in WORDS,
                )
                for heading, field, may_be_none in COLUMNS
            ),
            words("Known", lambda run: run.cable.known.words() if run.cable is not None else ""),
        )
        super().__init__("Cables", columns, together=store.together)

    def refresh(self) -> None:
        """Show the runs of the graph."""
        job = self.store.job
        if job is None:
            return
        topology = self.store.reckoner.wiring(job).topology
        cables = {cable.id: cable for cable in job.cables}
        carrying = {run.id: run for run in runs(self.store.reckoner, job, False)}
        gravest: dict[str, Finding] = {}
        for finding in self.store.results.findings if self.store.results is not None else ():
            for subject in finding.subjects:
                if subject not in gravest or _rank(finding) < _rank(gravest[subject]):
                    gravest[subject] = finding
        rows = []
        for id in dict.fromkeys(conductor.run for conductor in topology.conductors if conductor.run):
            cable, run = cables.get(id), carrying.get(id)
            rows.append(
                Run(
                    id,
                    name=run.name if run is not None else id.replace("-", " "),
                    cable=cable,
                    carries_a=run.design_a if run is not None and not run.unknown else None,
                    size=job.pack.size_words(cable.size_mm2) if cable is not None else "",
                    finding=gravest.get(id),
                )
            )
        self.show_rows(rows)

    def _choices(self, field: str, run: Run) -> Sequence[str]:
        if field == "table" and self.store.job is not None:
            return self.store.job.pack.methods
        return CHOICES.get(field, ())

    def _typed(self, heading: str, field: str, may_be_none: bool, run: Run, text: str) -> None:
        job = self.store.job
        assert job is not None
        value: Any = text
        if not text and may_be_none:
            value = None
        elif field not in WORDS:
            number = _number(self.store, f"{run.name}, {heading}", text, _unit_of(heading))
            if number is None:
                return
            value = int(number) if field == "grouping" and number == int(number) else number
            if field == "size_mm2":
                value = _as_in_table(job, number)
        shown = f"{plain(value)}" if isinstance(value, float | int) else text
        name = f"Set {heading} of {run.name} to {shown or 'none'}"
        if run.cable is not None:
            self.store.edit(name, Change(f"cables/{run.id}/{field}", value))
            return
        proposal = proposed(self.store.reckoner, job, only=run.id)[0]
        if proposal.cable is None:
            self.store.trouble.emit("edit", f"Not changed. {run.name}: {proposal.why_not}.")
            return
        others = [cable.model_dump(mode="json") for cable in job.cables]
        fresh = {**proposal.cable.model_dump(mode="json"), field: value}
        self.store.edit(name, Change("cables", [*others, fresh]))


def _rank(finding: Finding) -> int:
    return STATUSES.index(finding.status)


def _as_in_table(job: Job, mm2: float) -> float:
    """The table's size that was meant: areas of gauges are rounded there."""
    rows = [size for table in ("cables", "dc_cables") if table in job.pack.tables
            for size in job.pack.table(table).row_keys()]  # fmt: skip
    near = min(rows, key=lambda size: abs(size - mm2))
    return near if abs(near / mm2 - 1) < SAME else mm2


def _cable_text(field: str, run: Run) -> str:
    if field == "size_mm2":
        return run.size
    value = getattr(run.cable, field) if run.cable is not None else None
    return "" if value is None else plain(value) if isinstance(value, float | int) else str(value)


def _order(field: str, run: Run) -> Any:
    return getattr(run.cable, field) if run.cable is not None else None


def _reads(heading: str, field: str, run: Run) -> Reads | None:
    return None if field in WORDS else as_number(_unit_of(heading))


def _number(store: Store, where: str, text: str, unit: str) -> float | None:
    """What was typed as a number; None, with a notice, where it is none."""
    try:
        return read_number(text, unit)
    except JobError as trouble:
        store.trouble.emit("edit", f"Not changed. {where}: {trouble}.")
        return None


@dataclass(frozen=True)
class PackCell:
    """A row: a value of the pack (line -1) or a cell of one of its tables, with its source."""

    name: str
    words: str
    text: str
    source: str
    provenance: str
    unit: str = ""
    line: int = -1
    place: int = 0


class PackTableView(Table[PackCell]):
    """Every value and table cell of the pack with its source; what is corrected is marked and kept with the
    job."""

    def __init__(self, store: Store) -> None:
        self.store = store
        columns: tuple[Column[PackCell], ...] = (
            words("Value", lambda cell: cell.words),
            words("Is", lambda cell: cell.text, typed=self._typed, reads=lambda cell: as_number(cell.unit)),
            words("Unit", lambda cell: cell.unit),
            words("Source", lambda cell: cell.source),
            words("Provenance", lambda cell: cell.provenance),
        )
        super().__init__("Values of the rule pack", columns, together=store.together)

    def refresh(self) -> None:
        """Show the pack of the job."""
        if self.store.job is not None:
            self.show_rows(tuple(_cells(self.store.job)))

    def _typed(self, cell: PackCell, text: str) -> None:
        job = self.store.job
        assert job is not None
        number = _number(self.store, cell.words, text, cell.unit)
        if number is None:
            return
        if cell.line < 0:
            path = f"pack/values/{cell.name}"
            changes: tuple[Change, ...] = (Change(f"{path}/value", number), Change(f"{path}/corrected", True))
        else:
            table = job.pack.tables[cell.name].model_dump(mode="json")
            table["rows"][cell.line][cell.place] = number
            changes = (Change(f"pack/tables/{cell.name}", {**table, "corrected": True}),)
        self.store.edit(f"Correct {cell.words} to {plain(number)} {cell.unit}".rstrip(), *changes)


def _cells(job: Job) -> Iterator[PackCell]:
    """Every value of the pack, then every cell of its tables."""
    for name, value in job.pack.values.items():
        yield PackCell(
            name,
            words=name.replace("_", " "),
            text=plain(value.value),
            unit=value.unit,
            source=str(value.cite()).rsplit(" (", 1)[0],
            provenance=str(value.provenance),
        )
    for name, table in job.pack.tables.items():
        source = str(table.cite()).rsplit(" (", 1)[0]
        for line, row in enumerate(table.rows):
            for place, cell in enumerate(row[1:], start=1):
                if cell is not None:
                    key = f"{plain(row[0] or 0.0)} {table.unit}"
                    yield PackCell(
                        name,
                        words=f"{name.replace('_', ' ')}: {key}, {table.columns[place]}",
                        text=plain(cell),
                        source=source,
                        provenance=str(table.provenance),
                        line=line,
                        place=place,
                    )
