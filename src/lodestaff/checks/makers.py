"""The makers of findings: a value held to a limit, found to be one of some, noted, or left open.

A value or a limit that isn't known leaves a finding open; cures are looked for only where something is wrong.
"""

import math
from collections.abc import Callable, Mapping
from typing import TypedDict, Unpack

from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.quantities import Figure, Input, Source

Cures = tuple[Remedy, ...] | Callable[[], tuple[Remedy, ...]]
SAME = 1e-9  # values that differ by a part in so many are equal


class Words(TypedDict, total=False):
    """The words of a finding's figure; `rests_on` is what the limit rests on, where that isn't the figure's
    source."""

    name: str
    formula: str
    inputs: tuple[Input, ...]
    source: Source
    note: str
    rests_on: Source


class Rest(Words, total=False):
    """What any finding may carry beside its value and verdict.

    `because` leaves it open; `quantity` tells the answers of one check on one record apart.
    """

    because: tuple[str, ...]
    cures: Cures
    advice: str
    subjects: tuple[str, ...]
    state: str
    quantity: str


def resting_on(words: Words, source: Source) -> Words:
    """The same figure, with a limit that rests on something of its own."""
    more = words.copy()
    more["rests_on"] = source
    return more


def at_most(
    *,
    value: float | None,
    limit: float | None,
    unit: str = "",
    text: str,
    worse: Verdict = Verdict.BLOCKS,
    near: float | None = None,
    kept: bool | None = None,
    **rest: Unpack[Rest],
) -> Finding:
    """A value that must not exceed its limit: else it is `worse`. Beyond `near` it warns.

    `kept` says whether the limit is kept where more than the value decides that.
    """
    if value is None or math.isnan(value) or limit is None:
        return _unknown(value, limit, unit, text, rest)
    over = value > limit + abs(limit) * SAME if kept is None else not kept
    verdict = worse if over else Verdict.WARNS if near is not None and value > near else Verdict.PASSED
    return _made(verdict, value, unit=unit, text=text, limit=limit, margin=limit - value, rest=rest)


def at_least(
    *,
    value: float | None,
    limit: float | None,
    unit: str = "",
    text: str,
    worse: Verdict = Verdict.BLOCKS,
    kept: bool | None = None,
    **rest: Unpack[Rest],
) -> Finding:
    """A value that must not fall below its limit: else it is `worse`. `kept` as for `at_most`."""
    if value is None or math.isnan(value) or limit is None:
        return _unknown(value, limit, unit, text, rest)
    under = value < limit - abs(limit) * SAME if kept is None else not kept
    return _made(
        worse if under else Verdict.PASSED,
        value,
        unit=unit,
        text=text,
        limit=limit,
        margin=value - limit,
        rest=rest,
    )


def one_of(
    *,
    word: str | None,
    bad: Mapping[str, Verdict],
    text: str,
    value: float | None = None,
    unit: str = "",
    **rest: Unpack[Rest],
) -> Finding:
    """What was found, as a word: as bad as `bad` says of it, else good. What isn't known is open."""
    if word is None:
        rest["because"] = rest.get("because") or ("it is unknown",)
    return _made(
        bad.get(word or "", Verdict.PASSED), value, unit=unit, text=text, limit=None, margin=None, rest=rest
    )


def noted(
    *,
    text: str,
    verdict: Verdict = Verdict.NOTES,
    value: float | None = None,
    unit: str = "",
    limit: float | None = None,
    margin: float | None = None,
    **rest: Unpack[Rest],
) -> Finding:
    """What is said without being held to a limit, or was judged elsewhere with its limit and margin."""
    return _made(verdict, value, unit=unit, text=text, limit=limit, margin=margin, rest=rest)


def open_(
    *,
    text: str,
    verdict: Verdict = Verdict.NOTES,
    value: float | None = None,
    unit: str = "",
    limit: float | None = None,
    **rest: Unpack[Rest],
) -> Finding:
    """What can't be answered, and `because` of what; `verdict` is how bad it may be."""
    assert rest.get("because"), text
    return _made(verdict, value, unit=unit, text=text, limit=limit, margin=None, rest=rest)


def _unknown(value: float | None, limit: float | None, unit: str, text: str, rest: Rest) -> Finding:
    nothing = value is None or math.isnan(value)
    rest["because"] = rest.get("because") or ("its value is unknown" if nothing else "its limit is unknown",)
    return _made(Verdict.PASSED, value, unit=unit, text=text, limit=limit, margin=None, rest=rest)


def _made(
    verdict: Verdict,
    value: float | None,
    unit: str,
    text: str,
    limit: float | None,
    margin: float | None,
    rest: Rest,
) -> Finding:
    source, cures = rest.get("source"), rest.get("cures", ())
    figure = None
    if source is not None and "name" in rest:
        figure = Figure(
            name=rest["name"],
            value=math.nan if value is None else value,
            unit=unit,
            formula=rest.get("formula", ""),
            inputs=rest.get("inputs", ()),
            source=source,
            note=rest.get("note", ""),
        )
    if verdict is Verdict.PASSED:
        cures = ()
    return Finding(
        verdict=verdict,
        text=text,
        figure=figure,
        limit=limit,
        margin=margin,
        limit_source=rest.get("rests_on", source),
        open_because=rest.get("because", ()),
        remedies=cures() if callable(cures) else cures,
        advice=rest.get("advice", ""),
        subjects=rest.get("subjects", ()),
        state=rest.get("state", ""),
        quantity=rest.get("quantity", ""),
    )
