"""The Site station: what is there before anything is designed, and how it is known."""

from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Literal

from PySide6.QtCore import Qt
from PySide6.QtGui import QImageReader
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.site.editor import FactEditor
from lodestaff.desktop.stations.site.facts import KNOWN, ROWS, FactRow, reads_of, rows_of, shown, value_of
from lodestaff.desktop.stations.site.records import Addition, added, additions, record_path, without
from lodestaff.desktop.stations.site.wall import unread
from lodestaff.desktop.stations.site.wall_view import WallView
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.energy.horizon import COUNTED_BELOW, read_horizon
from lodestaff.energy.plausible import check_sun
from lodestaff.energy.weather import read_file
from lodestaff.job import Change, Fact, Job
from lodestaff.quantities.disk import read_whole
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.selectors import place
from lodestaff.reckoning.station_readings import site_readings


@dataclass(frozen=True)
class Line:
    """A row: a fact as it stands."""

    row: FactRow
    value: str
    known: str
    note: str


def _line(job: Job, row: FactRow) -> Line:
    value, known, _ = shown(job, row)
    kept = value_of(job, row)
    return Line(row, value, known, kept.note if isinstance(kept, Fact) else "")


class SiteStation(StationView):
    """Plates, the line to read values off, the table."""

    id = "site"
    crowded = True
    hint = (
        "Each value says how it is known: ● read, ◆ measured, ■ sheet, ▣ photo, ◐ told, ○ assumed, ? "
        "unknown. Click one to read it off."
    )

    def _make_drawing(self) -> QWidget:
        self.wall = WallView(self.store)
        self.editor = FactEditor(self.store)
        self.wall.chosen_changed.connect(self.editor.show_row)
        self.wall.edit_wanted.connect(self.editor.begin)
        self.editor.written.connect(self._written)
        self.scroller = scroller = QScrollArea()
        scroller.setWidgetResizable(True)
        scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroller.setWidget(self.wall)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scroller, 1)
        column.addWidget(self.editor)
        self.photo_button = QPushButton("Photo…")
        self.photo_button.setToolTip("Attach photos of what was found")
        self.photo_button.clicked.connect(self._ask_photos)
        self.out_button = QPushButton("Take out")
        self.out_button.setToolTip("Take this record out; undo brings it back")
        self.out_button.clicked.connect(self._take_out)
        for button in (self.photo_button, self.out_button):
            self.editor.line.addWidget(button)
            button.hide()
        self.wall.chosen_changed.connect(self._chosen)
        whole.setFocusProxy(self.wall)
        return whole

    def _buttons(self) -> None:
        """What the whole station can do, in its head."""
        self.add_button = QPushButton("Add…")
        self.add_button.setToolTip("A found device, a permit, a limit until a date, a choice of the customer")
        self.add_menu = QMenu(self.add_button)
        self.add_button.setMenu(self.add_menu)
        self.meter_button = QPushButton("Meter data…")
        self.meter_button.setToolTip("Interval data of the supply's meter: recognise, confirm, reconcile")
        self.meter_button.clicked.connect(lambda: self.action_wanted.emit("meter"))
        self.weather_button = QPushButton("Weather…")
        self.weather_button.setToolTip(
            "Attach a typical year (TMY3 or EPW); undo brings the synthetic year back"
        )
        self.weather_button.clicked.connect(self._ask_weather)
        self.horizon_button = QPushButton("Horizon…")
        self.horizon_button.setToolTip("The far horizon from a CSV file of azimuth and elevation")
        menu = QMenu(self.horizon_button)
        menu.addAction("From a file…", self._ask_horizon)
        self.no_horizon = menu.addAction("Take it out", self.drop_horizon)
        self.horizon_button.setMenu(menu)
        self.walk_button = QPushButton("Still to read")
        self.walk_button.setToolTip("The next value that nobody read or measured yet")
        self.walk_button.clicked.connect(self.walk)
        for button in (
            self.walk_button,
            self.add_button,
            self.meter_button,
            self.weather_button,
            self.horizon_button,
        ):
            self.buttons.addWidget(button)

    def walk(self) -> None:
        """Go to the next value that is still to read, and wait for it to be typed."""
        job = self.store.job
        rows = unread(job) if job is not None else ()
        if not rows:
            self.say("All of it was read.")
            return
        here = rows.index(self.wall.chosen) + 1 if self.wall.chosen in rows else 0
        self.wall.choose(rows[here % len(rows)])
        self.editor.begin()

    def _written(self) -> None:
        """From a value that was read to the next one that is still to read; where none is, to the wall."""
        if self.store.job is not None and unread(self.store.job):
            self.walk()
        else:
            self.wall.setFocus()

    def show_row(self, path: str) -> None:
        """Go to a value by its path."""
        job = self.store.job
        row = next((each for each in rows_of(job) if each.path == path), None) if job else None
        if row is not None:
            self.wall.choose(row)

    def _chosen(self, row: FactRow) -> None:
        rect = next((place for other, place in self.wall.rows() if other == row), None)
        if rect is not None:
            self.scroller.ensureVisible(round(rect.center().x()), round(rect.center().y()), 40, 60)
        record = record_path(row.path)
        self.out_button.setVisible(bool(record))
        self.photo_button.setVisible(record.startswith("site/found"))

    def add_record(self, addition: Addition) -> bool:
        """Add a record as one step, and go to its first value."""
        job = self.store.job
        if job is None:
            return False
        path, change = added(job, addition)
        if not self.store.edit(f"Add {addition.words[0].lower()}{addition.words[1:]}", change):
            return False
        row = next(
            (each for each in rows_of(self.store.job or job) if each.path.startswith(f"{path}/")), None
        )
        if row is not None:
            self.wall.choose(row)
            self.editor.begin()
        return True

    def _take_out(self) -> None:
        job, record = self.store.job, record_path(self.wall.chosen.path)
        if job is not None and record:
            self.store.edit(f"Take out {record.rsplit('/', 1)[1]}", without(job, record))
            self.wall.choose(ROWS[0])

    def _ask_photos(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(
            self, "Photos", "", "Pictures (*.jpg *.jpeg *.png *.JPG *.JPEG *.PNG)"
        )
        self.attach_photos([Path(name) for name in names])

    def takes_photos(self) -> bool:
        """Whether the value that is chosen belongs to a part that was found."""
        return record_path(self.wall.chosen.path).startswith("site/found")

    def attach_photos(self, paths: list[Path]) -> bool:
        """Lay photos beside the job and name them at the chosen device; a file that is no picture is said."""
        record = record_path(self.wall.chosen.path)
        if self.store.job is None or not record.startswith("site/found") or not paths:
            return False
        thing = next(device for device in self.store.job.site.found if f"site/found/{device.id}" == record)
        digests = list(thing.photos)
        for path in paths:
            if QImageReader(str(path)).size().isEmpty():
                self.store.trouble.emit(
                    "photo", f"Not attached. {path}: is no picture that can be read; give a JPEG or PNG."
                )
                return False
            digest = self.store.attach(path)
            if digest is None:
                return False
            digests.append(digest)
        self.store.settled.emit("photo")
        return self.store.edit(
            f"Attach photos of {thing.name}", Change(f"{record}/photos", list(dict.fromkeys(digests)))
        )

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())
        self._buttons()

    def _make_table(self) -> QWidget:
        columns: tuple[Column[Line], ...] = (
            words("Fact", lambda line: line.row.words),
            words(
                "Value",
                lambda line: line.value,
                typed=lambda line, text: self._set(line, text, line.known, line.note),
                reads=lambda line: reads_of(line.row),
            ),
            words(
                "Known",
                lambda line: line.known,
                typed=self._typed_known,
                may=lambda line: not line.row.plain,
                choices=lambda line: KNOWN,
                spoken=lambda line: f"How {line.row.words} is known",
            ),
            words(
                "Note",
                lambda line: line.note,
                typed=lambda line, text: self._set(line, line.value, line.known, text),
                may=lambda line: not line.row.plain,
                wide=True,
            ),
        )
        self.facts = Table("Facts of the site", columns, together=self.store.together)
        return self.facts

    def _typed_known(self, line: Line, text: str) -> None:
        if text not in KNOWN:
            self.store.trouble.emit(
                "edit", f"Not changed. {line.row.words}: {text!r} is none of {', '.join(KNOWN)}."
            )
        else:
            self._set(line, line.value, text, line.note)

    def _set(self, line: Line, value: str, known: str, note: str) -> None:
        self.editor.set_fact(line.row, "" if value == "?" else value, known if known in KNOWN else None, note)

    def _ask_weather(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Attach a typical year", "", "Weather (*.csv *.epw *.CSV *.EPW)"
        )
        if name:
            self.attach_weather(Path(name))

    def drop_horizon(self) -> bool:
        """Take the far horizon out again."""
        return self.store.edit("Take the horizon out", Change("site/horizon", []))

    def _ask_horizon(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "The far horizon", "", "Tables (*.csv *.txt *.CSV *.TXT)")
        if name:
            self.take_horizon(Path(name))

    def take_horizon(self, path: Path, zero: Literal["", "north", "south"] = "") -> bool:
        """Take the points of a file; which way they count is asked where the file leaves it open."""
        try:
            points = read_horizon(read_whole(path), path.name, zero)
        except JobError as trouble:
            if trouble.what != COUNTED_BELOW:
                self.store.trouble.emit("horizon", f"Not taken. {trouble}")
                return False
            asked = "Its azimuths run from -180 to 180. They count from"
            word, chosen = QInputDialog.getItem(self, "The far horizon", asked, ["north", "south"], 0, False)
            return chosen and self.take_horizon(path, "south" if word == "south" else "north")
        self.store.settled.emit("horizon")
        rows = [{"azimuth_deg": azimuth, "elevation_deg": elevation} for azimuth, elevation in points]
        return self.store.edit(f"Take the horizon of {path.name}", Change("site/horizon", rows))

    def attach_weather(self, path: Path) -> bool:
        """Attach a weather file to the job and use it; a file that can't be read is said and nothing
        changes."""
        form: Literal["tmy3", "epw"] = "epw" if path.suffix.lower() == ".epw" else "tmy3"
        try:
            file = read_file(read_whole(path), form, path.name)
            if self.store.job is not None:
                check_sun(file.columns["ghi"], place(self.store.job), path.name, "this job's place")
        except JobError as trouble:
            self.store.trouble.emit("weather", f"Not attached. {trouble}")
            return False
        digest = self.store.attach(path)
        if digest is None:
            return False
        self.store.settled.emit("weather")
        weather = {"kind": "file", "format": form, "sha256": digest, "name": path.name}
        return self.store.edit(f"Take the weather of {path.name}", Change("site/weather", weather))

    def readings(self) -> list[Reading]:
        results = self.store.results
        return site_readings(results) if results else []

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        self.wall.refresh()
        self.no_horizon.setEnabled(bool(job.site.horizon))
        self.walk_button.setText(f"Still to read: {len(unread(job))}")
        self.add_menu.clear()
        for addition in additions(job):
            self.add_menu.addAction(addition.words, partial(self.add_record, addition))
        if self.wall.chosen not in rows_of(job):
            self.wall.choose(rows_of(job)[0])
        if not self.editor.value.hasFocus() and not self.editor.note.hasFocus():
            self.editor.show_row(self.wall.chosen)
        self.facts.show_rows([_line(job, row) for row in rows_of(job)])
