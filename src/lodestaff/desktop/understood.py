"""What is understood of a number or a date while it is typed, shown at its field before it counts."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtWidgets import QLabel, QLineEdit

from lodestaff.quantities.convention import plain
from lodestaff.quantities.dates import read_date
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number

Reads = Callable[[str], str]  # what is understood, in words; raises JobError


def as_number(unit: str) -> Reads:
    """Understands a number, in a unit."""
    return lambda text: f"{plain(read_number(text, unit))} {unit}".strip()


as_date: Reads = read_date


def said(text: str, reads: Reads) -> str:
    """What to show beside a field: nothing where it is taken just as it stands."""
    typed = text.strip()
    if not typed:
        return ""
    try:
        understood = reads(typed)
    except JobError as trouble:
        return str(trouble)
    return "" if typed in (understood, understood.rpartition(" ")[0]) else f"= {understood}"


class Hint(QLabel):
    """One line under a field, over what lies below it; gone when the field is left."""

    def __init__(self, edit: QLineEdit) -> None:
        super().__init__(edit.window())
        self.edit = edit
        self.setObjectName("hint")
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setMargin(4)
        edit.installEventFilter(self)
        edit.destroyed.connect(self.deleteLater)

    def say(self, words: str) -> None:
        """Show words under the field, or nothing."""
        self.edit.setAccessibleDescription(words)
        self.setVisible(bool(words))
        if words:
            self.setText(words)
            self.adjustSize()
            window = self.edit.window()
            at = self.edit.mapTo(window, QPoint(0, self.edit.height() + 2))
            if at.y() + self.height() > window.height():  # no room below: above
                at = self.edit.mapTo(window, QPoint(0, -self.height() - 2))
            self.move(min(at.x(), max(0, window.width() - self.width())), at.y())
            self.raise_()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.FocusOut, QEvent.Type.Hide):
            self.hide()
        return False


def understand(edit: QLineEdit, reads: Callable[[], Reads | None]) -> None:
    """Show under a field what is understood of it, at every key. `reads` is asked each time: fields change
    their use."""
    hints: list[Hint] = []

    def show(text: str) -> None:
        way = reads()
        words = said(text, way) if way is not None else ""
        if words and not hints:
            hints.append(Hint(edit))
        if hints:
            hints[0].say(words)

    edit.textEdited.connect(show)
