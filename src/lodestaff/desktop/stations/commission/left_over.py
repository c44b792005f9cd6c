"""What the day leaves over: snags with owner and day, and devices left otherwise than designed."""

from datetime import date, timedelta

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from lodestaff.commissioning.as_left import AsLeft, as_left, taking
from lodestaff.commissioning.snags import Snag, closing_data, snag_data, snags
from lodestaff.desktop.stations.commission.who import Who
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Table, words
from lodestaff.quantities.errors import JobError

WEEK = timedelta(days=7)


class Snags(QWidget):
    """A line to write one down, and all that there are; how one was put right is typed into its row."""

    complained = Signal(str)

    def __init__(self, store: Store, who: Who) -> None:
        super().__init__()
        self.store, self.who = store, who
        self.step = ""  # the step in view, that shows it
        self.text, self.owner, self.due = QLineEdit(), QComboBox(), QLineEdit()
        self.text.setPlaceholderText("what is wrong or left over")
        self.text.setAccessibleName("Snag")
        self.owner.setEditable(True)
        self.owner.setAccessibleName("Who puts it right")
        self.due.setText((date.today() + WEEK).isoformat())
        self.due.setAccessibleName("By when")
        self.due.setMaximumWidth(130)
        self.add = QPushButton("Write down")
        self.add.setToolTip("Into the journal, with the step in view")
        self.add.clicked.connect(self.write)
        self.text.returnPressed.connect(self.write)
        row = QHBoxLayout()
        row.addWidget(self.owner, 1)
        row.addWidget(self.due)
        row.addWidget(self.add)
        self.list: Table[Snag] = Table(
            "Snags",
            (
                words("Snag", lambda snag: snag.text, tip=lambda snag: snag.text, wide=True),
                words("Whose", lambda snag: snag.owner),
                words("By", _due),
                words(
                    "Put right",
                    lambda snag: snag.done,
                    typed=self._close,
                    may=lambda snag: not snag.done,
                    wide=True,
                ),
            ),
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.addWidget(self.text)
        column.addLayout(row)
        column.addWidget(self.list, 1)

    def refresh(self) -> None:
        """Show the journal's snags, the open ones first; offer the register's people."""
        people = [person.name for person in self.store.site.register.people]
        if [self.owner.itemText(place) for place in range(self.owner.count())] != people:
            typed = self.owner.currentText()
            self.owner.clear()
            self.owner.addItems(people)
            self.owner.setCurrentText(typed)
        all_snags = snags(self.store.site.entries)
        self.list.show_rows(sorted(all_snags, key=lambda snag: (bool(snag.done), snag.due)))

    def write(self) -> None:
        """Into the journal; what isn't said is asked for, and stays typed."""
        text = self.text.text().strip()
        try:
            data = snag_data(self.owner.currentText(), self.due.text(), self.step)
            if not text:
                raise JobError("it has no words", "snag", "say what is wrong")
        except JobError as trouble:
            self.complained.emit(f"Not written down. {trouble}.")
            return
        if self.store.site.record("snag", text, self.who.name, data):
            self.text.clear()
            self.refresh()

    def _close(self, snag: Snag, how: str) -> bool:
        if not how.strip():
            return False
        data = closing_data(snag.id, how)
        done = self.store.site.record("snag", f"{snag.text}: {how.strip()}", self.who.name, data)
        self.refresh()
        return done


def _due(snag: Snag) -> str:
    return f"{snag.due}, late" if snag.late(date.today()) else snag.due


class LeftOtherwise(QWidget):
    """Each difference with a button that brings the design to it; below, the whole of the one in view, and
    why it can't be taken where it can't."""

    def __init__(self, store: Store, who: Who) -> None:
        super().__init__()
        self.store, self.who = store, who
        self._for: tuple[object, int] = (None, 0)  # the job and the entries that it was made of
        self.list: Table[AsLeft] = Table(
            "Left otherwise than designed",
            (
                words("Found", lambda difference: difference.text, tip=_whole, wide=True),
                words(
                    "Into the design",
                    lambda difference: "Why not" if difference.why_not else "Take",
                    press=self.take,
                ),
            ),
        )
        self.whole = QLabel()
        self.whole.setWordWrap(True)
        self.whole.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.list.came_to.connect(lambda shown: self.whole.setText(_whole(shown)))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.addWidget(self.list, 1)
        column.addWidget(self.whole)

    def refresh(self) -> None:
        """Show what the readings of the day leave between device and design."""
        job, count = self.store.job, len(self.store.site.entries)
        if job is None or (self._for[0] is job and self._for[1] == count):
            return  # going from step to step changes nothing here
        self._for = (job, count)
        topology = self.store.reckoner.wiring(job).topology
        differences = as_left(job, topology, self.store.site.entries)
        if differences != self.list.rows:
            self.list.show_rows(differences)
            self.whole.setText(
                _whole(differences[0]) if differences else "Every device holds what the design says."
            )

    def take(self, difference: AsLeft) -> None:
        """Change the design; readings that the change makes void are withdrawn."""
        if difference.why_not:
            self.whole.setText(_whole(difference))
            return
        told = taking([difference], self.store.site.entries)
        if not self.store.edit("Take as left", *difference.changes):
            return
        for kind, text, corrects in told:
            self.store.site.record(kind, text, self.who.name, corrects=corrects)
        self.refresh()


def _whole(difference: AsLeft) -> str:
    if difference.why_not:
        return f"{difference.text}. It can't flow back: {difference.why_not}."
    anew = ", ".join(again.step.replace("-", " ") for again in difference.anew) or "nothing"
    return f"{difference.text}. Taken into the design, to be read anew: {anew}."
