"""What of the job a sheet is tried for: one row for each sheet or place that may take it."""

from PySide6.QtWidgets import QComboBox

from lodestaff.job import Job
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.records.runs import runs
from lodestaff.shelf.replace import Place, places_for


class PlaceBox(QComboBox):
    """The places of a kind; the one in hand stays where it is still there."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("In place of")
        self.setToolTip("What of this job the sheet is tried for")
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(6)
        self._places: tuple[Place, ...] = ()

    @property
    def place(self) -> Place | None:
        """The place in hand; None where nothing of the job takes such a sheet."""
        at = self.currentIndex()
        return self._places[at] if 0 <= at < len(self._places) else None

    def show_places(self, job: Job | None, kind: str, reckoner: Reckoner) -> None:
        kept = self.place.old if self.place is not None else None
        self._places = ()
        if job is not None:
            self._places = places_for(job, kind, {run.id: run.name for run in runs(reckoner, job, False)})
        self.clear()
        for place in self._places:
            now = "" if place.sheet == place.old else f": {place.sheet or 'no sheet yet'}"
            self.addItem(f"{place.words}{now}")
        self.setEnabled(bool(self._places))
        if not self._places:
            self.addItem("nothing in this job takes one")
        self.view().setMinimumWidth(self.view().sizeHintForColumn(0) + 2 * self.height())
        self.setCurrentIndex(next((n for n, place in enumerate(self._places) if place.old == kept), 0))
