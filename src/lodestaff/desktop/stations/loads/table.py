"""The table of circuits: the drawing's equal, every cell that can be typed in is."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from functools import partial
from typing import Any, Literal, get_args

from PySide6.QtWidgets import QHeaderView

from lodestaff.desktop.stations.loads.timetable_text import (
    climate_text,
    hours_text,
    months_text,
    typed_climate,
    typed_hours,
    typed_months,
)
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, number
from lodestaff.desktop.understood import as_number
from lodestaff.electrical.plate import plate_changes
from lodestaff.job import Change, Circuit, Fact
from lodestaff.job.circuit import Climate, Use
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.reckoning.load_groups import ROLES

Kind = Literal[
    "text", "number", "share", "choice", "fact", "read", "yes", "shown", "hours", "months", "climate", "plate"
]


@dataclass(frozen=True)
class Field:
    """A column: its heading, the field of the circuit (a dot steps into a part of it), and what may be
    typed."""

    heading: str
    field: str
    kind: Kind = "number"
    choices: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """The heading without its unit, as it is said within a line."""
        words = self.heading.removesuffix(f", {self.unit}")
        return words[0].lower() + words[1:]

    @property
    def unit(self) -> str:
        """The unit that stands in the heading, '' where it names none."""
        unit = self.heading.rpartition(", ")[2]
        return unit if unit in UNITS else ""


UNITS = ("W", "kW", "kWh", "kVA", "A", "s", "min", "%")
COLUMNS: tuple[Field, ...] = (
    Field("Circuit", "name", "text"),
    Field("In an outage", "role", "choice", tuple(str(role) for role in ROLES)),
    Field("Phase", "phase", "text"),
    Field("Runs, W", "running_w"),
    Field("Power factor", "power_factor"),
    Field("Start, times", "start_multiple"),
    Field("Start, s", "start_s"),
    Field("A year, kWh", "kwh_year"),
    Field("Night, kWh", "", "shown"),
    Field("Known", "known", "shown"),
    Field("Measured, W", "measured_w", "fact"),
    Field("Measured start, kVA", "measured_start_kva", "fact"),
    Field("Measured on", "measured_w.date", "text"),
    Field("Planned, W", "planned_w", "shown"),
    Field("Worth, 0 to 10", "priority"),
    Field("Shed below, %", "shed_soc", "share"),
    Field("Dropped by", "switched_by", "choice", ("", "contactor", "load control", "hand")),
    Field("Restart after, s", "restart_s"),
    Field("Board", "board", "text"),
    Field("Second supply", "also_on", "text"),
    Field("Surplus on, kW", "surplus.start_kw"),
    Field("off, kW", "surplus.stop_kw"),
    Field("from charge, %", "surplus.min_soc", "share"),
    Field("Topped up", "surplus.top_up", "yes", ("no", "yes")),
    Field("Counted as", "use", "choice", get_args(Use)),
    Field("Device, A", "device_a", "fact"),
    Field("Came later", "added", "yes", ("no", "yes")),
    Field("One run, min", "event_minutes"),
    Field("On weekdays", "weekday", "hours"),
    Field("At weekends", "weekend", "hours"),
    Field("In the year", "months", "months"),
    Field("Follows the weather", "climate", "climate"),
    Field("Kind", "kind", "choice", ("general", "motor", "heating", "car charger")),
    Field("Open-neutral protection", "open_neutral", "read", ("", "yes", "no")),
    Field("Motor's plate", "known", "plate"),
    Field("Soft start, times", "soft_start_multiple"),
    Field(
        "Customer's choice", "on_battery", "choice", ("not decided", "on the battery", "never on the battery")
    ),
    Field("Socket in its switch", "switch_socket", "yes", ("no", "yes")),
)
WRITTEN: dict[str, tuple[Callable[[Any], str], Callable[[str], Any]]] = {
    "hours": (hours_text, typed_hours),
    "months": (months_text, typed_months),
    "climate": (climate_text, typed_climate),
}
EMPTY_IS_NONE = ("priority", "shed_soc", "event_minutes", "soft_start_multiple")


def cell_text(circuit: Circuit, field: Field) -> str:
    """What stands in a cell; of a plate nothing: it becomes what the circuit draws."""
    if field.kind == "plate":
        return ""
    value: Any = circuit
    for step in field.field.split("."):
        value = getattr(value, step)
    if isinstance(value, Fact):
        if field.field == "known":
            return value.words()
        value = value.value
    if field.kind in WRITTEN:
        return WRITTEN[field.kind][0](value)
    if value is None:
        return ""
    if field.kind == "yes":
        return "yes" if value else "no"
    if field.kind == "share":
        return f"{plain(value * 100)}"
    return f"{plain(value)}" if isinstance(value, float | int) else str(value)


def cell_changes(circuit: Circuit, field: Field, text: str) -> tuple[Change, ...]:
    """What typing into a cell changes. Raises ValueError with what would be right."""
    path = f"circuits/{circuit.id}/{field.field.replace('.', '/')}"
    if field.choices and text not in field.choices and field.kind != "choice":
        raise ValueError(f"{text!r} is none of {', '.join(filter(None, field.choices))}")
    if field.kind == "read":
        if circuit.kind != "car charger":
            raise ValueError("only a car charger is asked for it")
        return (Change(path, _read(text or None, "read on site")),)
    if field.kind == "yes":
        return (Change(path, text == "yes"),)
    if field.kind in WRITTEN:
        return (Change(path, WRITTEN[field.kind][1](text)),)
    if field.kind in ("text", "choice"):
        return (Change(path, text),)
    if text == "" and field.kind != "fact":
        if field.field in EMPTY_IS_NONE:
            return (Change(path, None),)
        raise ValueError("nothing was typed; type a number")
    if field.kind == "fact" and text == "":
        return (Change(path, _read(None)),)
    try:
        number = read_number(text, field.unit)
    except JobError as trouble:
        raise ValueError(str(trouble)) from None
    if field.kind == "fact":
        known = "measured" if field.field.startswith("measured") else "read on site"
        return (Change(path, _read(number, known)),)
    if field.field == "priority":
        return (Change(path, int(number)),)
    return (Change(path, number / 100 if field.kind == "share" else number),)


def _read(value: float | str | None, known: str = "") -> dict[str, Any]:
    """A fact as it is stored: read today, or not known any more."""
    if value is None:
        return {"value": None, "known": "assumed", "note": "", "date": ""}
    return {"value": value, "known": known, "note": "", "date": f"{date.today():%Y-%m-%d}"}


def _stored(change: Change, field: Field) -> str:
    """What was understood, as it is kept."""
    value = (
        change.value.get("value")
        if isinstance(change.value, dict) and "value" in change.value
        else change.value
    )
    if field.kind == "climate":
        return climate_text(Climate.model_validate(value) if value is not None else None)
    if isinstance(value, bool) or value is None or field.kind in WRITTEN:
        return (
            ""
            if value is None
            else WRITTEN[field.kind][0](value)
            if field.kind in WRITTEN
            else "yes"
            if value
            else "no"
        )
    return (
        f"{plain(value * (100 if field.kind == 'share' else 1))}"
        if isinstance(value, float | int)
        else str(value)
    )


class CircuitTable(Table[Circuit]):
    """Rows are circuits in the job's order."""

    def __init__(self, store: Store) -> None:
        self.store = store
        super().__init__("Circuits", tuple(map(self._declared, COLUMNS)), together=store.together)
        self.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
        self.setColumnWidth(0, 190)

    def refresh(self) -> None:
        """Show the circuits of the job."""
        if self.store.job is not None:
            self.show_rows(self.store.job.circuits)

    def _declared(self, field: Field) -> Column[Circuit]:
        if field.field == "":
            return number(field.heading, self._night_kwh, decimals=2)
        figures = field.kind in ("number", "share", "fact")
        return Column(
            field.heading,
            lambda circuit: cell_text(circuit, field),
            typed=None if field.kind == "shown" else partial(self._typed, field),
            choices=lambda _: field.choices,
            reads=lambda _: as_number(field.unit) if figures else None,
            order=(lambda circuit: _value(circuit, field)) if figures else None,
            figures=figures,
            spoken=lambda circuit: f"{circuit.name}, {field.heading}",
        )

    def _night_kwh(self, circuit: Circuit) -> float | None:
        results = self.store.results
        return results.night_kwh.get(circuit.id, 0.0) if results else None

    def _typed(self, field: Field, circuit: Circuit, text: str) -> bool:
        try:
            if field.kind == "plate":
                return self._plate(circuit, text)
            changes = cell_changes(circuit, field, text)
        except (ValueError, JobError) as trouble:
            cell = circuit.name if field.kind == "plate" else f"{circuit.name}, {field.heading}"
            self.store.trouble.emit("edit", f"Not changed. {cell}: {trouble}.")
            return False
        stored = _stored(changes[0], field) or "nothing"
        moved = field.field == "role"
        set_to = f"Set {field.words} of {circuit.name} to {stored} {field.unit}".rstrip()
        return self.store.edit(f"Move {circuit.name} to {text}" if moved else set_to, *changes)

    def _plate(self, circuit: Circuit, text: str) -> bool:
        """A motor's plate, as one step; nothing typed is none."""
        job = self.store.job
        if job is None or not text:
            return False
        words, changes = plate_changes(job, circuit, text, read_on=f"{date.today():%Y-%m-%d}")
        return self.store.edit(f"Take the plate of {circuit.name}: it {words}", *changes)


def _value(circuit: Circuit, field: Field) -> float | None:
    """The number of a cell, None where there is none."""
    value: Any = circuit
    for step in field.field.split("."):
        value = getattr(value, step, None)
    value = getattr(value, "value", value)
    return float(value) if isinstance(value, int | float) else None
