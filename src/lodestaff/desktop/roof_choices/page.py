"""The best strings of the roof's modules, taken with one press; why others fail; the families beside them."""

import threading

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel, QPushButton, QTabWidget

from lodestaff.desktop.roof_choices.bars import FamilyBars
from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Table, number, words
from lodestaff.job import Job
from lodestaff.quantities.convention import grouped, plain
from lodestaff.reckoning.arranging import Arranged, Arrangement, Fit, arranged
from lodestaff.reckoning.filling import Filling, fillings
from lodestaff.reckoning.roof_families import OnRoof, families_on
from lodestaff.shelf.prices import load_prices


class RoofChoicesPage(SidePage):
    """Reckoned off the window's thread each time it is opened, with progress and a stop."""

    looked = Signal(int)  # ways so far, told by the thread that looks

    def __init__(self, store: Store) -> None:
        self.stop_button = QPushButton("Stop looking")
        super().__init__("Arrangements, families", self.stop_button)
        self.store = store
        self.job: Job | None = None
        self._halt = threading.Event()
        self.stop_button.clicked.connect(self._halt.set)
        self.words = QLabel("")
        self.words.setObjectName("soft")
        self.words.setWordWrap(True)
        self.column.addWidget(self.words)
        self.ways: Table[tuple[int, Arrangement]] = Table(
            "Arrangements",
            (
                number("Rank", lambda row: row[0]),
                number("A year", lambda row: row[1].kwh, "kWh", 0),
                number("Lost", lambda row: 100 * row[1].lost_share, "%", 1),
                number("Home runs", lambda row: len(row[1].strings)),
                number("Left over", lambda row: row[1].left),
                number("Margin", lambda row: None if row[1].margin_v > 1e6 else row[1].margin_v, "V", 0),
                words("Strings", lambda row: _strings(row[1]), wide=True),
                words("", lambda row: "Take", press=lambda row: self.take(row[1])),
            ),
        )
        self.fits: Table[Fit] = Table(
            "Lengths that fit",
            (
                words("Modules", lambda fit: fit.modules),
                words("On", lambda fit: f"{fit.unit}, {fit.tracker}"),
                words("Lengths", _lengths),
                words("Because of", lambda fit: fit.why, wide=True),
            ),
        )
        self.fillings: Table[Filling] = Table(
            "What fits on the faces",
            (
                words("Face", lambda row: self._face_name(row.face)),
                words("Modules lie", _lie),
                number("Modules", lambda row: row.modules),
                number("Power", lambda row: row.kw, "kW", 2),
                number("Each alone, a year", lambda row: row.kwh, "kWh", 0, wide=True),
                words("", lambda row: "Take", press=lambda row: self.fill(row)),
            ),
        )
        self.bars = FamilyBars()
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("Choices for this roof")
        self.tabs.tabBar().setAccessibleName("Choices for this roof")
        for table, name in (
            (self.ways, "Arrangements"),
            (self.fits, "Lengths that fit"),
            (self.fillings, "What fits on the faces"),
        ):
            self.tabs.addTab(table, name)
        self.column.addWidget(self.tabs, 1)
        self.column.addWidget(self.bars)
        self.looked.connect(lambda count: self.words.setText(f"{grouped(count)} arrangements looked at…"))

    def open(self) -> None:
        """Ask for the present job."""
        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        self.job = job
        self._halt.clear()
        self.stop_button.setEnabled(True)
        self.words.setText("Arrangements are being looked at…")
        self.ways.show_rows(())
        self.fits.show_rows(())
        self.fillings.show_rows(())
        self.bars.show_found(None)

        def step(count: int) -> bool:
            self.looked.emit(count)
            return not self._halt.is_set()

        self.store.worker.ask(
            "arrangements", lambda: arranged(reckoner, job, step=step), self.show_found, self._not_reckoned
        )
        self.store.worker.ask(
            "families",
            lambda: families_on(reckoner, job, load_prices()),
            self.show_families,
            self._not_reckoned,
        )
        self.store.worker.ask(
            "fillings",
            lambda: tuple(each for face in job.faces for each in fillings(reckoner, job, face)),
            self.fillings.show_rows,
            self._not_reckoned,
        )
        self.ways.setFocus()

    def _face_name(self, face: str) -> str:
        faces = self.job.faces if self.job is not None else ()
        return next((each.name for each in faces if each.id == face), face)

    def _not_reckoned(self, error: Exception) -> None:
        self.stop_button.setEnabled(False)
        self.words.setText(f"Not reckoned. {error}")

    def show_found(self, arrangement: Arranged) -> None:
        """The arrangements, and why there are no others."""
        self.stop_button.setEnabled(False)
        self.ways.show_rows([*enumerate(arrangement.ways, start=1)])
        self.fits.show_rows(arrangement.fits)
        self.words.setText(words_of(arrangement))

    def show_families(self, family: OnRoof) -> None:
        """The families side by side."""
        self.bars.show_found(family)

    def take(self, way: Arrangement) -> None:
        """Make the job so, as one step."""
        if self.store.job is not self.job:
            self.words.setText("The job has changed since: look again.")
            self.open()
            return
        self.store.edit(f"Arrange the modules on {len(way.strings)} strings", *way.changes)
        self.closed.emit()

    def fill(self, filling: Filling) -> None:
        """Place the modules so, as one step; the arrangements are looked at anew."""
        if self.store.job is self.job:
            name = f"Fill {self._face_name(filling.face)} with {filling.modules} modules"
            self.store.edit(name, *filling.changes)
        self.open()


def words_of(arrangement: Arranged) -> str:
    """How far it was looked, and what the job as it stands makes."""
    if not arrangement.ways:
        return "No arrangement fits: no length of the modules suits a tracker. See below what would."
    looked = (
        f"All {grouped(arrangement.looked_at)} ways"
        if arrangement.exact
        else f"The best of {grouped(arrangement.looked_at)} ways"
    )
    words = f"{looked} looked at. As it stands: {grouped(round(arrangement.now_kwh))} kWh a year"
    if arrangement.now_blocks:
        words += f", against {', '.join(arrangement.now_blocks)}"
    return f"{words}. DC at the trackers, after mismatch and limits."


def _strings(way: Arrangement) -> str:
    return "; ".join(f"{unit} {tracker}: {modules}" for unit, tracker, modules in way.strings)


def _lengths(fit: Fit) -> str:
    return f"{plain(fit.least)} to {plain(fit.most)}" if fit.least <= fit.most else "no length fits"


def _lie(filling: Filling) -> str:
    return f"{filling.way}, {'symmetric' if filling.symmetric else 'the most'}"
