"""The Limits station: what the unit is told, and what a year makes of it."""

from PySide6.QtWidgets import QWidget

from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.limits.day import DayView
from lodestaff.desktop.stations.limits.table import SettingsTable
from lodestaff.desktop.store import Store
from lodestaff.reckoning.readings import Reading, limits_readings

OFF_GRID_HINT = (
    "One day, noon to noon (standard time), without the generator. Drag the charge limit; the "
    "year follows at the right."
)


class LimitsStation(StationView):
    """The day, the settings, the year's figures."""

    id = "limits"
    hint = (
        "One day, noon to noon (standard time). Drag the limits and the charge windows; the year "
        "follows at the right."
    )

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())

    def _make_drawing(self) -> QWidget:
        self.day = DayView(self.store)
        return self.day

    def _make_table(self) -> QWidget:
        self.settings = SettingsTable(self.store)
        return self.settings

    def readings(self) -> list[Reading]:
        results = self.store.preview or self.store.results
        return limits_readings(results) if results else []

    def readings_before(self) -> list[Reading] | None:
        if self.store.preview is None or self.store.results is None:
            return None
        return limits_readings(self.store.results)

    def refresh(self) -> None:
        self.day.refresh()
        job = self.store.job
        self.explain(self.hint if job is None or job.mains.grid else OFF_GRID_HINT)
        self.settings.refresh()
