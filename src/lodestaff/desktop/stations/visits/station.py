"""The Visits station: who comes on which day for what, when the building is without power, how evenings are
left."""

from datetime import date
from functools import partial
from pathlib import Path
from typing import get_args

from PySide6.QtWidgets import QComboBox, QFileDialog, QMenu, QPushButton, QTabWidget, QWidget

from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.typing_in import Owner
from lodestaff.desktop.stations.visits.adding import fill_menu
from lodestaff.desktop.stations.visits.hours import hours_table, rates
from lodestaff.desktop.stations.visits.kept import kept_programme, own_hours
from lodestaff.desktop.stations.visits.tables import (
    contacts_table,
    days_table,
    deliveries_table,
    hands_table,
    rows_of,
    stock_table,
    task_rows,
    tasks_table,
    waits_table,
)
from lodestaff.desktop.stations.visits.view import VisitsView
from lodestaff.desktop.store import Store
from lodestaff.desktop.worker import Worker
from lodestaff.handover import HandoverInput
from lodestaff.job import Change, Job
from lodestaff.job.visits import Order
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.visit_readings import visit_readings
from lodestaff.reckoning.visiting import Programme, booking_data, bookings, laid_visits, learning, wanted
from lodestaff.visits import Layout, Library, Task, Wanted, lay, save_own
from lodestaff.visits.laying import why_left

FORMS = {"Pages (PDF)": ".pdf", "Tables (workbook)": ".xlsx", "Calendar (iCalendar)": ".ics"}


class VisitsStation(StationView):
    """The board with its tables; laying out goes on beside the window."""

    id = "visits"
    crowded = True
    hint = (
        "Drag work to another hour, day or hand. Hatched under a day: without power. Keys: Page Up and Page "
        "Down choose, arrows move, with Shift to the next day, H holds, Delete takes off."
    )

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.worker = Worker(store.unexpected.emit, self)
        self.out = QPushButton("Lay out")
        self.out.setToolTip("Least days, then fewest hours without power; what you hold stays")
        self.out.clicked.connect(self.lay_out)
        self.add = QPushButton("Add…")
        self.menu = QMenu(self.add)
        self.menu.aboutToShow.connect(lambda: fill_menu(self.menu, self.store, self._programme))
        self.add.setMenu(self.menu)
        self.printing = QPushButton("Print days…")
        forms = QMenu(self.printing)
        for words, ending in FORMS.items():
            forms.addAction(words, partial(self.ask_print, ending))
        self.printing.setMenu(forms)
        self.learn = QPushButton("Take booked hours")
        self.learn.setToolTip("What was booked on tasks that are done corrects your own hours, for every job")
        self.learn.clicked.connect(self.take_booked)
        self.order = QComboBox()
        self.order.addItems(get_args(Order))
        self.order.setAccessibleName("Order of the roof")
        self.order.setToolTip("Cables first: dead until the modules come. Modules first: their ends are live")
        self.order.currentTextChanged.connect(self.choose_order)
        for button in (self.out, self.order, self.add, self.printing, self.learn):
            self.buttons.addWidget(button)
        self.view = VisitsView(store)
        self.lay(self.view, self._make_table())

    def _programme(self) -> Programme | None:
        return self.view.programme

    def _make_table(self) -> QWidget:
        store = self.store
        self.tasks = tasks_table(store, self.book)
        self.tasks.came_to.connect(lambda row: self.view.choose((row.task.id, 1)))
        self.days = days_table(store, self._without)
        self.days.came_to.connect(lambda row: self.view.go_to(row.of.id))
        self.hands = hands_table(store, self._without, self._programme)
        self.waits = waits_table(store, self._without)
        self.stock = stock_table(self._programme)
        self.deliveries = deliveries_table(store, self._without)
        self.contacts = contacts_table(store, self._without)
        self.rates = hours_table(store, self.refresh)
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("Tables of visits")
        self.tabs.tabBar().setAccessibleName("Tables of visits")
        for table, name in (
            (self.tasks, "Tasks"),
            (self.days, "Days"),
            (self.hands, "Hands"),
            (self.waits, "Waits"),
            (self.stock, "Parts"),
            (self.deliveries, "Deliveries"),
            (self.contacts, "Numbers"),
            (self.rates, "Your hours"),
        ):
            self.tabs.addTab(table, name)
        return self.tabs

    def readings(self) -> list[Reading]:
        return visit_readings(kept_programme(self.store)) if self.store.job is not None else []

    def note(self) -> str:
        """What can't be as it is laid, the first of it."""
        conflicts = self.view.programme.conflicts if self.view.programme is not None else ()
        if not conflicts:
            return ""
        more = (
            f" And {len(conflicts) - 1} more: chosen, each piece says its own." if len(conflicts) > 1 else ""
        )
        return conflicts[0].words + more

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        self.view.refresh()
        programme = self.view.programme
        if programme is None:
            return
        booked = bookings(self.store.site.entries)
        self.tasks.show_rows(task_rows(job, programme, booked))
        self.stock.show_rows(programme.stock)
        self.rates.show_rows(rates())
        self.order.blockSignals(True)
        self.order.setCurrentText(job.visits.order)
        self.order.blockSignals(False)
        for table, field in (
            (self.days, "days"),
            (self.hands, "hands"),
            (self.waits, "waits"),
            (self.deliveries, "deliveries"),
            (self.contacts, "contacts"),
        ):
            table.show_rows(rows_of(job, field))
        self.learn.setEnabled(any(booking.done for booking in booked))
        self.out.setEnabled(bool(programme.tasks))

    def choose_order(self, order: str) -> bool:
        """Modules last on dead cables, or modules first: two schools."""
        return self.store.edit(f"Take {order}", Change("visits/order", order))

    # --- laying out --------------------------------------------------------------------------------------
    def lay_out(self) -> None:
        """Ask for days and hands of all that isn't done; the answer becomes one step."""
        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        entries, library = self.store.site.entries, Library(own_hours())

        def search() -> tuple[Job, Wanted, Layout]:
            asked = wanted(reckoner, job, date.today(), entries=entries, library=library)
            return job, asked, lay(asked)

        self.say("Laying tasks over days and hands…")
        self.worker.ask("visits", search, self._arrived, lambda error: self.say(str(error)))

    def _arrived(self, answer: tuple[Job, Wanted, Layout]) -> None:
        job, asked, out = answer
        if job is not self.store.job:
            self.say("The job has changed: lay out again.")
            return
        if not out.laid:
            self.say(_left_words(asked, out) or "Nothing is left to lay.")
            return
        self.store.edit(
            f"Lay out {len(out.laid)} pieces of work on {out.days} days",
            Change("visits", laid_visits(job, asked, out.laid)),
        )
        proof = "no better way exists" if out.best else "a better way may exist"
        self.say(
            f"{out.days} days, {out.dark_h:g} h without power; {proof}. {_left_words(asked, out)}".strip()
        )

    # --- what was worked ---------------------------------------------------------------------------------
    def book(self, task: Task, hours: float, done: bool) -> bool:
        """What was worked on a task, into the journal."""
        job, site = self.store.job, self.store.site
        if job is None:
            return False
        booked = [booking for booking in bookings(site.entries) if booking.task == task.id]
        left = 0.0 if not done or not booked else sum(booking.hours for booking in booked)
        worked = max(0.01, hours - left) if done else hours
        try:
            text, data = booking_data(
                self.store.reckoner, job, task.id, hours=worked, done=done, library=Library(own_hours())
            )
        except JobError as trouble:
            self.store.trouble.emit("journal", f"Not booked. {trouble}")
            return False
        people = site.register.people
        return site.record("work", text, people[0].name if people else "", data)

    def take_booked(self) -> None:
        """What was booked corrects the person's own hours."""
        try:
            save_own(learning(own_hours(), self.store.site.entries))
        except JobError as trouble:
            self.say(f"Not kept. {trouble}")
            return
        own_hours(anew=True)
        self.refresh()
        self.say("Your own hours are corrected by what was booked; every job reckons with them from now on.")

    # --- on paper ----------------------------------------------------------------------------------------
    def ask_print(self, ending: str) -> None:
        """Ask where, then write the days."""
        name, _ = QFileDialog.getSaveFileName(self, "Write the days", f"visits{ending}", f"*{ending}")
        if name:
            self.print_to(Path(name))

    def print_to(self, target: Path) -> None:
        """The days as pages, tables or calendar, beside the window."""
        job, reckoner, programme = self.store.job, self.store.reckoner, self.view.programme
        if job is None or programme is None:
            return
        site = self.store.site
        given = HandoverInput(job, site.entries, site.register, date.today())

        def write() -> Path:
            from lodestaff.exchange import visits_written

            write_whole(target, visits_written(target, reckoner, given, programme))
            return target

        self.worker.ask(
            "days",
            write,
            lambda path: self.say(f"Written: {path}"),
            lambda error: self.say(f"Not written. {error}"),
        )

    def _without(self, row: Owner) -> bool:
        """Take out what a row is of; a hand or a day goes with what is laid on it."""
        job = self.store.job
        if job is None:
            return False
        path = row.path.rpartition("/")[0]
        field = path.rpartition("/")[2]
        rows = [item.model_dump(mode="json") for item in getattr(job.visits, field) if item.id != row.of.id]
        data = job.visits.model_dump(mode="json")
        data[field] = rows
        if field == "days":
            data["laid"] = [record for record in data["laid"] if record["visit"] != row.of.id]
        if field == "hands":
            for record in (*data["laid"], *data["days"]):
                record["hands"] = [hand for hand in record["hands"] if hand != row.of.id]
        return self.store.edit(f"Take out {row.name}", Change("visits", data))


def _left_words(asked: Wanted, out: Layout) -> str:
    """What found no day, by its cause."""
    why = why_left(asked, out.left_over)
    names = {task.id: task.name for task in asked.tasks}
    first = [f"{names[name]} {words}." for name, words in why.items() if not words.startswith("comes after")]
    return " ".join(first[:3])
