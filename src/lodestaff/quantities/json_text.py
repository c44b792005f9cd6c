"""JSON as it is read everywhere: UTF-8, no key twice, no number that is none, bounded in depth."""

import json
from typing import Any

from lodestaff.quantities.errors import JobError, shortened

MOST_DIGITS = 18
MEND = "mend it there or restore it from a copy"


def read_json(raw: bytes, name: str, right: str = MEND) -> Any:
    """What a JSON document says. Raises JobError with the place: a doubled key is refused, never decided."""
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as trouble:
        raise JobError(f"is not UTF-8 text at byte {trouble.start}", name, right) from trouble
    if not text.strip():
        raise JobError("is empty", name, right)
    try:
        return json.loads(text, parse_constant=_no_constant, parse_int=_whole, object_pairs_hook=_once)
    except json.JSONDecodeError as trouble:
        where = f"{name} line {trouble.lineno} column {trouble.colno}"
        raise JobError(f"is not JSON: {trouble.msg}", where, right) from trouble
    except RecursionError as trouble:
        raise JobError("is JSON nested too deeply", name, right) from trouble
    except ValueError as trouble:
        raise JobError(str(trouble), name, right) from trouble


def _no_constant(name: str) -> float:
    raise ValueError(f"holds {name}, which is no number")


def _whole(text: str) -> int:
    if len(text) > MOST_DIGITS:
        raise ValueError(f"holds a number of {len(text)} digits")
    return int(text)


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    fields = dict(pairs)
    if len(fields) < len(pairs):
        keys = [key for key, _ in pairs]
        twice = next(key for key in keys if keys.count(key) > 1)
        raise ValueError(f"has the key {shortened(twice, 60)!r} twice in one place: which holds?")
    return fields
