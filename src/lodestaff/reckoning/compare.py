"""Two versions of a job side by side, figure by figure."""

import math
from collections import Counter
from dataclasses import dataclass
from typing import Any

from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.figure_rows import STATUSES, whose
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.moment import Moment
from lodestaff.reckoning.readings import Reading, limits_readings, loads_readings
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.results import Results, compute
from lodestaff.reckoning.station_readings import array_readings, site_readings, storage_readings
from lodestaff.reckoning.wiring_measures import wiring_measures
from lodestaff.shelf.prices import load_prices

LESS_IS_BETTER = ("bill", "promise")  # figures of money


@dataclass(frozen=True)
class Row:
    """One line: what, as it is in A and in B (words), and the difference where both are numbers.

    `better` says whether B is the better one, where that can be said; `share` is how far they are apart, of
    the larger.
    """

    group: str
    name: str
    a: str
    b: str
    difference: float | None
    unit: str
    better: bool | None = None
    share: float = 0.0

    @property
    def same(self) -> bool:
        return self.a == self.b


def compare(reckoner_a: Reckoner, a: Job, reckoner_b: Reckoner, b: Job) -> tuple[Row, ...]:
    """Decisions that differ, all figures, and findings that differ."""
    rows = [
        Row("decision", path, a=_short(before), b=_short(other), difference=_gap(before, other), unit="")
        for path, before, other in differences(a, b)
    ]
    results_a = compute(reckoner_a, a, Moment(), True, True)
    results_b = compute(reckoner_b, b, Moment(), True, True)
    mine, others = _by_key(results_a), _by_key(results_b)
    keys = list(dict.fromkeys([*mine, *others]))
    often = Counter(mine.get(key, others.get(key)).name for key in keys)  # type: ignore[union-attr]
    for key in keys:
        reading, other = mine.get(key), others.get(key)
        shown = reading or other
        assert shown is not None
        owner = whose(key[1], a, b) if often[shown.name] > 1 else ""
        gap = other.figure.value - reading.figure.value if reading and other else None
        name = f"{shown.name}, {owner}" if owner else shown.name
        rows.append(
            Row(
                "figure",
                name,
                a=_text(reading),
                b=_text(other),
                difference=gap,
                unit=shown.figure.unit,
                better=_better(reading, other),
                share=_apart(reading, other),
            )
        )
    rows += _wiring_rows(reckoner_a, a, reckoner_b, b)
    rows += _finding_rows(reckoner_a, a, reckoner_b, b)
    return tuple(rows)


def _wiring_rows(reckoner_a: Reckoner, a: Job, reckoner_b: Reckoner, b: Job) -> list[Row]:
    """What either wiring takes; less is better."""
    book = load_prices()
    pairs = zip(wiring_measures(reckoner_a, a, book), wiring_measures(reckoner_b, b, book), strict=True)
    rows = []
    for measure, other in pairs:
        both = measure.value is not None and other.value is not None
        gap = other.value - measure.value if measure.value is not None and other.value is not None else None
        words = [
            text_of(each.value, each.unit) if each.value is not None else "open" for each in (measure, other)
        ]
        largest = max(abs(measure.value or 0.0), abs(other.value or 0.0))
        rows.append(
            Row(
                "wiring",
                measure.name,
                a=words[0],
                b=words[1],
                difference=0.0 if words[0] == words[1] else gap,
                unit=measure.unit,
                better=gap < 0 if gap else None,
                share=abs(gap or 0.0) / largest if both and largest else 0.0,
            )
        )
    return rows


def _all_readings(results: Results) -> list[Reading]:
    """The figures of every station."""
    return [
        *site_readings(results),
        *loads_readings(results),
        *array_readings(results),
        *storage_readings(results),
        *limits_readings(results),
    ]


def _by_key(results: Results) -> dict[tuple[str, str, str], Reading]:
    """The figures by what names each alone; one that several stations show stands once."""
    readings: dict[tuple[str, str, str], Reading] = {}
    for reading in _all_readings(results):
        readings.setdefault(reading.key, reading)
    return readings


def _better(reading: Reading | None, other: Reading | None) -> bool | None:
    """Whether the second is the better: by its verdict, else by where its limit, or its money, lies."""
    if reading is None or other is None or reading.text == other.text:
        return None
    if reading.status != other.status:
        return STATUSES.index(other.status) > STATUSES.index(reading.status)
    if other.figure.value == reading.figure.value or not (other.limited or other.quantity in LESS_IS_BETTER):
        return None
    more = other.figure.value > reading.figure.value
    return more if other.better_up else not more


def _apart(reading: Reading | None, other: Reading | None) -> float:
    """How far two are apart, as a share of the larger; 0 where that can't be said."""
    if reading is None or other is None:
        return 0.0
    a, b = reading.figure.value, other.figure.value
    largest = max(abs(a), abs(b))
    return abs(a - b) / largest if largest > 0 and math.isfinite(a - b) else 0.0


def _text(reading: Reading | None) -> str:
    return reading.text if reading is not None else "-"


def _finding_rows(reckoner_a: Reckoner, a: Job, reckoner_b: Reckoner, b: Job) -> list[Row]:
    def by_code(reckoner: Reckoner, job: Job) -> dict[str, dict[str, int]]:
        counts: dict[str, dict[str, int]] = {}
        for finding in findings(reckoner, job):
            counts.setdefault(finding.code, {}).setdefault(finding.status, 0)
            counts[finding.code][finding.status] += 1
        return counts

    first, other = by_code(reckoner_a, a), by_code(reckoner_b, b)
    rows = []
    for code in sorted(set(first) | set(other)):
        if first.get(code) != other.get(code):
            rows.append(
                Row(
                    "finding",
                    code,
                    a=_counts(first.get(code, {})),
                    b=_counts(other.get(code, {})),
                    difference=None,
                    unit="",
                )
            )
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
    elif (
        isinstance(a, list)
        and isinstance(b, list)
        and all(isinstance(x, dict) and "id" in x for x in [*a, *b])
    ):
        mine, theirs = {x["id"]: x for x in a}, {x["id"]: x for x in b}
        for key in [*mine, *(key for key in theirs if key not in mine)]:
            yield from _walk(mine.get(key), theirs.get(key), f"{path}/{key}")
    elif a != b:
        yield path, a, b


def _short(value: Any) -> str:
    if value is None:
        return "-"
    if isinstance(value, float):
        return f"{plain(value)}"
    text = str(value)
    return text if len(text) <= 40 else text[:37] + "..."


def _gap(a: Any, b: Any) -> float | None:
    numbers = all(isinstance(value, int | float) and not isinstance(value, bool) for value in (a, b))
    return float(b - a) if numbers else None


def difference_text(row: Row) -> str:
    """The difference in words, with its sign."""
    if row.difference is None or row.difference != row.difference:
        return ""
    if row.difference == 0:
        return "same"
    return ("+" if row.difference > 0 else "") + text_of(row.difference, row.unit)
