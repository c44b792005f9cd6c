"""Timetables as they are typed: `7-18 1, 18-22 0.2` for hours, `11-2 1.5` for months, `heating below 15.5,
80 %`."""

import re
from typing import Any

from lodestaff.job.circuit import Climate

_SPAN = re.compile(r"^(\d{1,2})(?:\s*-\s*(\d{1,2}))?(?:\s+|\s*:\s*)([\d.]+)$")
_CLIMATE = re.compile(r"^(heating|cooling)\s+(below|above)\s+(-?[\d.]+)(?:\s*°?c)?(?:\s*,\s*([\d.]+)\s*%)?$")


def hours_text(weights: tuple[float, ...]) -> str:
    """Hours with a weight, in spans; `any hour` where all are alike."""
    if len(set(weights)) == 1:
        return "any hour"
    return _spans(weights, 0)


def months_text(weights: tuple[float, ...]) -> str:
    """Months (1 to 12) with a weight, in spans; `all year` where all are alike."""
    if len(set(weights)) == 1:
        return "all year"
    return _spans(weights, 1)


def _spans(weights: tuple[float, ...], first: int) -> str:
    """Runs of equal weight; hours end where the next begins, months are counted in."""
    parts, start = [], 0
    for index in range(1, len(weights) + 1):
        if index == len(weights) or weights[index] != weights[start]:
            if weights[start] > 0:
                low, high = start + first, index if first == 0 else index - 1 + first
                span = f"{low}" if first and low == high else f"{low}-{high}"
                parts.append(f"{span} {weights[start]:g}")
            start = index
    return ", ".join(parts)


def typed_hours(text: str) -> list[float]:
    """24 weights from spans. Raises ValueError with what would be right."""
    if text.strip().lower() in ("any hour", "always"):
        return [1.0] * 24
    return _typed(text, 24, 0, "spans of hours like 7-18 1, 18-22 0.2")


def typed_months(text: str) -> list[float]:
    """12 weights from spans; a span may run over the new year. Raises ValueError with what would be right."""
    if text.strip().lower() in ("all year", "always"):
        return [1.0] * 12
    return _typed(text, 12, 1, "spans of months like 11-2 1.5, 6 0.2")


def _typed(text: str, count: int, first: int, right: str) -> list[float]:
    plain = text.split()  # all weights as they are, without commas
    if len(plain) == count and all(re.fullmatch(r"[\d.]+", part) for part in plain):
        return [float(part) for part in plain]
    weights = [0.0] * count
    for part in re.split(r"[,;]", text):
        match = _SPAN.match(part.strip())
        if match is None:
            raise ValueError(f"{part.strip()!r} is no span; type {right}")
        low, high, weight = int(match[1]), match[2], float(match[3])
        last = int(high) if high is not None else low + (1 if first == 0 else 0)
        top = 24 if first == 0 else 12
        if not first <= low <= top or not first <= last <= top:
            raise ValueError(f"{part.strip()!r} is outside {first} to {top}; type {right}")
        for index in _inside(low - first, last - first, count, first):
            weights[index] = weight
    if sum(weights) <= 0:
        raise ValueError(f"no weight is above 0; type {right}")
    return weights


def _inside(low: int, last: int, count: int, first: int) -> list[int]:
    """The places of a span that may run over the end: hours without their end, months with it."""
    end = last if first == 0 else last + 1
    if low < end:
        return list(range(low, min(end, count)))
    return [*range(low, count), *range(end)]


def climate_text(climate: Climate | None) -> str:
    """How a circuit follows the weather, in words."""
    if climate is None:
        return "no"
    side = "below" if climate.kind == "heating" else "above"
    return f"{climate.kind} {side} {climate.balance_c:g}, {climate.share * 100:g} %"


def typed_climate(text: str) -> dict[str, Any] | None:
    """A balance from words; None for `no`. Raises ValueError with what would be right."""
    right = "no, or heating below 15.5, 80 %, or cooling above 22"
    if text.strip().lower() in ("", "no", "none"):
        return None
    match = _CLIMATE.match(text.strip().lower())
    if match is None or (match[1] == "heating") is not (match[2] == "below"):
        raise ValueError(f"{text!r} is not how weather is followed; type {right}")
    share = float(match[4]) / 100 if match[4] else 1.0
    return {"kind": match[1], "balance_c": float(match[3]), "share": share}
