"""The Array station: modules on strings, strings on trackers, at the site's temperatures."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHeaderView, QScrollArea, QTableWidget, QTableWidgetItem, QWidget

from lodestaff.desktop.stations.array.geometry import only_units_behind_modules, string_word
from lodestaff.desktop.stations.array.roof import RoofView
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.store import Store
from lodestaff.job import Change
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.station_readings import array_readings

NONE = "none"
BRANCH_HINT = (
    "Drag modules from branch to branch; each has a unit of its own. Double click takes a whole "
    "branch. Keys: arrows, + −, Delete."
)


class ArrayStation(StationView):
    """Faces, ladder, table."""

    id = "array"
    hint = (
        "Drag modules onto a string, strings onto a tracker. Double click takes a whole string. Keys: "
        "arrows, + −, Delete; T for strings."
    )

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())

    def _make_drawing(self) -> QWidget:
        self.view = RoofView(self.store)
        scroller = QScrollArea()
        scroller.setWidgetResizable(True)
        scroller.setFocusProxy(self.view)
        scroller.setWidget(self.view)
        return scroller

    def _make_table(self) -> QWidget:
        self.rows = QTableWidget(0, 3)
        self.rows.setAccessibleName("Strings and modules")
        self.rows.setHorizontalHeaderLabels(["Group or module", "On", "What"])
        self.rows.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.rows.horizontalHeader().setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.rows.verticalHeader().hide()
        self.rows.verticalHeader().setDefaultSectionSize(34)
        self.rows.setTabKeyNavigation(False)
        self._shape: object = None
        return self.rows

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
        self.words.setText(BRANCH_HINT if job is not None and only_units_behind_modules(job) else self.hint)
        self._fill()

    def _fill(self) -> None:
        job = self.store.job
        if job is None:
            return
        modules = [(face, module) for face in job.faces for module in face.modules]
        shape = (
            tuple(one.id for one in job.strings),
            tuple((face.id, module.id) for face, module in modules),
        )
        if shape != self._shape:
            self._shape = shape
            self.rows.setRowCount(len(job.strings) + len(modules))
            for row, string in enumerate(job.strings):
                unit = job.unit(string.unit)
                names = [tracker.name for tracker in job.sheet_of(unit).trackers]
                self._chooser(
                    row,
                    names,
                    f"Input of {string_word(job, string)} {string.name}",
                    lambda text, id=string.id: self.view.move_string(id, text),
                )
            names = [NONE, *(one.name for one in job.strings)]
            for row, (face, module) in enumerate(modules, start=len(job.strings)):
                path = f"faces/{face.id}/modules/{module.id}/string"
                self._chooser(
                    row,
                    names,
                    f"String of module {module.id} on {face.name}",
                    lambda text, path=path: self._assign(path, text),
                )
        for row, string in enumerate(job.strings):
            count = sum(n for _, n in job.modules_in(string.id))
            places = ", ".join(f"{n} on {face.name}" for face, n in job.modules_in(string.id)) or "no modules"
            self._show(
                row,
                f"{string_word(job, string).capitalize()} {string.name}",
                string.tracker,
                f"{count} modules: {places}",
            )
        named = {one.id: one.name for one in job.strings}
        for row, (face, module) in enumerate(modules, start=len(job.strings)):
            self._show(
                row,
                f"{face.name} {module.id}",
                named.get(module.string, NONE),
                job.sheets.modules[face.module].name,
            )

    def _assign(self, path: str, name: str) -> None:
        job = self.store.job
        if job is not None:
            string = next((one.id for one in job.strings if one.name == name), "")
            self.store.edit(
                f"Put a module on {name}" if string else "Take a module off", Change(path, string)
            )

    def _chooser(self, row: int, names: list[str], words: str, act: object) -> None:
        box = QComboBox()
        box.addItems(names)
        box.setAccessibleName(words)
        box.textActivated.connect(act)
        self.rows.setCellWidget(row, 1, box)

    def _show(self, row: int, name: str, on: str, what: str) -> None:
        box = self.rows.cellWidget(row, 1)
        assert isinstance(box, QComboBox)
        box.setCurrentText(on)
        for column, text in ((0, name), (2, what)):
            item = self.rows.item(row, column)
            if item is None:
                item = QTableWidgetItem()
                item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
                self.rows.setItem(row, column, item)
            item.setText(text)
