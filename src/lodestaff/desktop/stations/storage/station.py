"""The Storage station: which inverter with how many battery modules, and what a year makes of each."""

import threading
from dataclasses import dataclass
from math import isnan

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QComboBox, QLabel, QPushButton, QVBoxLayout, QWidget

from lodestaff.desktop.language import tr
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.storage.map import MapView
from lodestaff.desktop.stations.storage.ride import RideView
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Table, number, words
from lodestaff.desktop.worker import Worker
from lodestaff.job import Job, Unit
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.coupling import Coupling, coupling, rows_of
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.ride_map import RideMap, ride_map
from lodestaff.reckoning.station_readings import storage_readings
from lodestaff.reckoning.storage import BETTER_UP, Cell, StorageMap, outcomes, storage_map
from lodestaff.shelf.prices import PriceBook, load_prices

COSTLY = ("endurance", "saved over years")  # outcomes that are reckoned only where they are asked for


@dataclass(frozen=True)
class At:
    """A row: a cell of a map."""

    of: StorageMap
    key: tuple[str, int]
    cell: Cell


def _own_prices() -> PriceBook | None:
    """The person's price lists; a map can be made without them."""
    try:
        return load_prices(None)
    except JobError:
        return None


def ways_words(pair: Coupling, job: Job) -> str:
    """Both ways of coupling in a line each."""
    lines = []
    for now, column in (("DC", 1), ("AC", 2)):
        values = "; ".join(f"{row[0]} {text_of(float(row[column]), row[3], 0)}" for row in rows_of(pair, job))
        lines.append(f"{now}-coupled{', as it is' if pair.now == now else ''}: {values}.")
    return "\n".join(lines)


class StorageStation(StationView):
    """Map, outcome, progress with a stop, table."""

    id = "storage"
    hint = (
        "Each cell is a simulated year of the whole job. Click or Enter adopts it; cells in brackets are "
        "forbidden by the site."
    )
    crowded = True
    progressed = Signal(float)

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())
        self.outcomes = QButtonGroup(self)
        self.unit = QComboBox()
        self.unit.setAccessibleName(tr("Unit whose sizes are mapped"))
        self.unit.hide()  # until there are several
        self.unit.activated.connect(lambda _: self.refresh())
        self.buttons.addWidget(self.unit)
        self.of_outcome: dict[str, QPushButton] = {}
        for name in BETTER_UP:
            button = QPushButton(tr(name))
            button.setCheckable(True)
            button.setChecked(name == self.map.outcome)
            button.setAccessibleName(tr("Outcome {name}", name=tr(name)))
            button.clicked.connect(lambda _=False, name=name: self.choose(name))
            self.outcomes.addButton(button)
            self.buttons.addWidget(button)
            self.of_outcome[name] = button
        self.ways = QPushButton(tr("DC against AC"))
        self.ways.setToolTip(tr("The year of this job with its battery on DC, and on AC"))
        self.ways.clicked.connect(self._compare_ways)
        self.buttons.addWidget(self.ways)
        self.progress = QLabel("")
        self.progress.setObjectName("soft")
        self.stop_button = QPushButton(tr("Stop"))
        self.stop_button.clicked.connect(self.stop)
        self.stop_button.hide()
        self.buttons.addWidget(self.progress)
        self.buttons.addWidget(self.stop_button)
        self.mapper = Worker(self.store.unexpected.emit, self)
        self.progressed.connect(self._show_progress)
        self._stopped = threading.Event()
        self._asked: tuple[Job, str, str] | None = None

    def _make_drawing(self) -> QWidget:
        self.map, self.ride = MapView(self.store), RideView(self.store)
        both = QWidget()
        both.setFocusProxy(self.map)
        rows = QVBoxLayout(both)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        rows.addWidget(self.map, 3)
        rows.addWidget(self.ride, 2)
        return both

    def _make_table(self) -> QWidget:
        self.cells: Table[At] = Table(
            tr("Cells of the map"),
            (
                words(tr("Unit"), lambda at: at.of.names[at.key[0]]),
                number(tr("Modules"), lambda at: at.cell.modules),
                words(
                    tr("Outcome"), lambda at: self.map.value_text(at.cell), order=self._outcome, figures=True
                ),
                number(tr("Gives"), lambda at: at.cell.discharge_kw, "kW", 2),
                words(tr("Forbidden by"), lambda at: ", ".join(at.cell.barred), wide=True),
                words(
                    "",
                    lambda at: tr("Adopt") if at.cell.adoptable else "",
                    press=lambda at: self.map.adopt(at.key),
                    spoken=self._adopts,
                ),
            ),
        )
        return self.cells

    def _outcome_text(self, at: At) -> str:
        return self.map.value_text(at.cell)

    def _outcome(self, at: At) -> float | None:
        value = at.cell.value(self.map.outcome)
        return None if value is None or isnan(value) else value

    def _adopts(self, at: At) -> str:
        return f"Adopt {plain(at.of.rated_kva[at.key[0]])} kVA with {at.cell.modules} modules"

    def choose(self, outcome: str) -> None:
        """Choose the outcome that the cells show."""
        self.map.outcome = outcome
        self.refresh()

    def readings(self) -> list[Reading]:
        results = self.store.preview or self.store.results
        return storage_readings(results) if results else []

    def refresh(self) -> None:
        """Ask for the map anew where the job or the outcome wants it; the old one stays, pale, meanwhile."""
        job = self.store.job
        if job is None:
            return
        unit = self._offer(job)
        costly = self.map.outcome if self.map.outcome in COSTLY else ""
        asked = self._asked
        known = asked is not None and asked[0] is job and asked[2] == unit.id and costly in ("", asked[1])
        if not known:
            self._ask(unit, costly)
        self.map.update()
        self._fill()

    def _offer(self, job: Job) -> Unit:
        """Show what can be chosen for this job, and answer which unit is."""
        stored = [unit for unit in job.units if job.bank_of(unit)] or list(job.units)
        if [self.unit.itemData(row) for row in range(self.unit.count())] != [unit.id for unit in stored]:
            self.unit.clear()
            for unit in stored:
                self.unit.addItem(unit.name, unit.id)
        self.unit.setVisible(len(stored) > 1)
        self.ways.setVisible(job.mains.grid and bool(job.banks))
        offered = outcomes(self.store.reckoner, job)
        for name, button in self.of_outcome.items():
            button.setVisible(name in offered)
        if self.map.outcome not in offered:
            self.map.outcome = offered[0]
            self.of_outcome[offered[0]].setChecked(True)
        return job.unit(self.unit.currentData())

    def _ask(self, unit: Unit, costly: str) -> None:
        job, reckoner = self.store.job, self.store.reckoner
        assert job is not None
        self._asked = (job, costly, unit.id)
        self.map.stale = self.map.sizes is not None
        self._stopped.set()
        stopped = self._stopped = threading.Event()

        def told(share: float) -> bool:
            self.progressed.emit(share)
            return not stopped.is_set()

        def mapped() -> StorageMap | None:
            return storage_map(
                reckoner,
                job,
                unit,
                with_endurance=costly == "endurance",
                with_money=costly == "saved over years",
                prices=_own_prices(),
                progress=told,
            )

        self.mapper.ask("map", mapped, self._mapped, self._not_mapped)

        def ridden() -> tuple[RideMap | None]:
            on = next((lead for lead in reckoner.leads(job) if unit in reckoner.members(job, lead)), None)
            return (ride_map(reckoner, job, on) if on else None,)

        self.mapper.ask("ride", ridden, lambda maps: self.ride.show_map(*maps), self._not_ridden)

    def _compare_ways(self) -> None:
        job, reckoner = self.store.job, self.store.reckoner
        if job is not None:
            self.mapper.ask(
                "ways",
                lambda: ways_words(coupling(reckoner, job), job),
                self.say,
                lambda trouble: self.say(str(trouble)),
            )

    def stop(self) -> None:
        """Stop the reckoning of the map; what was there stays, pale."""
        self._stopped.set()
        self.progress.setText(tr("stopped"))
        self.stop_button.hide()

    def _show_progress(self, share: float) -> None:
        if not self._stopped.is_set():
            self.progress.setText(f"{plain(share * 100, 0)} %" if share < 1 else "")
            self.stop_button.setVisible(share < 1)

    def _ended(self) -> None:
        self.stop_button.hide()
        self.progress.setText("")

    def _mapped(self, sizes: StorageMap | None) -> None:
        self._ended()
        if sizes is not None:
            self.store.settled.emit("map")
            self.map.show_map(sizes)
            self._fill()

    def _not_mapped(self, error: Exception) -> None:
        self._ended()
        self.map.sizes, self.map.instead = None, f"No map: {error}"
        self.map.update()

    def _not_ridden(self, error: Exception) -> None:
        self.ride.rides, self.ride.instead = None, str(error)
        self.ride.update()

    def _fill(self) -> None:
        sizes = self.map.sizes
        if sizes is not None:
            self.cells.show_rows([At(sizes, key, cell) for key, cell in sizes.cells.items()])

    def close_station(self) -> None:
        """End the map's thread."""
        self._stopped.set()
        self.mapper.stop()
