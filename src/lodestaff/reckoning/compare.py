"""Two versions of a job side by side, figure by figure."""

from dataclasses import dataclass
from typing import Any

from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.moment import Moment
from lodestaff.reckoning.readings import Reading, limits_readings, loads_readings
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.results import Results, compute
from lodestaff.reckoning.station_readings import array_readings, site_readings, storage_readings


@dataclass(frozen=True)
class Row:
    """One line: what, as it is in A and in B (words), and the difference where both are numbers."""

    group: str
    name: str
    a: str
    b: str
    difference: float | None
    unit: str

    @property
    def same(self) -> bool:
        return self.a == self.b


def compare(reckoner_a: Reckoner, a: Job, reckoner_b: Reckoner, b: Job) -> tuple[Row, ...]:
    """Decisions that differ, all figures, and findings that differ."""
    rows = [
        Row("decision", path, _short(one), _short(other), _gap(one, other), "")
        for path, one, other in differences(a, b)
    ]
    results_a = compute(reckoner_a, a, Moment(), True, True)
    results_b = compute(reckoner_b, b, Moment(), True, True)
    seen: set[str] = set()
    others = {reading.name: reading for reading in _all_readings(results_b)}
    for reading in _all_readings(results_a):
        if reading.name in seen:
            continue
        seen.add(reading.name)
        rows.append(_figure_row(reading, others.get(reading.name)))
    rows += _finding_rows(reckoner_a, a, reckoner_b, b)
    return tuple(rows)


def _all_readings(results: Results) -> list[Reading]:
    """The figures of every station."""
    return [
        *site_readings(results), *loads_readings(results), *array_readings(results), *storage_readings(results),
        *limits_readings(results),
    ]  # fmt: skip


def _figure_row(a: Reading, b: Reading | None) -> Row:
    unit = a.figure.unit
    if b is None:
        return Row("figure", a.name, a.text, "-", None, unit)
    return Row("figure", a.name, a.text, b.text, b.figure.value - a.figure.value, unit)


def _finding_rows(reckoner_a: Reckoner, a: Job, reckoner_b: Reckoner, b: Job) -> list[Row]:
    def by_code(reckoner: Reckoner, job: Job) -> dict[str, dict[str, int]]:
        counts: dict[str, dict[str, int]] = {}
        for found in findings(reckoner, job):
            counts.setdefault(found.code, {}).setdefault(found.status, 0)
            counts[found.code][found.status] += 1
        return counts

    one, other = by_code(reckoner_a, a), by_code(reckoner_b, b)
    rows = []
    for code in sorted(set(one) | set(other)):
        if one.get(code) != other.get(code):
            rows.append(Row("finding", code, _counts(one.get(code, {})), _counts(other.get(code, {})), None, ""))
    return rows


def _counts(statuses: dict[str, int]) -> str:
    return ", ".join(f"{count} {status}" for status, count in sorted(statuses.items())) or "-"


def differences(a: Job, b: Job) -> list[tuple[str, Any, Any]]:
    """Paths at which the two designs differ, with both values (None where one has none)."""
    return list(_walk(a.model_dump(mode="json"), b.model_dump(mode="json"), ""))


def _walk(a: Any, b: Any, path: str) -> Any:
    if isinstance(a, dict) and isinstance(b, dict):
        for key in [*a, *(key for key in b if key not in a)]:
            yield from _walk(a.get(key), b.get(key), f"{path}/{key}" if path else key)
    elif isinstance(a, list) and isinstance(b, list) and all(isinstance(x, dict) and "id" in x for x in [*a, *b]):
        mine, theirs = {x["id"]: x for x in a}, {x["id"]: x for x in b}
        for key in [*mine, *(key for key in theirs if key not in mine)]:
            yield from _walk(mine.get(key), theirs.get(key), f"{path}/{key}")
    elif a != b:
        yield path, a, b


def _short(value: Any) -> str:
    if value is None:
        return "-"
    if isinstance(value, float):
        return f"{value:g}"
    text = str(value)
    return text if len(text) <= 40 else text[:37] + "..."


def _gap(a: Any, b: Any) -> float | None:
    numbers = all(isinstance(one, int | float) and not isinstance(one, bool) for one in (a, b))
    return float(b - a) if numbers else None


def difference_text(row: Row) -> str:
    """The difference in words, with its sign."""
    if row.difference is None or row.difference != row.difference:
        return ""
    if row.difference == 0:
        return "same"
    return ("+" if row.difference > 0 else "") + text_of(row.difference, row.unit)
