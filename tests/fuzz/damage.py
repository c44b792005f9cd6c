"""Damage done to sound input: bytes, lines, cells, values, structure; the same seed is the same damage."""

import json
import random
import re
from typing import Any

ODD_BYTES = (
    b"\x00",
    b"\xff",
    b"\xef\xbb\xbf",
    b"\r",
    b"\n",
    b'"',
    b",",
    b";",
    b"{",
    b"[" * 300,
    b"=1+1",
    b"\x1b[2J",
)
ODD_NUMBERS = (
    b"0",
    b"-1",
    b"1e300",
    b"-1e-300",
    b"nan",
    b"inf",
    b"9" * 400,
    b"1,150",
    b"0x10",
    b"1_000",
    b"",
)
ODD_VALUES: tuple[Any, ...] = (
    None, True, 0, -1, 1e-12, 1e300, 10**400, "", "x", "\u0000", "\ud7ff", "../../etc", "A" * 5000, [], {},
)  # fmt: skip
Places = list[tuple[Any, ...]]
NUMBER = re.compile(rb"-?\d+(?:\.\d+)?")


def damaged(raw: bytes, rnd: random.Random) -> bytes:
    """Bytes with a few kinds of damage."""
    kinds = [_flipped, _cut, _inserted, _doubled, _number, _lines]
    if raw[:1] in b"{[" and rnd.random() < 0.6:
        kinds = [_structure]
    for _ in range(rnd.choice((1, 1, 1, 2, 4))):
        raw = rnd.choice(kinds)(raw, rnd)
    return raw


def _flipped(raw: bytes, rnd: random.Random) -> bytes:
    if not raw:
        return raw
    at = rnd.randrange(len(raw))
    return raw[:at] + bytes([raw[at] ^ (1 << rnd.randrange(8))]) + raw[at + 1 :]


def _cut(raw: bytes, rnd: random.Random) -> bytes:
    first, last = sorted(rnd.randrange(len(raw) + 1) for _ in range(2))
    return raw[:first] if rnd.random() < 0.5 else raw[:first] + raw[last:]


def _inserted(raw: bytes, rnd: random.Random) -> bytes:
    at = rnd.randrange(len(raw) + 1)
    return raw[:at] + rnd.choice(ODD_BYTES) + raw[at:]


def _doubled(raw: bytes, rnd: random.Random) -> bytes:
    first, last = sorted(rnd.randrange(len(raw) + 1) for _ in range(2))
    return raw[:last] + raw[first : min(last, first + 5000)] + raw[last:]


def _number(raw: bytes, rnd: random.Random) -> bytes:
    found = list(NUMBER.finditer(raw[:200_000]))
    if not found:
        return raw
    one = rnd.choice(found)
    return raw[: one.start()] + rnd.choice(ODD_NUMBERS) + raw[one.end() :]


def _lines(raw: bytes, rnd: random.Random) -> bytes:
    lines = raw.split(b"\n")
    at, other = rnd.randrange(len(lines)), rnd.randrange(len(lines))
    match rnd.randrange(4):
        case 0:
            lines[at], lines[other] = lines[other], lines[at]
        case 1:
            lines.insert(at, lines[other])
        case 2:
            del lines[at]
        case _:
            lines = lines[::-1]
    return b"\n".join(lines)


def _structure(raw: bytes, rnd: random.Random) -> bytes:
    """JSON that stays JSON, with values, keys and lists otherwise."""
    try:
        data = json.loads(raw)
    except (ValueError, RecursionError):
        return _flipped(raw, rnd)
    places = list(_places(data, ()))
    if not places:
        return raw
    for _ in range(rnd.choice((1, 1, 2))):
        holder, key = _at(data, rnd.choice(places))
        if holder is not None:
            _altered(holder, key, rnd, data, places)
    try:
        return json.dumps(data, ensure_ascii=rnd.random() < 0.5).encode("utf-8", errors="surrogatepass")
    except (ValueError, RecursionError):
        return raw


def _altered(holder: Any, key: Any, rnd: random.Random, data: Any, places: Places) -> None:
    old = holder[key]
    match rnd.randrange(6):
        case 0:
            del holder[key]
        case 1 if isinstance(old, int | float) and not isinstance(old, bool):
            holder[key] = min(1e18, old) * rnd.choice((-1, 0, 0.01, 0.5, 2, 10, 1000))
        case 2 if isinstance(old, list) and old:
            holder[key] = rnd.choice((old[:-1], old + old[:1], old[::-1]))
        case 3:
            there, name = _at(data, rnd.choice([one for one in places if one[-1] == key] or places))
            holder[key] = there[name] if there is not None else None
        case _:
            holder[key] = rnd.choice(ODD_VALUES)


def _places(data: Any, before: tuple[Any, ...]) -> Any:
    rows = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    for key, value in rows:
        yield (*before, key)
        yield from _places(value, (*before, key))


def _at(data: Any, place: tuple[Any, ...]) -> tuple[Any, Any]:
    """What holds a place, and its key there; None where earlier damage took it away."""
    for step in place[:-1]:
        try:
            data = data[step]
        except (KeyError, IndexError, TypeError):
            return None, None
    key = place[-1]
    if isinstance(data, dict):
        return (data, key) if key in data else (None, None)
    there = isinstance(data, list) and isinstance(key, int) and key < len(data)
    return (data, key) if there else (None, None)
