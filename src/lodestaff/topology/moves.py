"""What hands can do next, where sources could be made to meet, and what is left when a unit fails."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, replace

from lodestaff.topology.model import GRID, Topology
from lodestaff.topology.settle import State, settle
from lodestaff.topology.states import Answer, Hazard, answer, hazards_in

JOINING = ("bypass", "throw", "interlock", "generator")
MOST_TOGETHER = 2  # hands' moves away from a usual state that are searched for sources that meet


@dataclass(frozen=True)
class Move:
    """One switch worked: circuits that it darkens or feeds, conductors that it makes live or dead, hazards
    it makes."""

    part: str
    position: str
    darkened: tuple[str, ...]
    fed: tuple[str, ...]
    made_live: int
    made_dead: int
    hazards: tuple[Hazard, ...]


def next_moves(topology: Topology, state: State) -> tuple[Move, ...]:
    """Every state that one hand can reach from here, told by what changes."""
    here = answer(topology, state)
    moves = []
    for part in topology.switches():
        for position in part.positions:
            if position != here.positions[part.id]:
                moves.append(
                    _move(here, answer(topology, state.with_hand(part.id, position)), part.id, position)
                )
    return tuple(moves)


def _move(here: Answer, there: Answer, part: str, position: str) -> Move:
    live, then = set(here.still_live()), set(there.still_live())
    return Move(
        part,
        position,
        darkened=tuple(name for name, sources in here.fed.items() if sources and not there.fed[name]),
        fed=tuple(name for name, sources in there.fed.items() if sources and not here.fed[name]),
        made_live=len(then - live),
        made_dead=len(live - then),
        hazards=tuple(hazard for hazard in there.hazards if hazard not in here.hazards),
    )


@dataclass(frozen=True)
class Reached:
    """A hazard and the state that leads to it."""

    hazard: Hazard
    state: State


def reachable_hazards(topology: Topology) -> tuple[Reached, ...]:
    """Sources that hands could make to meet: every pair of moves of the devices that join sources, grid or
    no grid."""
    reached: dict[Hazard, Reached] = {}
    for state in joining_states(topology):
        for hazard in hazards_in(topology, state, settle(topology, state)):
            reached.setdefault(hazard, Reached(hazard, state))
    return tuple(reached.values())


def joining_states(topology: Topology, together: int = MOST_TOGETHER) -> Iterator[State]:
    """States that differ from the usual by so many moves of the devices that join sources."""
    pairs = {
        contact.key
        for part in topology.parts.values()
        for contact in part.contacts
        if part.kind in JOINING and contact.key
    }
    joining = [part for part in topology.switches() if part.kind in JOINING or part.id in pairs]
    moves = [(part.id, position) for part in joining for position in part.positions[1:]]
    grids = (True, False) if any(source.kind == GRID for source in topology.sources) else (False,)
    for number in range(together + 1):
        for chosen in itertools.combinations(moves, number):
            if len({part for part, _ in chosen}) == number:
                for grid in grids:
                    yield State("by hands", tuple(sorted(chosen)), grid)


@dataclass(frozen=True)
class Failure:
    """A unit that fails in an outage: what is still fed, and by whom."""

    unit: str
    fed: tuple[str, ...]
    lost: tuple[str, ...]
    forming: tuple[str, ...]
    batteries: tuple[str, ...]


def failures(topology: Topology) -> tuple[Failure, ...]:
    """For each unit: what its failure leaves of an outage's supply."""
    dark = State("island", grid_present=False)
    before = answer(topology, dark)
    fed = [name for name, sources in before.fed.items() if sources]
    all_failures = []
    for unit in topology.units:
        state = replace(dark.with_hand(unit.unit, "off"), name=f"{unit.unit} failed")
        after = answer(topology, state)
        kept = tuple(name for name in fed if after.fed[name])
        live = {part for parts in after.sources.values() for part in parts}
        working = [
            source
            for source in topology.sources
            if source.kind == "battery"
            and source.part in live
            and after.unit_modes.get(source.unit) in ("island", "follows")
        ]
        all_failures.append(
            Failure(
                unit.unit,
                kept,
                tuple(name for name in fed if name not in kept),
                tuple(sorted(after.forming)),
                tuple(step.part for step in working),
            )
        )
    return tuple(all_failures)
