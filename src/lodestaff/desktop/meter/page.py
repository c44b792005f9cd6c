"""The page of interval data: a file is recognised, its shape shown for confirmation, its log reconciled
with the circuits."""

import typing
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QFileDialog, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from lodestaff.desktop.flow import FlowLayout
from lodestaff.desktop.meter.days import LoggedDays
from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Table, words
from lodestaff.desktop.worker import Worker
from lodestaff.energy.metering import Logged, Recognised, read_intervals, recognise
from lodestaff.energy.metering.forms import lines_of
from lodestaff.energy.metering.text import cells_of
from lodestaff.job import Change, FileShape, IntervalFile, Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.disk import read_whole
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.metered import Reconciled, logged_of, reconcile, scaled_changes, unlisted_change

PREVIEW_PX = 130
# What can be chosen of a shape: its field and words. Columns are typed as numbers from 1.
FIELDS = (
    ("delimiter", "Delimiter", "Its columns are parted by a"),
    ("decimal", "Decimal", "its numbers by a"),
    ("order", "Order of a date", "a date runs"),
    ("unit", "Unit", "its values are"),
    ("interval_min", "Interval, min", "of so many minutes:"),
    ("stamp", "A time is its interval's", "a time is the"),
    ("clock", "Clock", "of it, by"),
    ("value_column", "Value in column", "and the value stands in column"),
)
SHOWN = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", ".": "point"}


def options_of(field: str, columns: int = 0) -> list[tuple[str, Any]]:
    """What a part of the shape may be: words and value."""
    if field == "value_column":
        return [(str(number + 1), number) for number in range(columns)]
    values = typing.get_args(FileShape.model_fields[field].annotation)
    return [
        (SHOWN.get(str(value), str(value)) if field in ("delimiter", "decimal") else str(value), value)
        for value in values
    ]


class MeterPage(SidePage):
    """Nothing is counted on before a person has confirmed how the file is read."""

    def __init__(self, store: Store) -> None:
        self.stop_button = QPushButton("Stop reading")
        self.file_button = QPushButton("Choose a file…")
        super().__init__("Interval data of the meter", self.stop_button, self.file_button)
        self.stop_button.clicked.connect(self.stop)
        self.stop_button.hide()
        self.file_button.clicked.connect(self._browse)
        self.store = store
        self.path: Path | None = None
        self.raw = b""
        self.shape: FileShape | None = None
        self.log: Logged | None = None
        self.explained: Reconciled | None = None
        inside = QWidget()
        inside.setObjectName("surface")
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        scroller = QScrollArea()  # large words scroll; nothing is squeezed
        scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroller.setWidgetResizable(True)
        scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroller.setWidget(inside)
        self.column.addWidget(scroller, 1)
        self.words = QLabel("")
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        column.addLayout(self._sentence())
        self.preview: Table[list[str]] = Table("First lines of the file", (), sorts=False)
        self.preview.setMinimumHeight(PREVIEW_PX)
        column.addWidget(self.preview, 2)
        self.days = LoggedDays()
        column.addWidget(self.days, 3)
        self.column.addLayout(self._foot())
        self.worker = Worker(store.unexpected.emit, self)  # a long file never holds up the job's figures
        self.worker.busy_changed.connect(self.stop_button.setVisible)
        store.job_changed.connect(self._job_changed)

    def _sentence(self) -> FlowLayout:
        """How the file is read, as a sentence that can be corrected word by word."""
        said = FlowLayout()
        self.choices: dict[str, QComboBox] = {}
        for field, label, before in FIELDS:
            words = QLabel(before)
            box = QComboBox()
            words.setMinimumHeight(box.sizeHint().height() + 6)  # on one line with what stands in it
            said.addWidget(words)
            box.setAccessibleName(label)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            box.activated.connect(self._typed)
            self.choices[field] = box
            said.addWidget(box)
        return said

    def _foot(self) -> FlowLayout:
        line = FlowLayout()
        self.weekend = QPushButton("Weekends")
        self.weekend.setCheckable(True)
        self.weekend.toggled.connect(lambda on: self.days.show_found(self.explained, on))
        self.confirm = QPushButton("It is read right: use it")
        self.confirm.setToolTip("Attach the file and count on it")
        self.confirm.clicked.connect(self.use)
        self.list_button = QPushButton("List what is missing")
        self.list_button.setToolTip("A circuit that draws what no listed circuit explains")
        self.list_button.clicked.connect(
            lambda: self._cure("List what the meter logged beside the circuits", False)
        )
        self.scale_button = QPushButton("Bring energy to the log")
        self.scale_button.setToolTip(
            "Yearly energies that nobody measured are brought down to what was logged"
        )
        self.scale_button.clicked.connect(lambda: self._cure("Bring the circuits' energy to the log", True))
        line.addWidget(self.weekend)
        for button in (self.list_button, self.scale_button, self.confirm):
            line.addWidget(button)
        return line

    # --- opening -----------------------------------------------------------------------------------------
    def open(self) -> None:
        """Show the job's own data, or what to do where it has none."""
        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        self._buttons()
        metered = job.site.metered
        if metered is None:
            self._clear(
                "Choose the CSV file that the meter's operator exports: 5 to 60 minutes, a line for each "
                "interval or day."
            )
            return
        self.words.setText(f"{metered.name} is being read…")
        self.worker.ask("meter", lambda: _of_job(reckoner, job, metered), self._answered, self._not_read)

    def _clear(self, words: str) -> None:
        self.path, self.shape, self.log, self.explained = None, None, None, None
        self.words.setText(words)
        self.preview.show_rows(())
        self.days.show_found(None)
        self._buttons()

    def _browse(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self,
            "Interval data",
            "",
            "Interval data (*.csv *.txt *.tsv *.xml *.xlsx *.gz *.CSV *.TXT *.XML *.XLSX)",
        )
        if name:
            self.read(Path(name))

    def read(self, path: Path, shape: FileShape | None = None) -> None:
        """Recognise a file, or read it by a shape, off the window's thread."""
        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        self.words.setText(f"{path.name} is being read…")
        self.worker.ask("meter", lambda: _of_file(reckoner, job, path, shape), self._answered, self._not_read)

    def _typed(self) -> None:
        """A part of the shape was chosen: read anew by it."""
        if self.shape is None:
            return
        chosen = {field: box.currentData() for field, box in self.choices.items()}
        shape = FileShape.model_validate({**self.shape.model_dump(), **chosen})
        if self.path is not None:
            self.read(self.path, shape)
        elif self.store.job is not None and self.store.job.site.metered is not None:
            taken = self.store.job.site.metered.model_copy(update={"shape": shape, "confirmed": False})
            self.store.edit(
                "Read the meter's data another way", Change("site/metered", taken.model_dump(mode="json"))
            )
            self.open()

    def stop(self) -> None:
        """Forget what is being read; what was there stays."""
        self.worker.drop("meter")
        self.words.setText("Stopped; nothing was taken.")

    # --- what came of it -----------------------------------------------------------------------------------
    def _not_read(self, error: Exception) -> None:
        self.words.setText(f"Not read. {error}")
        self.log = self.explained = None
        self.days.show_found(None)
        self._buttons()

    def _answered(self, answer: "Answer") -> None:
        self.path, self.raw, recognised, shape, self.log, self.explained, trouble = answer
        self.shape = shape
        self._show_shape(shape)
        self._show_preview(shape)
        self.words.setText(self._say(recognised, trouble))
        self.days.show_found(self.explained, self.weekend.isChecked())
        self._buttons()

    def _say(self, recognised: Recognised | None, trouble: str) -> str:
        """What was logged, what is in doubt, what is explained."""
        if trouble:
            return f"Not read. {trouble}"
        log, explained = self.log, self.explained
        assert log is not None
        kw, when = log.highest()
        first, last = log.span()
        parts = [
            f"{first} to {last}, {log.interval_min} min: {text_of(log.total_kwh, 'kWh', 0)}, highest "
            f"{text_of(kw, 'kW')} on {when}; "
            f"{plain(log.covered * 100, 1)} % of the days have values, {len(log.gaps)} gaps."
        ]
        parts += [f"{note[0].upper()}{note[1:]}." for note in log.notes]
        doubts = recognised.doubts if recognised else ()
        if doubts:
            parts.append(f"In doubt: {'; '.join(doubts)}.")
        if explained is not None and explained.measured_kwh > 0:
            share = 1 - explained.unexplained_kwh / explained.measured_kwh
            parts.append(
                f"The circuits explain {plain(share * 100, 0)} %; "
                f"{text_of(explained.unexplained_kwh, 'kWh', 0)} a year are in no circuit, "
                f"{text_of(explained.over_kwh, 'kWh', 0)} of theirs were not logged."
            )
        return " ".join(parts)

    def _show_shape(self, shape: FileShape) -> None:
        lines = lines_of(self.raw, "")[: shape.header_lines + 6]
        columns = max((len(cells_of(line, shape.delimiter)) for line in lines), default=1)
        for field, box in self.choices.items():
            box.clear()
            for label, value in options_of(field, columns):
                box.addItem(label, value)
            box.setCurrentIndex(max(0, box.findData(getattr(shape, field))))

    def _show_preview(self, shape: FileShape) -> None:
        rows = [
            cells_of(line, shape.delimiter)[:12] for line in lines_of(self.raw, "")[: shape.header_lines + 6]
        ]
        named = {shape.value_column: shape.unit, shape.time_column: "time", shape.date_column: "date"}
        columns = [
            words(named.get(place, str(place + 1)), partial(_part, place))
            for place in range(max(map(len, rows), default=0))
        ]
        self.preview.show_rows(rows, columns)

    def _buttons(self) -> None:
        job = self.store.job
        metered = job.site.metered if job else None
        settled = self.path is None and metered is not None and metered.confirmed
        self.confirm.setEnabled(self.log is not None and not settled)
        told = self.explained if settled else None
        self.list_button.setEnabled(told is not None and told.unexplained_kwh > 1)
        self.scale_button.setEnabled(told is not None and told.circuits_kwh > told.measured_kwh)
        for box in self.choices.values():
            box.setEnabled(self.shape is not None)

    def _job_changed(self) -> None:
        if self.isVisible() and self.path is None:
            self.open()

    # --- using it ---------------------------------------------------------------------------------------
    def use(self) -> bool:
        """Attach the file and confirm its shape, as one step."""
        job = self.store.job
        if job is None or self.shape is None or self.log is None:
            return False
        if self.path is not None:
            digest = self.store.attach(self.path)
            if digest is None:
                return False
            taken = IntervalFile(sha256=digest, name=self.path.name, shape=self.shape, confirmed=True)
        else:
            assert job.site.metered is not None
            taken = job.site.metered.model_copy(update={"shape": self.shape, "confirmed": True})
        self.path = None
        return self.store.edit(
            f"Use the meter's data of {taken.name}", Change("site/metered", taken.model_dump(mode="json"))
        )

    def _cure(self, name: str, scale: bool) -> bool:
        job = self.store.job
        if job is None or self.explained is None:
            return False
        change = unlisted_change(job, self.explained)
        changes = scaled_changes(job, self.explained) if scale else (change,) if change is not None else ()
        return self.store.edit(name, *changes) if changes else False


Answer = tuple[Path | None, bytes, Recognised | None, FileShape, Logged | None, Reconciled | None, str]


def _part(place: int, line: list[str]) -> str:
    return line[place] if place < len(line) else ""


def _of_file(reckoner: Reckoner, job: Job, path: Path, shape: FileShape | None) -> Answer:
    """A file recognised and read. Raises JobError where it has no shape at all."""
    raw = read_whole(path)
    zone, offset = job.time_zone, job.site.utc_offset_h
    recognised = recognise(raw, path.name, zone, offset, job.pack.month_first) if shape is None else None
    taken = recognised.shape if recognised else shape
    assert taken is not None
    try:
        log = read_intervals(raw, path.name, taken, zone, offset)
    except JobError as trouble:
        return path, raw, recognised, taken, None, None, str(trouble)
    return path, raw, recognised, taken, log, reconcile(reckoner, job, log), ""


def _of_job(reckoner: Reckoner, job: Job, metered: IntervalFile) -> Answer:
    """The job's own data. Raises JobError where the file is missing."""
    raw = reckoner.attachment(metered.sha256)
    try:
        log = logged_of(reckoner, job)
    except JobError as trouble:
        return None, raw, None, metered.shape, None, None, str(trouble)
    return None, raw, None, metered.shape, log, reconcile(reckoner, job, log) if log else None, ""
