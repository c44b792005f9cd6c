"""Schedules beside the diagram: devices, boards, terminations, what carries signals, labels, shutting down,
parts."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from PySide6.QtWidgets import QComboBox, QVBoxLayout, QWidget

from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.understood import as_number
from lodestaff.job import Change, Containment, Job
from lodestaff.job.facts import Known
from lodestaff.job.plan import Board
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.reckoning.costing import part_schedule
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.runs import runs
from lodestaff.reckoning.schedules import (
    TICKS,
    Cell,
    Schedule,
    board_schedule,
    containment_schedule,
    device_schedule,
    gland_schedule,
    label_schedule,
    link_schedule,
    shutdown_schedule,
    termination_schedule,
)
from lodestaff.reckoning.single_cores import single_core_schedule
from lodestaff.shelf.prices import load_prices
from lodestaff.wiring.reordering import reordered
from lodestaff.wiring.terminations import terminations

METALS = {"metal": True, "not metal": False}
INSIDE = {"inside": True, "outside": False}
SUN = {"yes": True, "no": False}
SITS = ("unknown", "opposite the main", "elsewhere")


def _parts(reckoner: Reckoner, job: Job) -> Schedule:
    return part_schedule(reckoner, job, load_prices())


MADE: dict[str, Callable[[Reckoner, Job], Schedule]] = {
    "Devices": device_schedule,
    "Single conductors": single_core_schedule,
    "Boards": board_schedule,
    "Terminations": termination_schedule,
    "Containment": containment_schedule,
    "Glands": gland_schedule,
    "Communication": link_schedule,
    "Labels": label_schedule,
    "Shutdown": shutdown_schedule,
    "Parts": _parts,
}


@dataclass(frozen=True)
class Line:
    """A row of a schedule: its cells as words and as they are, and the board that it is of."""

    texts: tuple[str, ...]
    cells: tuple[Cell, ...]
    board: Board | None = None
    containment: Containment | None = None
    end: str = ""  # the end of a core that it is of
    new: bool = False  # the last row of the containments: begins one


class Schedules(QWidget):
    """One schedule at a time, chosen above the table; the busbars of boards are typed here."""

    def __init__(self, store: Store) -> None:
        super().__init__()
        self.store = store
        self.which = QComboBox()
        self.which.setAccessibleName("Schedule")
        self.which.addItems(list(MADE))
        self.which.textActivated.connect(lambda _: self.refresh())
        self.table: Table[Line] = Table("Schedule", (words("Device", lambda _: ""),), together=store.together)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(self.which)
        column.addWidget(self.table, 1)

    def refresh(self) -> None:
        """Show the chosen schedule of the job."""
        job = self.store.job
        if job is None:
            return
        schedule = MADE[self.which.currentText()](self.store.reckoner, job)
        boards = {part.id: part for part in job.parts if isinstance(part, Board)}
        places = (
            [place.id for place in self.store.reckoner.wiring(job).boards] if schedule.id == "boards" else []
        )
        rows = [
            Line(texts, cells, boards.get(places[number]) if number < len(places) else None)
            for number, (texts, cells) in enumerate(zip(schedule.texts(), schedule.rows, strict=True))
        ]
        if schedule.id == "terminations":
            ends = terminations(job, self.store.reckoner.wiring(job).topology)
            rows = [replace(line, end=end.key) for line, end in zip(rows, ends, strict=True)]
        if schedule.id == "containment":
            rows = [
                replace(line, containment=containment)
                for line, containment in zip(rows, job.containments, strict=True)
            ]
            rows.append(
                Line(("new", *[""] * (len(schedule.heads) - 1)), (None,) * len(schedule.heads), new=True)
            )
        columns = [
            words(
                head.words,
                partial(_at, number),
                order=partial(_order, number),
                figures=bool(head.unit),
                **self._typing(schedule.id, head.heading),
            )
            for number, head in enumerate(schedule.heads)
        ]
        if schedule.id == "boards":
            columns.append(
                words(
                    "Sources sit",
                    lambda line: (line.board.sources_sit.value or SITS[0]) if line.board else "",
                    typed=self._sit,
                    may=lambda line: line.board is not None,
                    choices=lambda line: SITS if line.board is not None else (),
                )
            )
        self.table.setAccessibleName(schedule.title)
        self.table.show_rows(rows, _same(self.table.source.columns, columns))

    def _typing(self, schedule: str, heading: str) -> dict[str, Any]:
        """What can be typed in a column."""
        if heading == "Busbar":
            return {"typed": self._rated, "may": _is_board, "reads": lambda _: as_number("A")}
        if schedule == "terminations" and heading == "Done":
            return {"typed": self._ticked, "may": lambda _: True, "choices": lambda _: TICKS}
        if schedule == "shutdown" and heading == "Step":
            return {"typed": self._moved, "may": lambda _: True}
        if schedule != "containment" or heading in ("Cores", "Fill"):
            return {}
        typing: dict[str, Any] = {"typed": partial(self._contained, heading), "may": lambda _: True}
        if heading == "Containment":
            return typing
        typing["may"] = lambda line: line.containment is not None
        sizes = self.store.job.pack.containment_sizes if self.store.job is not None else {}
        lists: dict[str, Iterable[str]] = {"Size": sizes, "Of": METALS, "Where": INSIDE, "Stands sun": SUN}
        choices = tuple(lists.get(heading, ()))
        return {**typing, "choices": lambda _: choices} if choices else typing

    def _contained(self, heading: str, line: Line, text: str) -> None:
        """Something typed of a conduit or trunking; a name in the last row begins one, no name ends it."""
        job = self.store.job
        assert job is not None
        rows = [containment.model_dump(mode="json") for containment in job.containments]
        if line.new:
            if text and text != "new":
                taken = {containment.id for containment in job.containments}
                number = next(n for n in range(1, 1000) if f"containment-{n}" not in taken)
                size = next(iter(job.pack.containment_sizes), "")
                fresh = {"id": f"containment-{number}", "name": text, "size": size}
                self.store.edit(f"Begin {text}", Change("containments", [*rows, fresh]))
            return
        assert line.containment is not None
        containment, path = line.containment, f"containments/{line.containment.id}"
        if heading == "Containment" and not text:
            left = [row for row in rows if row["id"] != containment.id]
            self.store.edit(f"Take out {containment.name}", Change("containments", left))
            return
        try:
            field, value = _containment_value(self.store.reckoner, job, heading, text)
        except JobError as trouble:
            self.store.trouble.emit("edit", f"Not changed. {containment.name}: {trouble}.")
            return
        self.store.edit(f"Set {heading.lower()} of {containment.name}", Change(f"{path}/{field}", value))

    def _ticked(self, line: Line, text: str) -> None:
        """An end that was tightened to its torque, or isn't yet."""
        job = self.store.job
        assert job is not None
        left = [end for end in job.handed.made_off if end != line.end]
        made = [*left, line.end] if text == TICKS[1] else left
        name = f"{line.texts[0]}, {line.texts[1]}"
        self.store.edit(
            f"Tick {name}" if text == TICKS[1] else f"Untick {name}", Change("handed/made_off", made)
        )

    def _moved(self, line: Line, text: str) -> None:
        job, number = self.store.job, line.cells[0]
        assert job is not None
        assert isinstance(number, float)
        try:
            change = reordered(job, self.store.reckoner.wiring(job).topology, int(number) - 1, text)
        except JobError as trouble:
            self.store.trouble.emit("edit", f"Not changed. {line.texts[1]}: {trouble}.")
            return
        self.store.edit(f"Put {line.texts[1]} elsewhere" if text else f"Put {line.texts[1]} back", change)

    def _rated(self, line: Line, text: str) -> None:
        assert line.board is not None
        try:
            value = read_number(text, "A") if text else None
        except JobError as trouble:
            self.store.trouble.emit("edit", f"Not changed. Busbar of {line.board.name}: {trouble}.")
            return
        known = Known.READ if value is not None else Known.ASSUMED
        fact = {"value": value, "known": known.value}
        self.store.edit(
            f"Set the busbar of {line.board.name}", Change(f"parts/{line.board.id}/busbar_a", fact)
        )

    def _sit(self, line: Line, text: str) -> None:
        assert line.board is not None
        known = Known.READ if text in SITS[1:] else Known.ASSUMED
        fact = {"value": text if text in SITS[1:] else None, "known": known.value}
        name = f"Set where sources sit in {line.board.name}"
        self.store.edit(name, Change(f"parts/{line.board.id}/sources_sit", fact))


def _is_board(line: Line) -> bool:
    return line.board is not None


def _containment_value(reckoner: Reckoner, job: Job, heading: str, text: str) -> tuple[str, Any]:
    """The field that a column is of, and its value. Raises JobError for what is none."""
    if heading == "Runs":
        ids = {run.name: run.id for run in runs(reckoner, job, False)}
        names = [name.strip() for name in text.split(",") if name.strip()]
        strange = [name for name in names if name not in ids and name not in ids.values()]
        if strange:
            raise JobError(f"no run {strange[0]!r}", "runs", f"names by commas, of {', '.join(ids)}")
        return "runs", [ids.get(name, name) for name in names]
    if heading == "Bends":
        return "bends_deg", read_number(text, "°") if text else None
    if heading == "Of":
        return "metal", METALS.get(text)
    if heading == "Where":
        return "inside", INSIDE.get(text, True)
    if heading == "Stands sun":
        return "sun_proof", SUN.get(text)
    return ("name" if heading == "Containment" else "size"), text


def _at(number: int, line: Line) -> str:
    return line.texts[number] if number < len(line.texts) else ""


def _order(number: int, line: Line) -> Cell:
    return line.cells[number] if number < len(line.cells) else None


def _same(now: tuple[Column[Line], ...], then: list[Column[Line]]) -> list[Column[Line]] | None:
    """The new columns, where they aren't those that are shown."""
    same = [column.heading for column in now] == [column.heading for column in then]
    return None if same else then
