"""Serial numbers into the journal; firm, people and instruments into the register."""

from functools import partial
from typing import Any

from pydantic import ValidationError

from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.handover.serials import Wanted, serial_data, serials, wanted_serials
from lodestaff.register import Register

FIELDS: dict[str, tuple[tuple[str, str], ...]] = {
    "firm": (("Name", "name"), ("Address", "address"), ("Phone", "phone"), ("Registration", "registration")),
    "people": (("Name", "name"), ("Licence", "licence")),
    "instruments": (("Name", "name"), ("Serial number", "serial"), ("Calibrated until", "calibrated_until")),
}


class SerialTable(Table[Wanted]):
    """A row per part that wants a serial number; typing one is an entry in the journal."""

    def __init__(self, store: Store) -> None:
        self.store = store
        columns: tuple[Column[Wanted], ...] = (
            words("Part", lambda part: part.name, wide=True),
            words("Place", lambda part: part.place, wide=True),
            words("Serial number", self._held, typed=self._typed, wide=True),
        )
        super().__init__("Serial numbers", columns)

    def refresh(self) -> None:
        """Show the parts of the job."""
        if self.store.job is not None:
            self.show_rows(wanted_serials(self.store.job))

    def _held(self, part: Wanted) -> str:
        return serials(self.store.site.entries).get(part.id, "")

    def _typed(self, part: Wanted, text: str) -> None:
        self.store.site.record("serial", f"{part.name}: {text or 'none'}", "", serial_data(part.id, text))


class RegisterTable(Table[int]):
    """One part of the register; the last row begins a new one, an emptied name takes a row away."""

    def __init__(self, store: Store, part: str) -> None:
        self.store, self.part = store, part
        columns = tuple(
            words(heading, partial(self._shown, field), typed=partial(self._typed, field), wide=True)
            for heading, field in FIELDS[part]
        )
        super().__init__(part.capitalize(), columns, sorts=False)

    def _rows(self) -> list[dict[str, Any]]:
        held = getattr(self.store.site.register, self.part)
        return [held.model_dump()] if self.part == "firm" else [circuit.model_dump() for circuit in held]

    def refresh(self) -> None:
        """Show the register as it is kept."""
        self.show_rows(range(len(self._rows()) + (self.part != "firm")))

    def _shown(self, field: str, row: int) -> str:
        rows = self._rows()
        return str(rows[row][field]) if row < len(rows) else ""

    def _typed(self, field: str, row: int, text: str) -> None:
        rows = self._rows()
        if row == len(rows):
            if not text:
                return
            rows.append({"name": text if field == "name" else "unnamed"})
        rows[row][field] = text
        if self.part != "firm":
            rows = [row for row in rows if row["name"]]
        data = self.store.site.register.model_dump()
        data[self.part] = rows[0] if self.part == "firm" else rows
        try:
            made = Register.model_validate(data)
        except ValidationError as trouble:
            heading = next(heading for heading, name in FIELDS[self.part] if name == field)
            why = str(trouble.errors()[0]["msg"])
            self.store.trouble.emit("register", f"Not kept. {heading} {text!r}: {why}.")
            return
        self.store.settled.emit("register")
        self.store.site.change_register(made)
        self.refresh()
