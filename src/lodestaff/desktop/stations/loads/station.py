"""The Loads station: what must stay on, decided with numbers."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu, QPushButton, QScrollArea, QStackedWidget, QWidget

from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.loads.adding import fill_menu
from lodestaff.desktop.stations.loads.day_view import DayView
from lodestaff.desktop.stations.loads.rails import RailsView
from lodestaff.desktop.stations.loads.table import CircuitTable
from lodestaff.desktop.store import Store
from lodestaff.job import Change, Job, edit
from lodestaff.quantities.convention import plain
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.compare import compare
from lodestaff.reckoning.legs import deal_out
from lodestaff.reckoning.panels import deal_panels
from lodestaff.reckoning.proposal import propose
from lodestaff.reckoning.readings import Reading, loads_readings

DAY_HINT = (
    "Layers: mean kW of each circuit by hour. Line: the sun. Drag a layer left or right "
    "(Shift+arrows): its runs begin earlier or later."
)


class LoadsStation(StationView):
    """Rails, table, margins."""

    id = "loads"
    crowded = True
    hint = (
        "Width: running kVA. Height: energy through the night. Dashed: the worst start. Drag a circuit "
        "to another rail (keys H S G L U)."
    )

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())
        self.propose = QPushButton("Best split")
        self.propose.setToolTip("The best set of circuits to hold, by priorities and the unit's limits")
        self.propose.clicked.connect(self._propose)
        self.deal = QPushButton("Balance legs")
        self.deal.setToolTip(
            "Circuits dealt over the panels and legs with the least imbalance, moving as few as possible"
        )
        self.deal.clicked.connect(self._deal)
        self.day_button = QPushButton("Day")
        self.day_button.setCheckable(True)
        self.day_button.setToolTip("The day's circuits against the sun, in place of the rails (D)")
        self.day_button.toggled.connect(self._show_day)
        self.backups = QPushButton("Backups")
        self.backups.setToolTip("Whole building, board, outlet, board and interlock side by side (Ctrl+B)")
        self.backups.clicked.connect(lambda: self.action_wanted.emit("backups"))
        self.add_button = QPushButton("Add…")
        self.add_button.setToolTip(
            "A circuit of the library, by kind of building; Del takes the chosen one out"
        )
        self.add_menu = QMenu(self.add_button)
        self.add_menu.aboutToShow.connect(lambda: fill_menu(self.add_menu, self.store))
        self.add_button.setMenu(self.add_menu)
        for button in (self.day_button, self.add_button, self.backups, self.propose, self.deal):
            self.buttons.addWidget(button)

    def _propose(self) -> None:
        """Reckon the best split."""
        self._ask("The best split is being reckoned…", _split, self._propose)

    def _deal(self) -> None:
        """Deal the circuits out over the legs."""
        self._ask("The legs are being dealt…", _dealt, self._deal)

    def _ask(
        self, words: str, make: "Callable[[Reckoner, Job], Answer]", again: Callable[[], object]
    ) -> None:
        """Reckon off the window's thread; `again` does it anew when the job has changed."""
        job, reckoner = self.store.job, self.store.reckoner
        if job is not None:
            self.say(words)
            done = partial(self._answered, again)
            self.store.worker.ask("split", lambda: make(reckoner, job), done, self._not_reckoned)

    def _not_reckoned(self, error: Exception) -> None:
        self.say(f"Not reckoned. {error}")

    def _answered(self, again: Callable[[], object], answer: "Answer") -> None:
        """Say what came of it, and offer it side by side with the job as it stands."""
        words, title, changes, made = answer
        self.say(words)
        job, reckoner = self.store.job, self.store.reckoner
        if changes and job is not None and made is not None:
            self.store.ask_compared((title, changes), lambda: compare(reckoner, job, reckoner, made), again)

    def _make_drawing(self) -> QWidget:
        self.rails = RailsView(self.store)
        scroller = QScrollArea()
        scroller.setWidgetResizable(True)
        scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroller.setFocusProxy(self.rails)
        scroller.setWidget(self.rails)
        self.day = DayView(self.store)
        self.sheets = QStackedWidget()
        self.sheets.addWidget(scroller)
        self.sheets.addWidget(self.day)
        self.sheets.setFocusProxy(scroller)
        return self.sheets

    def _show_day(self, shown: bool) -> None:
        """The day in place of the rails, or the rails again."""
        self.sheets.setCurrentIndex(1 if shown else 0)
        view = self.day if shown else self.rails
        self.sheets.setFocusProxy(view)
        self.explain(DAY_HINT if shown else self.hint)
        view.refresh()
        view.setFocus()

    def _make_table(self) -> QWidget:
        self.circuits = CircuitTable(self.store)
        return self.circuits

    def readings(self) -> list[Reading]:
        results = self.store.preview or self.store.results
        return loads_readings(results) if results else []

    def readings_before(self) -> list[Reading] | None:
        if self.store.preview is None or self.store.results is None:
            return None
        return loads_readings(self.store.results)

    def refresh(self) -> None:
        self.rails.refresh()
        self.day.refresh()
        job = self.store.job
        self.deal.setVisible(job is not None and len(job.site.phases) > 1)
        self.circuits.refresh()


Answer = tuple[
    str, str, tuple[Change, ...], Job | None
]  # words, the step's name, its changes, the job so changed


def _split(reckoner: Reckoner, job: Job) -> Answer:
    """The best set of each island in words, and the changes that make it. Raises JobError where there is
    none."""
    leads = [unit for unit in job.units if reckoner.backed(job, unit).forming[:1] == (unit,)]
    proposals = [propose(reckoner, job, unit) for unit in leads or job.units[:1]]
    changes = tuple(change for proposal in proposals for change in proposal.changes)
    names = {circuit.id: circuit.name for circuit in job.circuits}
    out = [
        f"{names[name]} ({', '.join(why) or 'others are worth more'})"
        for proposal in proposals
        for name, why in proposal.choice.left_out
    ]
    more = [
        f"{proposal.words} would let in {', '.join(names[name] for name in proposal.gained)}"
        for each in proposals
        for proposal in each.further
        if proposal.gained
    ]
    first = (
        "This is the best split already."
        if not changes
        else f"The best split changes {len(changes)} circuits."
    )
    rest = [f"Left out: {'; '.join(out[:4])}." if out else "", f"{'; '.join(more[:2])}." if more else ""]
    return " ".join(filter(None, (first, *rest))), "Take the proposed split", changes, _made(job, changes)


def _dealt(reckoner: Reckoner, job: Job) -> Answer:
    """The legs of each board in words, and the changes that even them out."""
    panels = deal_panels(reckoner, job)
    if panels is not None:
        legs = "; ".join(
            f"{' '.join(filter(None, name))}: {plain(before, 2)} to {plain(after, 2)} of "
            f"{plain(rated, 2)} kVA"
            for name, rated, before, after in zip(
                panels.bins, panels.rated_kva, panels.before_kva, panels.after_kva, strict=True
            )
        )
        words = f"{legs}; {len(panels.moved)} moved."
        return words, "Deal the circuits out", panels.changes, _made(job, panels.changes)
    dealings = deal_out(reckoner, job)
    changes = tuple(change for dealt in dealings for change in dealt.changes)
    if not dealings:
        return "No board stands on several legs.", "", (), None
    words = "; ".join(
        f"{dealt.board}: {plain(dealt.before.imbalance_pct, 0)} to {plain(dealt.after.imbalance_pct, 0)} % "
        "apart, neutral "
        f"{plain(dealt.before.neutral_a, 1)} to {plain(dealt.after.neutral_a, 1)} A, {len(dealt.moved)} moved"
        for dealt in dealings
    )
    return f"{words}.", "Deal the circuits out", changes, _made(job, changes)


def _made(job: Job, changes: tuple[Change, ...]) -> Job | None:
    return edit(job, *changes) if changes else None
