"""How it stands now and the ways that were kept, side by side: cable, drop, money, hours, findings; the
customer's choice recorded."""

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QLabel, QLineEdit, QPushButton, QVBoxLayout

from lodestaff.desktop.shell.choice_line import ChoiceLine, recorded
from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.standings.walls import SmallWalls
from lodestaff.desktop.stations.visits.kept import own_hours
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.job import Change, Job, edit
from lodestaff.places import Body, bodies
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.standings import Compared, Stands, as_chosen, compared, keep, stood
from lodestaff.shelf.prices import load_prices
from lodestaff.visits import Library

Row = tuple[str, Callable[[Stands], str]]
MOST_TOLD = 4


class StandingsPage(SidePage):
    """Reckoned off the window's thread each time it is opened, and after each way that is kept."""

    def __init__(self, store: Store) -> None:
        super().__init__("Ways to stand it all")
        self.store = store
        self.comparison: Compared | None = None
        self.words = QLabel("")
        self.words.setObjectName("soft")
        self.words.setWordWrap(True)
        self.column.addWidget(self.words)
        self.column.addLayout(self._keep_line())
        self.walls = SmallWalls()
        self.column.addWidget(self.walls, 2)
        self.table: Table[Row] = Table("Ways to stand it all", (), sorts=False)
        self.table.setWordWrap(True)
        self.table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.column.addWidget(self.table, 3)
        self.column.addLayout(self._choice_line())

    def _keep_line(self) -> QHBoxLayout:
        """How it stands now, kept; one that was kept, taken out."""
        line = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setPlaceholderText("a name: battery in the garage, gateway outside…")
        self.name.setAccessibleName("Name to keep it under")
        self.name.returnPressed.connect(self.keep)
        self.keep_button = QPushButton("Keep how it stands now")
        self.keep_button.clicked.connect(self.keep)
        self.forget_button = QPushButton("Take out")
        self.forget_button.setToolTip("The way that is chosen below, out of the comparison")
        self.forget_button.clicked.connect(self.forget)
        for widget, stretch in ((self.name, 1), (self.keep_button, 0), (self.forget_button, 0)):
            line.addWidget(widget, stretch)
        return line

    def _choice_line(self) -> QVBoxLayout:
        """What the customer chose, and why: a record of the job."""
        self.line = ChoiceLine()
        self.chosen, self.why, self.by = self.line.chosen, self.line.why, self.line.by
        self.stand_button = QPushButton("Only stand it so")
        self.stand_button.clicked.connect(self.stand)
        self.record_button = QPushButton("Stand it so, record the choice")
        self.record_button.clicked.connect(self.record)
        done = QHBoxLayout()
        done.addStretch(1)
        for button in (self.stand_button, self.record_button):
            done.addWidget(button)
        lines = QVBoxLayout()
        lines.addWidget(self.line)
        lines.addLayout(done)
        return lines

    def open(self) -> None:
        """Ask for the figures of the present job."""
        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        self.comparison = None
        self._show_buttons(job)
        self.walls.show_ways(None, ())
        self.table.show_rows(())
        if not job.walls:
            self.words.setText("No wall is drawn yet: the ways to stand it all begin with one.")
            return
        self.words.setText("The ways are being reckoned…")
        library = Library(own_hours())
        self.store.worker.ask(
            "standings",
            lambda: compared(reckoner, job, load_prices(), library),
            then=lambda comparison: self.show_found(job, comparison),
            wrong=lambda error: self.words.setText(f"Not reckoned. {error}"),
        )
        self.name.setFocus()

    def _show_buttons(self, job: Job) -> None:
        names = [arrangement.name for arrangement in job.arrangements]
        self.chosen.clear()
        self.chosen.addItems(names)
        for button in (self.stand_button, self.record_button, self.forget_button):
            compared = self.comparison is not None or button is not self.record_button
            button.setEnabled(bool(names) and compared)
        self.keep_button.setEnabled(bool(job.walls))

    def show_found(self, job: Job, comparison: Compared) -> None:
        """The ways of a job, each a column."""
        self.comparison = comparison
        self._show_buttons(job)
        now = next(way.name for way in comparison.ways if way.id == comparison.now)
        self.words.setText(
            f"Now it stands: {now}. Each with the cables that its ways ask for: those only assumed are sized "
            "anew, typed ones stay. Hours by your own library, without power: those of the whole building."
        )
        self.walls.show_ways(job, tuple((way, self._bodies(job, way)) for way in comparison.ways))
        columns: list[Column[Row]] = [words("", lambda row: row[0])]
        columns += [words(way.name, _cell_of(way), wide=True) for way in comparison.ways]
        self.table.show_rows(ROWS, tuple(columns))

    def _bodies(self, job: Job, way: Stands) -> tuple[Body, ...]:
        kept = next((each for each in job.arrangements if each.id == way.id), None)
        there = edit(job, *stood(kept)) if kept is not None else job
        return bodies(there, self.store.reckoner.wiring(job).topology)

    # --- steps -------------------------------------------------------------------------------------------
    def keep(self) -> bool:
        """How it stands now, under the name that was typed."""
        job, name = self.store.job, self.name.text().strip()
        if job is None:
            return False
        if not name:
            self.words.setText("Give it a name first: what sets it apart from the others.")
            self.name.setFocus()
            return False
        done = self.store.edit(f"Keep how it stands: {name}", keep(job, name))
        if done:
            self.name.clear()
            self.open()
        return done

    def forget(self) -> bool:
        """One way out of the comparison; how it stands now isn't touched."""
        job, name = self.store.job, self.chosen.currentText()
        if job is None:
            return False
        left = [
            arrangement.model_dump(mode="json")
            for arrangement in job.arrangements
            if arrangement.name != name
        ]
        done = self.store.edit(f"Take out the way {name}", Change("arrangements", left))
        if done:
            self.open()
        return done

    def _changes(self, job: Job) -> tuple[str, tuple[Change, ...]]:
        arrangement = next(each for each in job.arrangements if each.name == self.chosen.currentText())
        return arrangement.id, stood(arrangement)

    def stand(self) -> bool:
        """Everything as the chosen way has it, as one step."""
        job = self.store.job
        if job is None or not self.chosen.currentText():
            return False
        name = self.chosen.currentText()
        done = self.store.edit(f"Stand it all: {name}", *self._changes(job)[1])
        if done:
            self.open()
        return done

    def record(self) -> bool:
        """Put the choice on record and stand everything so, as one step."""
        job = self.store.job
        if job is None or self.comparison is None or not self.chosen.currentText():
            return False
        name = self.chosen.currentText()
        id, changes = self._changes(job)
        made = as_chosen(job, self.comparison, id, **self.line.said)
        done = self.store.edit(f"Stand it all: {name}, as chosen", *changes, recorded(job, made))
        if done:
            self.open()
            self.words.setText(f"Recorded: {name}. It stands at Site among the choices, and in the pack.")
        return done


def _cell_of(way: Stands) -> Callable[[Row], str]:
    return lambda row: row[1](way)


def _drop(way: Stands) -> str:
    return "not known" if way.drop_pct is None else f"{text_of(way.drop_pct, '%', 2)}: {way.drop_of}"


def _money(way: Stands) -> str:
    opened = f"{len(way.open_prices)} prices open" if way.open_prices else ""
    known = text_of(way.money, way.currency) if way.money > 0 or not opened else ""
    return "; ".join(words for words in (known, opened) if words)


def _told(status: str) -> Callable[[Stands], str]:
    def said(way: Stands) -> str:
        findings = way.told(status)
        more = f" And {len(findings) - MOST_TOLD} more." if len(findings) > MOST_TOLD else ""
        return " ".join(each.text for each in findings[:MOST_TOLD]) + more or "none"

    return said


ROWS: tuple[Row, ...] = (
    ("Cable between places", lambda way: text_of(way.cable_m, "m")),
    ("Largest drop from the origin", _drop),
    ("Cost before tax", _money),
    ("Hours of hands", lambda way: f"{plain(way.hours, 1)} h"),
    ("Hours without power", lambda way: f"{plain(way.dark_h, 1)} h"),
    ("Blocks", _told("blocks")),
    ("Warns", _told("warns")),
    ("Without a place", lambda way: ", ".join(way.left) or "nothing"),
)
