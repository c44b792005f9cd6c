"""One line to read off a value: the value, how it is known, a note."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QWidget

from lodestaff.desktop.stations.site.facts import KNOWN, ROWS, YES, FactRow, reads_of, typed, value_of
from lodestaff.desktop.store import Store
from lodestaff.desktop.understood import understand
from lodestaff.job import Change, Fact, Known
from lodestaff.job.plan import leg_names
from lodestaff.quantities.convention import plain

PLACE = ("site/latitude_deg", "site/longitude_deg", "site/altitude_m")


class FactEditor(QWidget):
    """Follows the chosen tag; Enter or Set writes it."""

    written = Signal()

    def __init__(self, store: Store) -> None:
        super().__init__()
        self.store = store
        self.row: FactRow = ROWS[0]
        self.label = QLabel("")
        self.label.setObjectName("strong")
        self.label.setMinimumWidth(150)
        self.label.setWordWrap(True)
        self.value = QLineEdit()
        self.value.setAccessibleName("Value")
        self.choice = QComboBox()
        self.choice.setAccessibleName("Choice")
        self.known = QComboBox()
        self.known.addItems(list(KNOWN))
        self.known.setAccessibleName("How it is known")
        self.note = QLineEdit()
        self.note.setPlaceholderText("note")
        self.note.setAccessibleName("Note")
        self.set_button = QPushButton("Set")
        self.line = row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        for widget, stretch in (
            (self.label, 0),
            (self.value, 2),
            (self.choice, 2),
            (self.known, 2),
            (self.note, 3),
            (self.set_button, 0),
        ):
            row.addWidget(widget, stretch)
        understand(self.value, lambda: reads_of(self.row))
        self.value.returnPressed.connect(self.write)
        self.note.returnPressed.connect(self.write)
        self.set_button.clicked.connect(self.write)

    def show_row(self, row: FactRow) -> None:
        """Show a row's present value."""
        job = self.store.job
        if job is None:
            return
        self.row = row
        stored = value_of(job, row)
        value = stored.value if isinstance(stored, Fact) else stored
        longest = max(self.label.fontMetrics().horizontalAdvance(word) for word in row.words.split())
        self.label.setMinimumWidth(max(150, longest + 4))
        self.label.setText(f"{row.words}{f', {row.unit}' if row.unit else ''}")
        photos = row.kind == "photos"  # attached with a button of their own
        self.set_button.setVisible(not photos)
        self.value.setVisible(not row.choices and not photos)
        self.choice.setVisible(bool(row.choices))
        self.choice.clear()
        self.choice.addItems(list(row.choices))
        self.choice.setCurrentText(
            YES[value] if isinstance(value, bool) else str(value) if value is not None else ""
        )
        self.value.setText(
            ""
            if value is None or photos
            else f"{plain(value)}"
            if isinstance(value, int | float)
            else str(value)
        )
        self.known.setVisible(isinstance(stored, Fact))
        self.note.setVisible(isinstance(stored, Fact))
        if isinstance(stored, Fact):
            self.known.setCurrentText(str(stored.known if stored.value is not None else Known.READ))
            self.note.setText(stored.note)

    def begin(self) -> None:
        """Put the keyboard where the value is typed."""
        target = self.choice if self.row.choices else self.value
        target.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.value.selectAll()

    def write(self) -> None:
        """Write what was typed; where a value became firm by it, say so."""
        text = self.choice.currentText() if self.row.choices else self.value.text()
        if self.set_fact(self.row, text, self.known.currentText(), self.note.text()) and text:
            self.written.emit()

    def set_fact(self, row: FactRow, text: str, known: str | None = None, note: str | None = None) -> bool:
        """Write a value as typed; a fault is said in the window and the old value stands."""
        job = self.store.job
        if job is None:
            return False
        try:
            value = typed(row, text)
        except ValueError as trouble:
            self.store.trouble.emit("edit", f"Not changed. {row.words}: {trouble}.")
            return False
        stored = value_of(job, row)
        if isinstance(stored, Fact):
            made = {**stored.model_dump(mode="json"), "value": value, "known": known or str(stored.known)}
            made["note"] = stored.note if note is None else note
            change = Change(row.path, made)
        else:
            change = Change(row.path, value)
        more: tuple[Change, ...] = ()
        if row.path in PLACE and stored != value:  # who types where the site is has been told so
            confirmed = {"value": "yes", "known": str(Known.TOLD), "note": "", "date": ""}
            more = (Change("site/place_known", confirmed),)
        more += (
            (Change("site/phases", list(leg_names(job.pack.legs, value))),)
            if row.path == "mains/system"
            else ()
        )
        kept = (
            plain(value) if isinstance(value, float | int) and not isinstance(value, bool) else text.strip()
        )
        kept = str(value) if row.kind == "plain date" else kept
        shown = "unknown" if value is None else f"{kept} {row.unit}".strip() or "nothing"
        return self.store.edit(f"Set {row.words[0].lower() + row.words[1:]} to {shown}", change, *more)
