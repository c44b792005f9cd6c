"""Two copies of a job that went apart, put together: what is taken from the other, what clashes and whose
word counts."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QPushButton

from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.job import Change, Job, load_job
from lodestaff.job.attachments import carry
from lodestaff.job.merging import Clash, Merged, Side, merge
from lodestaff.quantities.errors import JobError

WORDS: dict[Side, str] = {"ours": "this one", "theirs": "the other"}
TAKEN = "is taken"
JOBS = "Jobs (*.json)"
BEGIN = (
    "Choose the other copy. With the job as it was before they went apart, what only one of them changed is "
    "taken by itself; without it only what one of them lacks is."
)


@dataclass(frozen=True)
class Line:
    """One place: taken from the other copy, or changed by both."""

    path: str
    clash: Clash | None


class MergePage(SidePage):
    """Each clash takes this copy's word until another is chosen; the whole becomes one step."""

    def __init__(self, store: Store) -> None:
        super().__init__("Put together with another copy")
        self.store = store
        self.other: tuple[Path, Job] | None = None
        self.base: tuple[Path, Job] | None = None
        self.sides: dict[str, Side] = {}
        self.made: Merged | None = None
        self.words = QLabel(BEGIN)
        self.words.setObjectName("soft")
        self.words.setWordWrap(True)
        self.column.addWidget(self.words)
        line = QHBoxLayout()
        self.other_button = QPushButton("The other copy…")
        self.other_button.clicked.connect(self.ask_other)
        self.base_button = QPushButton("As it was before…")
        self.base_button.setToolTip("The job from which both copies began")
        self.base_button.clicked.connect(self.ask_base)
        self.take_button = QPushButton("Put together")
        self.take_button.setToolTip("One step that can be undone; the journal of the other copy is brought")
        self.take_button.clicked.connect(self.take)
        for button in (self.other_button, self.base_button):
            line.addWidget(button)
        line.addStretch(1)
        line.addWidget(self.take_button)
        self.column.addLayout(line)
        columns: tuple[Column[Line], ...] = (
            words("Where", lambda row: row.path, wide=True),
            words("In this one", lambda row: _said(row.clash.ours) if row.clash else "", wide=True),
            words("In the other", lambda row: _said(row.clash.theirs) if row.clash else TAKEN, wide=True),
            words(
                "Whose counts",
                self._whose,
                typed=self._typed,
                choices=lambda row: tuple(WORDS.values()) if row.clash else (),
                standing=True,
                spoken=lambda row: f"Whose word counts at {row.path}",
            ),
        )
        self.table: Table[Line] = Table("What differs", columns)
        self.column.addWidget(self.table, 1)

    def open(self) -> None:
        """Begin anew."""
        self.other = self.base = self.made = None
        self.sides = {}
        self._show()
        self.other_button.setFocus()

    def ask_other(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "The other copy", "", JOBS)
        if name:
            self.choose_other(Path(name))

    def ask_base(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "The job as it was before", "", JOBS)
        if name:
            self.choose_base(Path(name))

    def choose_other(self, path: Path) -> bool:
        """The copy to put this one together with."""
        pair = self._read(path)
        self.other = pair or self.other
        return pair is not None and self._try()

    def choose_base(self, path: Path) -> bool:
        """The job from which both began."""
        pair = self._read(path)
        self.base = pair or self.base
        return pair is not None and self._try()

    def _read(self, path: Path) -> tuple[Path, Job] | None:
        try:
            return path, load_job(path)
        except JobError as trouble:
            self.words.setText(f"Not read. {trouble}")
            return None

    def _try(self) -> bool:
        job = self.store.job
        if job is None or self.other is None:
            self._show()
            return False
        try:
            base = self.base[1] if self.base is not None else None
            self.made = merge(base, job, self.other[1], "ours", self.sides)
        except JobError as trouble:
            self.made = None
            self._show()
            self.words.setText(f"They can't be put together. {trouble}")
            return False
        self._show()
        return True

    def _show(self) -> None:
        made = self.made
        self.take_button.setEnabled(made is not None)
        if made is None:
            self.words.setText(BEGIN)
            self.table.show_rows(())
            return
        rows = [Line(clash.path, clash) for clash in made.clashes] + [Line(path, None) for path in made.taken]
        self.table.show_rows(rows)
        assert self.other is not None
        since = f", both from {self.base[0].name}" if self.base is not None else ", without the job before"
        self.words.setText(
            f"{self.other[0].name}{since}: {len(made.taken)} taken from it, {len(made.clashes)} that both "
            "changed. What is printed under 'Whose counts' goes into the job."
        )

    def _whose(self, row: Line) -> str:
        return WORDS[self.sides.get(row.path, "ours")] if row.clash else ""

    def _typed(self, row: Line, text: str) -> bool:
        side = next((side for side, said in WORDS.items() if said == text), None)
        if side is None or row.clash is None:
            return False
        self.sides[row.path] = side
        return self._try()

    def take(self) -> bool:
        """The two put together, as one step."""
        if self.made is None or self.other is None:
            return False
        done = put_together(self.store, self.made.job, self.other[0])
        if done:
            self.closed.emit()
        return done


def put_together(store: Store, made: Job, other: Path) -> bool:
    """A job put together with another copy of it: the journal and the attachments brought from there, the
    design as one step."""
    job, home = store.job, store.home
    if job is None or home is None or not store.site.bring(other):
        return False
    lost = carry(made, (*store.homes(), other), home)
    if lost:
        store.trouble.emit("attachments", f"{len(lost)} attachments of {other.name} were found nowhere.")
    old, new = job.model_dump(mode="json"), made.model_dump(mode="json")
    changes = [Change(name, new[name]) for name in new if new[name] != old[name]]
    return not changes or store.edit(f"Put together with {other.name}", *changes)


def _said(value: Any) -> str:
    text = "nothing" if value is None else str(value)
    return text if len(text) <= 80 else f"{text[:77]}..."
