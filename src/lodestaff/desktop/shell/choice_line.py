"""What the customer chose of several ways, why, and who was there: typed in one line, put on record."""

from collections.abc import Sequence
from datetime import date

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QWidget

from lodestaff.job import Change, Job
from lodestaff.job.found import Choice


class ChoiceLine(QWidget):
    """The line; what is done with it its page says."""

    def __init__(self, names: Sequence[str] = ()) -> None:
        super().__init__()
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(QLabel("The customer chose"))
        self.chosen = QComboBox()
        self.chosen.setAccessibleName("Way that was chosen")
        self.chosen.addItems(list(names))
        self.why = QLineEdit()
        self.why.setPlaceholderText("why")
        self.why.setAccessibleName("Why it was chosen")
        self.by = QLineEdit()
        self.by.setPlaceholderText("who was there")
        self.by.setAccessibleName("Who was there")
        for widget, stretch in ((self.chosen, 0), (self.why, 3), (self.by, 1)):
            line.addWidget(widget, stretch)

    @property
    def said(self) -> dict[str, str]:
        """Why, by whom and today, as a record of a choice takes them."""
        return {
            "why": self.why.text().strip(),
            "by": self.by.text().strip(),
            "date": f"{date.today():%Y-%m-%d}",
        }


def recorded(job: Job, choice: Choice) -> Change:
    """The edit that puts a choice on record beside those that are there."""
    return Change("choices", [other.model_dump(mode="json") for other in (*job.choices, choice)])
