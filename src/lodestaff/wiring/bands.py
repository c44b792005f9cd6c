"""Which band of the drawing a part stands in: what feeds a unit on DC stands beside what feeds it on AC, its
arrays above and its batteries below."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Protocol

ARRAYS, BATTERIES = "array", "battery"


class Placed(Protocol):
    """A part of the drawing or a bend of a conductor, with what it feeds and what it is fed by."""

    @property
    def kind(self) -> str: ...

    @property
    def above(self) -> list[str]: ...

    @property
    def below(self) -> list[str]: ...


def banded(columns: Mapping[int, Sequence[str]], nodes: Mapping[str, Placed]) -> dict[int, list[str]]:
    """The same columns, in the same order but for what brings sun and what stores: of a single unit the sun
    above all else and the storage below; of each of several above and below all that leads to it alone.

    Where a column has nothing that leads to one of them alone, the leads of the upper units stand above what
    feeds them all and those of the lower ones below.
    """
    bands = {
        name: (unit, kind)
        for name in nodes
        if (unit := _unit_of(name, nodes))
        if (kind := _source(name, nodes))
    }
    units = sorted({unit for unit, _ in bands.values()}, key=lambda unit: _place(unit, columns))
    led = {unit: _leading_to(unit, nodes) for unit in units}
    return {layer: _column(list(column), bands, units, led) for layer, column in columns.items()}


def _column(
    column: list[str], bands: dict[str, tuple[str, str]], units: list[str], led: dict[str, set[str]]
) -> list[str]:
    order = [name for name in column if name not in bands]
    leads = set[str]()  # of the lower units, which follow each other
    for number, unit in enumerate(units):
        sun = [name for name in column if bands.get(name) == (unit, ARRAYS)]
        stored = [name for name in column if bands.get(name) == (unit, BATTERIES)]
        others = set[str]().union(*(led[other] for other in units if other != unit))
        alone = [at for at, name in enumerate(order) if name in led[unit] - others]
        shared = [at for at, name in enumerate(order) if name in led[unit]]
        if len(units) == 1:
            order = [*sun, *order, *stored]
        elif alone:
            first, last = min(alone), max(alone) + 1
            order = [*order[:first], *sun, *order[first:last], *stored, *order[last:]]
        elif shared and number < len(units) / 2:
            order = [*order[: min(shared)], *sun, *stored, *order[min(shared) :]]
        else:
            lower = [at for at, name in enumerate(order) if name in leads]
            last = max((*shared, *lower), default=len(order) - 1) + 1
            order = [*order[:last], *sun, *stored, *order[last:]]
            leads |= {*sun, *stored}
    return order


def _unit_of(name: str, nodes: Mapping[str, Placed]) -> str | None:
    """The unit that a lead goes to, and to nothing else; None for all that isn't such a lead."""
    while nodes[name].kind != "unit":
        if len(set(nodes[name].below)) != 1:
            return None
        name = nodes[name].below[0]
    return name


def _source(name: str, nodes: Mapping[str, Placed]) -> str | None:
    """What a lead comes from: arrays, or batteries; None where it is a unit or comes from anything else."""
    if nodes[name].kind == "unit":
        return None
    roots, waiting = set[str](), [name]
    while waiting:
        now = waiting.pop()
        waiting += nodes[now].above
        if not nodes[now].above:
            roots.add(nodes[now].kind)
    return next((kind for kind in (ARRAYS, BATTERIES) if roots == {kind}), None)


def _leading_to(unit: str, nodes: Mapping[str, Placed]) -> set[str]:
    """All that leads to a unit by any way."""
    names, waiting = set[str](), list(nodes[unit].above)
    while waiting:
        name = waiting.pop()
        if name not in names:
            names.add(name)
            waiting += nodes[name].above
    return names


def _place(unit: str, columns: Mapping[int, Sequence[str]]) -> float:
    """How far down its column a unit stands, as a share."""
    column = next(column for column in columns.values() if unit in column)
    return list(column).index(unit) / max(1, len(column) - 1) if len(column) > 1 else 0.5
