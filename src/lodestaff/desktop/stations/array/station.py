"""The Array station: modules on strings, strings on trackers, at the site's temperatures."""

from collections.abc import Iterator
from dataclasses import dataclass

from PySide6.QtWidgets import QMenu, QPushButton, QScrollArea, QTabWidget, QWidget

from lodestaff.checks.shade import ShadedModule
from lodestaff.desktop.stations.array.adding import fill_menu
from lodestaff.desktop.stations.array.faces_table import FacesTable
from lodestaff.desktop.stations.array.geometry import only_units_behind_modules, string_word
from lodestaff.desktop.stations.array.horizon import HorizonTable
from lodestaff.desktop.stations.array.roof import RoofView
from lodestaff.desktop.stations.array.roof_tables import AroundTable, RoofTable, ThingsTable
from lodestaff.desktop.stations.array.strings_table import StringsTable
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Table, words
from lodestaff.job import Change, Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.station_readings import array_readings

NONE = "none"
BRANCH_HINT = (
    "Drag modules from branch to branch; each has a unit of its own. Double click takes a whole "
    "branch. Keys: arrows, + −, Delete."
)


@dataclass(frozen=True)
class Place:
    """A row: a string on its input, or a module (with its path in the job) on its string."""

    id: str
    name: str
    on: str
    what: str
    choices: tuple[str, ...]
    spoken: str
    path: str = ""
    optimiser: str = ""  # yes or no; '' where there can be none


class ArrayStation(StationView):
    """Faces, ladder, table."""

    id = "array"
    crowded = True
    hint = (
        "Drag modules onto a string, strings onto a tracker; a double click takes a whole string. Keys: "
        "arrows, + −, Delete, T, O."
    )

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())
        self.add_button = QPushButton("Add…")
        self.add_button.setToolTip("A roof of a usual form, something on a face, a tree or a building")
        self.add_menu = QMenu(self.add_button)
        self.add_menu.aboutToShow.connect(lambda: fill_menu(self.add_menu, self.store))
        self.add_button.setMenu(self.add_menu)
        self.choices = QPushButton("Arrange…")
        self.choices.setToolTip("The best strings of these modules, and other families beside them (Ctrl+R)")
        self.choices.clicked.connect(lambda: self.action_wanted.emit("roof"))
        self.shape = QPushButton("Corners")
        self.shape.setCheckable(True)
        self.shape.setToolTip(
            "Handles on the corners of the faces: drag, or arrows; C goes on, + adds, Delete takes out"
        )
        self.shape.toggled.connect(self._show_corners)
        for button in (self.add_button, self.shape, self.choices):
            self.buttons.addWidget(button)

    def _show_corners(self, shown: bool) -> None:
        self.view.corners.show(shown)
        self.view.setFocus()

    def _make_drawing(self) -> QWidget:
        self.view = RoofView(self.store)
        scroller = QScrollArea()
        scroller.setWidgetResizable(True)
        scroller.setFocusProxy(self.view)
        scroller.setWidget(self.view)
        return scroller

    def _make_table(self) -> QWidget:
        self.rows: Table[Place] = Table(
            "Strings and modules",
            (
                words("Group or module", lambda place: place.name),
                words(
                    "On",
                    lambda place: place.on,
                    typed=self._put,
                    choices=lambda place: place.choices,
                    standing=True,
                    spoken=lambda place: place.spoken,
                ),
                words(
                    "Optimiser",
                    lambda place: place.optimiser,
                    typed=self._fit,
                    may=lambda place: bool(place.optimiser),
                    choices=lambda place: ("no", "yes") if place.optimiser else (),
                    standing=True,
                    spoken=lambda place: f"Optimiser of {place.name}",
                ),
                words("What", lambda place: place.what, wide=True),
            ),
        )
        self.faces, self.things = FacesTable(self.store), ThingsTable(self.store)
        self.around, self.strings = AroundTable(self.store), StringsTable(self.store)
        self.horizon = HorizonTable(self.store)
        tabs = QTabWidget()
        tabs.setAccessibleName("Tables of the array")
        tabs.tabBar().setAccessibleName("Tables of the array")
        tabs.addTab(self.rows, "Strings and modules")
        tabs.addTab(self.strings, "Strings")
        tabs.addTab(self.faces, "Faces")
        tabs.addTab(self.things, "On the faces")
        tabs.addTab(self.around, "Around the roof")
        tabs.addTab(self.horizon, "Horizon")
        tabs.currentChanged.connect(lambda _: self._fill())
        self.tabs = tabs
        return tabs

    def readings(self) -> list[Reading]:
        results = self.store.preview or self.store.results
        return array_readings(results) if results else []

    def readings_before(self) -> list[Reading] | None:
        if self.store.preview is None or self.store.results is None:
            return None
        return array_readings(self.store.results)

    def refresh(self) -> None:
        self.view.refresh()
        job = self.store.job
        self.explain(BRANCH_HINT if job is not None and only_units_behind_modules(job) else self.hint)
        self._fill()

    def _fill(self) -> None:
        """Only the table in view is filled."""
        job, shown = self.store.job, self.tabs.currentWidget()
        if job is not None and shown is self.rows:
            results = self.store.results
            years = results.modules if results is not None and results.job is job else {}
            self.rows.show_rows((*_strings(job), *_modules(job, years)))
        elif isinstance(shown, RoofTable):
            shown.refresh()

    def _fit(self, place: Place, text: str) -> bool:
        path = f"{place.path.rpartition('/')[0]}/optimiser"
        return self.store.edit(f"Optimiser of {place.name}: {text}", Change(path, text == "yes"))

    def _put(self, place: Place, text: str) -> None:
        if not place.path:
            self.view.move_string(place.id, text)
            return
        job = self.store.job
        string = next((string.id for string in job.strings if string.name == text), "") if job else ""
        name = f"Put a module on {text}" if string else "Take a module off"
        self.store.edit(name, Change(place.path, string))


def _strings(job: Job) -> Iterator[Place]:
    for string in job.strings:
        held = job.modules_in(string.id)
        places = ", ".join(f"{count} on {face.name}" for face, count in held) or "no modules"
        word = string_word(job, string)
        yield Place(
            string.id,
            name=f"{word.capitalize()} {string.name}",
            on=string.tracker,
            what=f"{sum(count for _, count in held)} modules: {places}",
            choices=tuple(tracker.name for tracker in job.sheet_of(job.unit(string.unit)).trackers),
            spoken=f"Input of {word} {string.name}",
        )


def _modules(job: Job, years: dict[str, ShadedModule]) -> Iterator[Place]:
    named = {string.id: string.name for string in job.strings}
    choices = (NONE, *named.values())
    alone = {string.id for string in job.strings if string_word(job, string) == "branch"}
    for face in job.faces:
        for module in face.modules:
            path = f"faces/{face.id}/modules/{module.id}"
            yield Place(
                module.id,
                name=f"{face.name} {module.id}",
                on=named.get(module.string, NONE),
                what=_year_words(job.sheets.modules[face.module].name, years.get(path)),
                choices=choices,
                spoken=f"String of module {module.id} on {face.name}",
                path=f"{path}/string",
                optimiser="" if module.string in alone else "yes" if module.optimiser else "no",
            )


def _year_words(name: str, year: ShadedModule | None) -> str:
    """A module's sheet, and its year by itself."""
    if year is None:
        return name
    words_ = f"{name}; {text_of(year.kwh, 'kWh', 0)} a year alone"
    if year.hours:
        words_ += f", shade takes {plain(100 * year.lost_share, 0)} % in {plain(year.hours, 0)} hours"
    return words_
