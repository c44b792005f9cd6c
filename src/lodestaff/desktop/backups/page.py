"""Whole building, essential board, emergency outlet, board and interlock: compared for this job, and the
choice recorded."""

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QLabel, QPushButton

from lodestaff.desktop.backups.circuits import CircuitPictures
from lodestaff.desktop.backups.months import MonthBars, hours_text
from lodestaff.desktop.shell.choice_line import ChoiceLine, recorded
from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Table, words
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import grouped, plain
from lodestaff.reckoning.strategies import NAMES, Strategies, Strategy, as_choice, compare_strategies
from lodestaff.shelf.prices import load_prices


class BackupsPage(SidePage):
    """Reckoned off the window's thread each time it is opened."""

    def __init__(self, store: Store) -> None:
        super().__init__("Ways of backup for this job")
        self.store = store
        self.strategies: Strategies | None = None
        column = self.column
        self.words = QLabel("")
        self.words.setObjectName("soft")
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        self.bars = MonthBars()
        column.addWidget(self.bars, 2)
        self.pictures = CircuitPictures()
        column.addWidget(self.pictures)
        of_ways = (
            words(name[0].upper() + name[1:], partial(_cell, place), wide=True)
            for place, name in enumerate(NAMES)
        )
        self.table = Table("Ways of backup", (words("", lambda row: row[0]), *of_ways), sorts=False)
        self.table.setWordWrap(True)
        self.table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        column.addWidget(self.table, 2)
        column.addLayout(self._choice_line())

    def _choice_line(self) -> QHBoxLayout:
        """What the customer chose, and why: a record of the job."""
        self.line = ChoiceLine(NAMES)
        self.chosen, self.why, self.by = self.line.chosen, self.line.why, self.line.by
        self.record_button = QPushButton("Record the choice")
        self.record_button.clicked.connect(self.record)
        line = QHBoxLayout()
        line.addWidget(self.line, 1)
        line.addWidget(self.record_button)
        return line

    def open(self) -> None:
        """Ask for the figures of the present job."""
        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        self.words.setText("The ways are being reckoned…")
        self.strategies = None
        self.bars.show_found(None)
        self.pictures.show_found(None, None)
        self.table.show_rows(())
        self.record_button.setEnabled(False)
        self.store.worker.ask(
            "strategies",
            lambda: compare_strategies(reckoner, job, load_prices()),
            then=lambda strategies: self.show_found(job, strategies),
            wrong=lambda error: self.words.setText(f"Not reckoned. {error}"),
        )
        self.table.setFocus()

    def show_found(self, job: Job, strategies: Strategies) -> None:
        self.strategies = strategies
        self.record_button.setEnabled(True)
        self.words.setText(
            f"Hours that {plain(100 - strategies.percentile)} of 100 outages last at least. Hatched: "
            "on the reserve; outline: from full. Blocks: filled stays on, hatched is shed first, half is "
            "switched by hand, crossed goes off."
        )
        self.words.setToolTip(
            "By energy: people keep the loads under the rating. The same unit, battery and sun in all four."
        )
        self.bars.show_found(strategies)
        self.pictures.show_found(job, strategies)
        self.table.show_rows(_rows(job, strategies))

    def record(self) -> bool:
        """Put the choice on record, as one step."""
        job = self.store.job
        if job is None or self.strategies is None:
            return False
        name = NAMES[self.chosen.currentIndex()]
        choice = as_choice(job, self.strategies, chosen=name, **self.line.said)
        done = self.store.edit(f"Record the choice: {name}", recorded(job, choice))
        if done:
            self.words.setText(f"Recorded: {name}. It stands at Site among the choices, and in the pack.")
        return done


def _cell(place: int, row: tuple[str, list[str]]) -> str:
    """What stands under a way."""
    return row[1][place]


def _rows(job: Job, strategies: Strategies) -> list[tuple[str, list[str]]]:
    """The table: words, and a cell for each way."""
    names = {c.id: c.name for c in job.circuits}

    def listed(ids: tuple[str, ...], most: int = 4) -> str:
        more = f" and {len(ids) - most} more" if len(ids) > most else ""
        return ", ".join(names[id] for id in ids[:most]) + more if ids else "none"

    def trips(way: Strategy) -> str:
        if not way.trip.hours_year:
            return "never in the year"
        why = {"overload": "overload", "start": "a start too large"}[way.trip.reason]
        return (
            f"{text_of(way.trip.hours_year, 'h', 0)} a year by {why}, most in {way.trip.month} about "
            f"{way.trip.hour}:00; then run {listed(way.trip.circuits)}"
        )

    def passes(way: Strategy) -> str:
        if way.passes_a is None or way.rated_pass_a is None:
            return "nothing"
        over = " — too much" if way.passes_a > way.rated_pass_a else ""
        return f"{text_of(way.passes_a, 'A', 0)} of {text_of(way.rated_pass_a, 'A', 0)}{over}"

    def cost(way: Strategy) -> str:
        work = f"{text_of(way.labour_h, 'h')} of work"
        if way.cost is None:
            return f"{work}; price open: {', '.join(way.open_prices)}"
        return f"{strategies.currency} {grouped(way.cost)}, {work}"

    ones = strategies.strategies
    return [
        ("Trips", [trips(strategy) for strategy in ones]),
        ("Backed up", [f"{len(strategy.held)} of {len(names)}" for strategy in ones]),
        (
            "On the reserve, worst month",
            [hours_text(min(strategy.reserve_h), strategy.horizon_h) for strategy in ones],
        ),
        (
            "From full, worst month",
            [hours_text(min(strategy.full_h), strategy.horizon_h) for strategy in ones],
        ),
        ("Passes the unit with the grid", [passes(strategy) for strategy in ones]),
        ("Circuits moved", [str(strategy.moved) for strategy in ones]),
        ("Cost beside unit and battery", [cost(strategy) for strategy in ones]),
    ]
