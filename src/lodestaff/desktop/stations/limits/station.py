"""The Limits station: what the unit is told, and what a year makes of it."""

from PySide6.QtWidgets import QPushButton, QWidget

from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.limits.best import BestSearch
from lodestaff.desktop.stations.limits.day import DayView
from lodestaff.desktop.stations.limits.ranges import Ranges
from lodestaff.desktop.stations.limits.table import SettingsTable
from lodestaff.desktop.store import Store
from lodestaff.job import Change, Job, Window
from lodestaff.reckoning.readings import Reading, limits_readings

OFF_GRID_HINT = (
    "One day, noon to noon (standard time). Drag the charge limit; the year, the generator's too, follows "
    "at the right."
)


class LimitsStation(StationView):
    """The day, the settings, the year's figures, the best settings."""

    id = "limits"
    hint = (
        "One day, noon to noon (standard time). Drag the limits and the windows; the year follows at the "
        "right. The table has all settings."
    )
    crowded = True

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())
        self.best = BestSearch(store, self)
        self.best.said.connect(self.say)
        self.ranges = Ranges(store, self)
        self.ranges.came.connect(self.reckoning_changed)
        self.add = QPushButton("Add a window")
        self.add.setToolTip("Hours in which the battery is told to charge, hold or give")
        self.add.clicked.connect(self._add)
        self.remove = QPushButton("Remove the window")
        self.remove.clicked.connect(self._remove)
        self.mean = QPushButton("Mean day")
        self.mean.setCheckable(True)
        self.mean.setToolTip("The mean of all days of the month, in place of the moment's day")
        self.mean.toggled.connect(self._show_mean)
        for button in (self.mean, self.best.button, self.add, self.remove):
            self.buttons.addWidget(button)

    def _make_drawing(self) -> QWidget:
        self.day = DayView(self.store)
        self.day.chose.connect(self._offer)
        return self.day

    def _make_table(self) -> QWidget:
        self.settings = SettingsTable(self.store)
        return self.settings

    def readings(self) -> list[Reading]:
        results = self.store.preview or self.store.results
        if results is None:
            return []
        readings = limits_readings(results)
        return readings if self.store.preview is not None else self.ranges.beside(readings)

    def readings_before(self) -> list[Reading] | None:
        if self.store.preview is None or self.store.results is None:
            return None
        return limits_readings(self.store.results)

    def refresh(self) -> None:
        self.day.refresh()
        job = self.store.job
        if self.best.best is None or self.best.best.job is not job:
            self.explain(self.hint if job is None or job.mains.grid else OFF_GRID_HINT)
        self.settings.refresh()
        self.best.refresh()
        self.ranges.refresh(self.isVisible())
        self._offer()

    def _show_mean(self, mean: bool) -> None:
        self.day.mean = mean
        self.day.refresh()

    def _offer(self) -> None:
        """A window can be added where there is a battery on a grid, the chosen one taken away."""
        job = self.store.job
        self.add.setVisible(job is not None and job.mains.grid and bool(job.banks))
        self.remove.setVisible(job is not None and self._chosen(job) is not None)

    def _chosen(self, job: Job) -> Window | None:
        return next((window for window in job.limits.windows if window.id == self.day.chosen), None)

    def _add(self) -> None:
        """A window for the hours of the low band, to be dragged and told anew."""
        job = self.store.job
        assert job is not None
        taken = {window.id for window in job.limits.windows}
        name = next(f"window-{number}" for number in range(1, 99) if f"window-{number}" not in taken)
        made = Window(
            id=name,
            start_h=job.tariff.low_start_h,
            end_h=job.tariff.low_end_h,
            target_soc=1.0,
            power_kw=max(0.5, job.limits.charge_kw),
        )
        self.store.edit(
            "Add a charge window", Change("limits/windows", [*_plain(job), made.model_dump(mode="json")])
        )
        self.day.choose(name)

    def _remove(self) -> None:
        job = self.store.job
        chosen = self._chosen(job) if job is not None else None
        if job is not None and chosen is not None:
            left = [window for window in _plain(job) if window["id"] != chosen.id]
            self.store.edit(f"Remove the window {chosen.id}", Change("limits/windows", left))

    def close_station(self) -> None:
        """End the searches."""
        self.best.close()
        self.ranges.close()


def _plain(job: Job) -> list[dict[str, object]]:
    return [window.model_dump(mode="json") for window in job.limits.windows]
