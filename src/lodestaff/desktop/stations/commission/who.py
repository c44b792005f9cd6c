"""Who takes a reading, and with what: both from the register, or as typed."""

from datetime import datetime

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QWidget

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import NOT_MEASURED, Reading
from lodestaff.register import Register


def now() -> str:
    """The moment as the journal keeps it."""
    return datetime.now().astimezone().isoformat(timespec="seconds")


class Who(QWidget):
    """Two choices that may be typed over; makes readings signed by what stands in them."""

    def __init__(self) -> None:
        super().__init__()
        self.register = Register()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.person, self.instrument = QComboBox(), QComboBox()
        for box, name in ((self.person, "Taken by"), (self.instrument, "Instrument")):
            box.setEditable(True)
            box.setAccessibleName(name)
            box.setMinimumWidth(64)
            label = QLabel(name)
            label.setObjectName("soft")
            row.addWidget(label)
            row.addWidget(box, 1)

    def show_register(self, register: Register) -> None:
        """Offer the register's people and instruments; what was typed stays."""
        for box, names in (
            (self.person, [person.name for person in register.people]),
            (self.instrument, [instrument.name for instrument in register.instruments]),
        ):
            if [box.itemText(index) for index in range(box.count())] != names:
                typed = box.currentText()
                box.clear()
                box.addItems(names)
                box.setCurrentText(typed or (names[0] if names else ""))
                if (line := box.lineEdit()) is not None:
                    line.setCursorPosition(0)
        self.register = register

    @property
    def name(self) -> str:
        return self.person.currentText().strip()

    def reading(
        self,
        step: str,
        numbers: tuple[float, ...] = (),
        confirmed: bool | None = None,
        conditions: Conditions = NOT_MEASURED,
        said: str = "",
    ) -> Reading:
        """A reading taken now. Raises ValueError where a number is none."""
        instrument = self.instrument.currentText().strip() if numbers else ""
        return Reading(
            step,
            numbers,
            confirmed=confirmed,
            conditions=conditions,
            by=self.name,
            instrument=instrument,
            calibrated_until=self.register.calibrated_until(instrument),
            at=now(),
            said=said,
        )
