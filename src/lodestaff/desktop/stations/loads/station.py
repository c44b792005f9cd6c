"""The Loads station: what must stay on, decided with numbers."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QTableView, QWidget

from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.loads.rails import RailsView
from lodestaff.desktop.stations.loads.table import CircuitModel, circuit_table
from lodestaff.reckoning.readings import Reading, loads_readings


class LoadsStation(StationView):
    """Rails, table, margins."""

    id = "loads"
    hint = "Width: running kVA. Height: energy through the night. Dashed: the worst start. Drag a circuit to another rail (keys H S G L)."

    def make_drawing(self) -> QWidget:
        self.rails = RailsView(self.store)
        scroller = QScrollArea()
        scroller.setWidgetResizable(True)
        scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroller.setFocusProxy(self.rails)
        scroller.setWidget(self.rails)
        return scroller

    def make_table(self) -> QWidget:
        self.circuits: QTableView = circuit_table(self.store)
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
        model = self.circuits.model()
        assert isinstance(model, CircuitModel)
        model.refresh()
