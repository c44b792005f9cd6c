"""Serial numbers into the journal; firm, people and instruments into the register."""

from typing import Any

from pydantic import ValidationError

from lodestaff.desktop.stations.typed_table import TypedTable
from lodestaff.desktop.store import Store
from lodestaff.handover.serials import serial_data, serials, wanted_serials
from lodestaff.register import Register

FIELDS: dict[str, tuple[tuple[str, str], ...]] = {
    "firm": (("Name", "name"), ("Address", "address"), ("Phone", "phone"), ("Registration", "registration")),
    "people": (("Name", "name"), ("Licence", "licence")),
    "instruments": (("Name", "name"), ("Serial number", "serial"), ("Calibrated until", "calibrated_until")),
}


class SerialTable(TypedTable):
    """A row per part that wants a serial number; typing one is an entry in the journal."""

    def __init__(self, store: Store) -> None:
        super().__init__("Serial numbers", ["Part", "Place", "Serial number"], stretch=True)
        self.store = store

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        wanted, held = wanted_serials(job), serials(self.store.site.entries)
        self.blockSignals(True)
        self.setRowCount(len(wanted))
        for row, one in enumerate(wanted):
            for column, text in enumerate((one.name, one.place, held.get(one.id, ""))):
                self.put(row, column, text, column == 2)
        self.blockSignals(False)

    def typed(self, row: int, column: int, text: str) -> None:
        job = self.store.job
        if job is None or column != 2:
            return
        one = wanted_serials(job)[row]
        if text != serials(self.store.site.entries).get(one.id, ""):
            self.store.site.record("serial", f"{one.name}: {text or 'none'}", "", serial_data(one.id, text))


class RegisterTable(TypedTable):
    """One part of the register; the last row begins a new one, an emptied name takes a row away."""

    def __init__(self, store: Store, part: str) -> None:
        super().__init__(part.capitalize(), [words for words, _ in FIELDS[part]], stretch=True)
        self.store, self.part = store, part

    def _rows(self) -> list[dict[str, Any]]:
        held = getattr(self.store.site.register, self.part)
        return [held.model_dump()] if self.part == "firm" else [one.model_dump() for one in held]

    def refresh(self) -> None:
        rows = self._rows()
        self.blockSignals(True)
        self.setRowCount(len(rows) + (self.part != "firm"))
        for row in range(self.rowCount()):
            for column, (_, field) in enumerate(FIELDS[self.part]):
                self.put(row, column, str(rows[row][field]) if row < len(rows) else "", True)
        self.blockSignals(False)

    def typed(self, row: int, column: int, text: str) -> None:
        rows, field = self._rows(), FIELDS[self.part][column][1]
        if row == len(rows):
            if not text:
                return
            rows.append({"name": text if field == "name" else "unnamed"})
        rows[row][field] = text
        if self.part != "firm":
            rows = [one for one in rows if one["name"]]
        data = self.store.site.register.model_dump()
        data[self.part] = rows[0] if self.part == "firm" else rows
        try:
            made = Register.model_validate(data)
        except ValidationError as trouble:
            words = str(trouble.errors()[0]["msg"])
            self.store.trouble.emit(
                "register", f"Not kept. {FIELDS[self.part][column][0]} {text!r}: {words}."
            )
            return
        self.store.settled.emit("register")
        self.store.site.change_register(made)
