"""Whether the parts of a plan hang together: every feed is there, nothing feeds itself, ids differ from all
others."""

from collections.abc import Iterator

from lodestaff.job.address import address
from lodestaff.job.circuit import Circuit
from lodestaff.job.decisions import Bank, Unit
from lodestaff.job.plan import (
    Board,
    Combiner,
    Contactor,
    Gateway,
    Generator,
    OwnSun,
    Placed,
    Shutdown,
    Throw,
    Transformer,
)

BLOCK = "block"  # the distribution block after the main isolator


def feeds_of(part: Placed | Unit) -> tuple[str, ...]:
    """Where a part is fed from, as its decisions say."""
    if isinstance(part, Throw):
        return part.first, part.second
    if isinstance(part, Combiner):
        return part.feeds
    if isinstance(part, Unit):
        return (part.fed_from,) if part.fed_from else ()
    if isinstance(part, Board | Gateway | Contactor | Shutdown):
        return (part.fed_from,)
    return ()


def check_plan(
    units: tuple[Unit, ...], banks: tuple[Bank, ...], circuits: tuple[Circuit, ...], parts: tuple[Placed, ...]
) -> None:
    """Raise ValueError that says which part is wrong and what would be right."""
    ids = [BLOCK, *(unit.id for unit in units), *(bank.id for bank in banks), *(part.id for part in parts)]
    twice = sorted({name for name in ids if ids.count(name) > 1})
    if twice:
        raise ValueError(f"parts: the id {twice[0]!r} stands twice in the installation; ids must differ")
    known = {BLOCK, *(unit.id for unit in units), *(part.id for part in parts)}
    for where, feed in _named(units, parts):
        if address(feed).part not in known:
            raise ValueError(f"{where}: {feed!r} is not there; choose from {', '.join(sorted(known))}")
    everything: dict[str, tuple[str, ...]] = {thing.id: feeds_of(thing) for thing in (*units, *parts)}
    for name in everything:
        _no_ring(name, everything)
    names = {circuit.id for circuit in circuits}
    for part in parts:
        if isinstance(part, OwnSun) and part.circuit not in names:
            raise ValueError(
                f"parts {part.id} circuit: {part.circuit!r} is not there; choose from {', '.join(names)}"
            )


def _named(units: tuple[Unit, ...], parts: tuple[Placed, ...]) -> Iterator[tuple[str, str]]:
    for unit in units:
        for feed in feeds_of(unit):
            yield f"units {unit.id} fed_from", feed
    for part in parts:
        for feed in feeds_of(part):
            yield f"parts {part.id} fed_from", feed
        if isinstance(part, Shutdown):
            yield from ((f"parts {part.id} units", unit) for unit in part.units)
        if isinstance(part, Generator):
            yield from ((f"parts {part.id} feeds", feed) for feed in part.feeds)
            if part.started_by:
                yield f"parts {part.id} started_by", part.started_by
        if isinstance(part, Transformer):
            yield f"parts {part.id} serves", part.serves
            yield from ((f"parts {part.id} obeyed_by", unit) for unit in part.obeyed_by)


def _no_ring(name: str, feeds: dict[str, tuple[str, ...]]) -> None:
    seen: set[str] = set()
    waiting = [address(feed).part for feed in feeds[name]]
    while waiting:
        node = waiting.pop()
        if node == name:
            raise ValueError(
                f"parts {name} fed_from: it feeds itself through {', '.join(sorted(seen)) or name}; break it"
            )
        if node not in seen:
            seen.add(node)
            waiting += [address(feed).part for feed in feeds.get(node, ())]
