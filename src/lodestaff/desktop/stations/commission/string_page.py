"""The string tests of the day on one page: a row a string, its light once, its readings beside each other."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import Reading, Status
from lodestaff.commissioning.record import Proof, StepResult
from lodestaff.desktop.stations.commission.who import Who
from lodestaff.desktop.table import Column, Table, words
from lodestaff.desktop.understood import Reads, as_number
from lodestaff.job import Job
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number

Kind = Literal["insulation", "voc", "isc"]
READ: tuple[tuple[str, Kind, str], ...] = (
    ("Mohm", "insulation", "Mohm"),
    ("Voc, V", "voc", "V"),
    ("Isc, A", "isc", "A"),
)
LIGHT: tuple[tuple[str, Literal["poa_w_m2", "module_c"], str], ...] = (
    ("W/m²", "poa_w_m2", "W/m²"),
    ("°C", "module_c", "°C"),
)


WORST_FIRST = (Status.FAILED, Status.OPEN, Status.DOUBTFUL, Status.PASSED)


@dataclass(frozen=True)
class StringRow:
    """A string with its steps, by what is read of it, and the light that is typed for it."""

    id: str
    name: str
    steps: dict[Kind, StepResult]
    light: Conditions

    def shown(self, kind: Kind) -> str:
        result = self.steps.get(kind)
        if result is None:
            return "–"
        reading = result.reading
        if reading is None or not reading.numbers:
            return "put off" if reading is not None and reading.put_off else ""
        return plain(reading.numbers[0], 2)

    def verdict(self) -> str:
        """The worst of what was read."""
        said = {result.status for result in self.steps.values() if result.reading is not None}
        return next((str(status) for status in WORST_FIRST if status in said), "")

    def why(self) -> str:
        """What each reading says."""
        return "\n".join(
            result.judgement.words for result in self.steps.values() if result.reading is not None
        )


def string_rows(job: Job, proof: Proof, lights: dict[str, Conditions]) -> list[StringRow]:
    """The strings that are tested. The light is what was typed, else that of the last reading."""
    rows = []
    for string in job.strings:
        steps: dict[Kind, StepResult] = {
            kind: result
            for result in proof.results
            for _, kind, _ in READ
            if (result.step.measure.kind, result.step.measure.subject) == (kind, string.id)
        }
        if not steps:
            continue
        taken = (result.reading.conditions for result in steps.values() if result.reading is not None)
        last = next((light for light in taken if light.poa_w_m2 is not None), Conditions())
        rows.append(StringRow(string.id, string.name, steps, lights.get(string.id, last)))
    return rows


class StringPage(Table[StringRow]):
    """Typing a reading records it with the light of its row; light typed later is recorded with them anew."""

    def __init__(self, who: Who, record: Callable[[Reading], None], complain: Callable[[str], None]) -> None:
        self.who, self._record, self._complain = who, record, complain
        self.lights: dict[str, Conditions] = {}
        columns: list[Column[StringRow]] = [words("String", lambda row: row.name, wide=True)]
        for heading, field, unit in LIGHT:
            shown, typed = partial(_light_of, field), partial(self._light, field, unit)
            columns.append(Column(heading, shown, typed=typed, figures=True, reads=_reader(unit)))
        for heading, kind, unit in READ:
            shown, typed = partial(_reading_of, kind), partial(self._read, kind, unit)
            may = partial(_has, kind)
            columns.append(Column(heading, shown, typed=typed, figures=True, may=may, reads=_reader(unit)))
        columns.append(words("Verdict", StringRow.verdict, tip=StringRow.why, wide=True))
        super().__init__("String tests", columns, sorts=False)

    def _number(self, text: str, unit: str) -> float | None:
        try:
            return read_number(text, unit)
        except JobError as trouble:
            self._complain(f"Not recorded. {trouble}.")
            return None

    def _light(self, field: Literal["poa_w_m2", "module_c"], unit: str, row: StringRow, text: str) -> bool:
        """Light for a row; what was read of it today without any is recorded again with it."""
        number = self._number(text, unit)
        if number is None:
            return False
        light = replace(self.lights.get(row.id, row.light), **{field: number})
        self.lights[row.id] = light
        self.show_rows([replace(other, light=light) if other.id == row.id else other for other in self.rows])
        whole = light.poa_w_m2 is not None and light.module_c is not None
        for result in row.steps.values() if whole else ():
            reading, asks = result.reading, bool(result.step.rule.asks)
            if asks and reading is not None and reading.numbers and reading.conditions.poa_w_m2 is None:
                self._record(self.who.reading(result.step.id, reading.numbers, None, light))
        return True

    def _read(self, kind: Kind, unit: str, row: StringRow, text: str) -> bool:
        number = self._number(text, unit)
        if number is None:
            return False
        step = row.steps[kind].step
        light = self.lights.get(row.id, row.light) if step.rule.asks else Conditions()
        self._record(self.who.reading(step.id, (number,), None, light))
        return True


def _reader(unit: str) -> Callable[[StringRow], Reads | None]:
    """How what is typed into a column is understood."""
    return lambda _: as_number(unit)


def _light_of(field: Literal["poa_w_m2", "module_c"], row: StringRow) -> str:
    value = getattr(row.light, field)
    return "" if value is None else plain(value, 1)


def _reading_of(kind: Kind, row: StringRow) -> str:
    return row.shown(kind)


def _has(kind: Kind, row: StringRow) -> bool:
    return kind in row.steps
