"""The Site station: what is there before anything is designed, and how it is known."""

from pathlib import Path
from typing import Literal

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFileDialog,
    QHeaderView,
    QPushButton,
    QScrollArea,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.site.editor import FactEditor
from lodestaff.desktop.stations.site.facts import KNOWN, rows_of, shown, value_of
from lodestaff.desktop.stations.site.plates import PlatesView
from lodestaff.energy.weather import read_file
from lodestaff.job import Change, Fact
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.station_readings import site_readings


class SiteStation(StationView):
    """Plates, the line to read values off, the table."""

    id = "site"
    hint = "Each value says how it is known: ● read, ◆ measured, ■ sheet, ▣ photo, ◐ told, ○ assumed, ? unknown. Click one to read it off."

    def make_drawing(self) -> QWidget:
        self.plates = PlatesView(self.store)
        self.editor = FactEditor(self.store)
        self.plates.chosen_changed.connect(self.editor.show_row)
        self.plates.edit_wanted.connect(self.editor.begin)
        scroller = QScrollArea()
        scroller.setWidgetResizable(True)
        scroller.setWidget(self.plates)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scroller, 1)
        column.addWidget(self.editor)
        weather = QPushButton("Weather from a file…")
        weather.setToolTip("Attach a typical year (TMY3 or EPW); undo brings the synthetic year back")
        weather.clicked.connect(self._ask_weather)
        self.editor.line.addWidget(weather)
        whole.setFocusProxy(self.plates)
        return whole

    def make_table(self) -> QWidget:
        self.facts = QTableWidget(0, 4)
        self.facts.setAccessibleName("Facts of the site")
        self.facts.setHorizontalHeaderLabels(["Fact", "Value", "Known", "Note"])
        self.facts.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.facts.horizontalHeader().setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        self.facts.verticalHeader().hide()
        self.facts.verticalHeader().setDefaultSectionSize(32)
        self.facts.setTabKeyNavigation(False)
        self.facts.itemChanged.connect(self._typed)
        return self.facts

    def _typed(self, item: QTableWidgetItem) -> None:
        assert self.store.job is not None
        row = rows_of(self.store.job)[item.row()]
        cells = [self.facts.item(item.row(), column) for column in (1, 2, 3)]
        value, known, note = (cell.text() if cell else "" for cell in cells)
        if item.column() == 2 and known not in KNOWN:
            self.store.trouble.emit("edit", f"Not changed. {row.words}: {known!r} is none of {', '.join(KNOWN)}.")
        else:
            text = "" if value == "?" else value
            self.editor.set_fact(row, text, known if known in KNOWN else None, note)
        self.refresh()

    def _ask_weather(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Attach a typical year", "", "Weather (*.csv *.epw *.CSV *.EPW)")
        if name:
            self.attach_weather(Path(name))

    def attach_weather(self, path: Path) -> bool:
        """Attach a weather file to the job and use it; a file that can't be read is said and nothing changes."""
        form: Literal["tmy3", "epw"] = "epw" if path.suffix.lower() == ".epw" else "tmy3"
        try:
            read_file(path.read_bytes(), form, path.name)
        except OSError as trouble:
            self.store.trouble.emit("weather", f"Not attached. {path}: {trouble.strerror}")
            return False
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
        self.plates.refresh()
        if not self.editor.value.hasFocus() and not self.editor.note.hasFocus():
            self.editor.show_row(self.plates.chosen)
        self.facts.blockSignals(True)
        self.facts.setRowCount(len(rows_of(job)))
        for index, row in enumerate(rows_of(job)):
            value, known, _ = shown(job, row)
            found = value_of(job, row)
            note = found.note if isinstance(found, Fact) else ""
            for column, text in enumerate((row.words, value, known, note)):
                item = self.facts.item(index, column)
                if item is None:
                    item = QTableWidgetItem()
                    self.facts.setItem(index, column, item)
                item.setText(text)
                fixed = column == 0 or (row.plain and column > 1)
                base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
                item.setFlags(base if fixed else base | Qt.ItemFlag.ItemIsEditable)
        self.facts.blockSignals(False)
