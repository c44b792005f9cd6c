"""What is typed from a data sheet, in its own units, as the value that the sheet keeps."""

import json
import re
from typing import Any

from lodestaff.catalogue.field_meta import FieldRow
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import FACTORS, awg_mm2, split_number

PLAIN = re.compile(r"\d+(?:[.,]\d+)?")
_N = r"(\d+(?:[.,]\d+)?)"
TRACKER = re.compile(
    rf"^(\S+)\s+{_N}\s*(?:-|–|to)\s*{_N}\s*V?\s*,\s*start\s*{_N}\s*V?\s*,\s*{_N}\s*A?\s*,\s*Isc\s*{_N}\s*A?"
    r"(?:\s*,\s*(\d+)\s*inputs?)?$",
    re.IGNORECASE,
)
HOLE = re.compile(rf"^{_N}\s*,\s+{_N}\s*,\s+{_N}\s*(?:mm)?$", re.IGNORECASE)
HOLE_KEYS = ("x_mm", "y_mm", "diameter_mm")
TRACKER_KEYS = ("v_min", "v_max", "v_start", "imp_max_a", "isc_max_a")
LIST_FORMS = {
    "": "write it as JSON",
    "words": "write the words with commas between",
    "pairs": "write pairs like 0.1: 0.925; 0.5: 0.965",
    "holes": "write holes like 60, 540, 8; 440, 540, 8: along, up and diameter in mm",
    "trackers": "write trackers like A 120-480 V, start 150 V, 16 A, Isc 20 A; B 120-480 V, ...",
}
TRUE, FALSE = ("yes", "true", "1", "y"), ("no", "false", "0", "n")
# A coefficient in an absolute unit becomes percent of the value it belongs to.
OF = {"alpha_isc_pct_per_k": "isc_a", "beta_voc_pct_per_k": "voc_v", "gamma_pmp_pct_per_k": "pmp_w"}
ABSOLUTE = {"A/K": 1.0, "mA/K": 1e-3, "V/K": 1.0, "mV/K": 1e-3, "W/K": 1.0}


def typed(row: FieldRow, text: str, values: dict[str, Any], decimal: str = "") -> Any:
    """The value of what was typed; None for nothing. Raises JobError with what would be right.

    `decimal` is the sign of a file. Lists have a writing of their own, with points.
    """
    text = text.strip()
    if not text:
        return None
    match row.kind:
        case "words":
            return text
        case "choice":
            if text not in row.choices:
                raise JobError(f"{text!r} is none of the choices", row.words, row.bounds)
            return text
        case "yes or no":
            if text.lower() not in (*TRUE, *FALSE):
                raise JobError(f"{text!r} is neither yes nor no", row.words)
            return text.lower() in TRUE
        case "list":
            return _list(row, text)
    return _number(row, text, values, decimal)


def _list(row: FieldRow, text: str) -> Any:
    """A list as it is written by hand (see `shown`), or as JSON."""
    if text.startswith("["):
        try:
            return json.loads(text)
        except (ValueError, RecursionError) as trouble:
            raise JobError(f"is no list: {trouble}", row.words, LIST_FORMS[row.items]) from trouble
    if row.items == "words":
        return [word.strip() for word in text.split(",") if word.strip()]
    items: list[Any] = []
    for part in (piece.strip() for piece in text.split(";")):
        if not part:
            continue
        numbers = [split_number(number, ".")[0] for number in PLAIN.findall(part)]
        if row.items == "pairs" and len(numbers) == 2:
            items.append(numbers)
        elif row.items == "holes" and (hole := HOLE.match(part)):
            numbers = [split_number(number, ".")[0] for number in hole.groups()]
            items.append(dict(zip(HOLE_KEYS, numbers, strict=True)))
        elif row.items == "trackers" and (made := TRACKER.match(part)):
            name, *values, inputs = made.groups()
            numbers = [split_number(value, ".")[0] for value in values]
            items.append(
                {"name": name, **dict(zip(TRACKER_KEYS, numbers, strict=True)), "inputs": int(inputs or 1)}
            )
        else:
            raise JobError(f"{part!r} is not understood", row.words, LIST_FORMS[row.items])
    return items


def _number(row: FieldRow, text: str, values: dict[str, Any], decimal: str) -> float | int:
    try:
        value, unit = split_number(text, decimal)
    except JobError as trouble:
        raise JobError(trouble.what, row.words, trouble.right or _units(row)) from None
    if unit and unit != row.unit:
        value = _converted(row, value, unit, values)
    if row.kind == "whole number":
        if value != int(value):
            raise JobError(f"{value:g} is no whole number", row.words)
        return int(value)
    return float(f"{value:.9g}")


def _converted(row: FieldRow, value: float, unit: str, values: dict[str, Any]) -> float:
    unit = unit.replace("/°C", "/K").replace("mm2", "mm²")
    if unit == row.unit:
        return value
    if unit not in row.also and (unit, row.unit) not in FACTORS:
        raise JobError(f"is not given in {unit!r}", row.words, _units(row))
    if unit in ABSOLUTE:
        base = values.get(OF.get(row.key, ""))
        if not isinstance(base, int | float) or base <= 0:
            raise JobError(
                f"{unit} needs the value it belongs to", row.words, f"type {OF.get(row.key)} first"
            )
        return 100 * value * ABSOLUTE[unit] / base
    if unit == "AWG":
        return round(awg_mm2(value), 3)
    if unit == "°F":
        return (value - 32) * 5 / 9
    return value * FACTORS[unit, row.unit]


def _units(row: FieldRow) -> str:
    units = [unit for unit in (row.unit, *row.also) if unit]
    return f"a number{' in ' + ', '.join(units) if units else ''}"


def shown(row: FieldRow, value: Any, decimal: str = ".") -> str:
    """A value as it is typed."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.9g}".replace(".", decimal)
    return _shown_list(row, value) if row.kind == "list" else str(value)


def _shown_list(row: FieldRow, value: Any) -> str:
    plain = [item.model_dump() if hasattr(item, "model_dump") else item for item in value]
    try:
        if row.items == "words":
            return ", ".join(plain)
        if row.items == "pairs":
            return "; ".join(f"{a:g}: {b:g}" for a, b in plain)
        if row.items == "holes":
            return "; ".join(", ".join(f"{hole[key]:g}" for key in HOLE_KEYS) for hole in plain)
        if row.items == "trackers":
            return "; ".join(_tracker_words(tracker) for tracker in plain)
    except (TypeError, ValueError, KeyError):
        pass  # half typed: shown as it is kept
    return json.dumps(plain, ensure_ascii=False)


def _tracker_words(t: dict[str, Any]) -> str:
    window = f"{t['name']} {t['v_min']:g}-{t['v_max']:g} V, start {t['v_start']:g} V"
    inputs = f", {t['inputs']} inputs" if t.get("inputs", 1) > 1 else ""
    return f"{window}, {t['imp_max_a']:g} A, Isc {t['isc_max_a']:g} A{inputs}"
