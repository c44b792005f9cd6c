"""Three ways to look at an installation: boards and sources at a glance, every device, or one part with its
terminals."""

from dataclasses import replace
from typing import Literal

from lodestaff.topology import Conductor, Topology

Level = Literal["overview", "boards", "terminals"]
LEVELS: tuple[Level, ...] = ("overview", "boards", "terminals")
PASSED = (
    "fuse",
    "meter",
    "isolator",
    "breaker",
    "rcd",
    "shutdown",
    "electrode",
    "relay",
    "circuit",
    "transmitter",
)
MANY_PARTS = 44  # from here on an installation is first shown as an overview
NEAR = 2  # conductors from the part looked at, on the level of terminals
STOPS = ("board", "block", "gateway", "unit", "generator")  # nothing is shown beyond these


def usual_level(topology: Topology) -> Level:
    """The level on which an installation is first shown."""
    return "overview" if len(topology.parts) > MANY_PARTS else "boards"


def seen_at(topology: Topology, level: Level, focus: str = "") -> Topology:
    """What is drawn of a topology on a level. Ids stay those of the whole; a line through devices has its
    last one's."""
    if level == "overview":
        return _overview(topology)
    if level == "terminals":
        return _around(topology, focus if focus in topology.parts else _first(topology))
    return topology


def _first(topology: Topology) -> str:
    return topology.units[0].unit if topology.units else next(iter(topology.parts))


def _overview(topology: Topology) -> Topology:
    kept = {name: part for name, part in topology.parts.items() if part.kind not in PASSED}
    onward: dict[str, list[Conductor]] = {}
    for conductor in topology.conductors:
        onward.setdefault(conductor.a[0], []).append(conductor)
    merged: dict[str, Conductor] = {}
    for name in kept:
        for first in onward.get(name, ()):
            waiting, seen = [first], set()
            while waiting:
                last = waiting.pop()
                if last.b[0] in kept:
                    merged[last.id] = replace(last, a=first.a)
                elif last.b[0] not in seen:
                    seen.add(last.b[0])
                    waiting += onward.get(last.b[0], ())
    circuits: dict[str, int] = {}
    for conductor in topology.conductors:
        if topology.parts[conductor.b[0]].kind == "circuit":
            circuits[conductor.a[0]] = circuits.get(conductor.a[0], 0) + 1
    wired = {end[0] for conductor in merged.values() for end in (conductor.a, conductor.b)}
    parts = {
        name: replace(part, rating=_count(circuits.get(name, 0)) if part.kind == "board" else part.rating)
        for name, part in kept.items()
        if name in wired
    }
    return replace(topology, parts=parts, conductors=tuple(merged.values()), bonds=(), circuits={})


def _count(circuits: int) -> str:
    return f"{circuits} circuits" if circuits != 1 else "1 circuit"


def _around(topology: Topology, focus: str) -> Topology:
    """A part and what is a few conductors away from it; boards and sources that are met end it."""
    near, edge = {focus}, {focus}
    for _ in range(NEAR):
        beyond: set[str] = set()
        for conductor in topology.conductors:
            ends = conductor.a[0], conductor.b[0]
            for near_end, other in (ends, ends[::-1]):
                if near_end in edge and (near_end == focus or topology.parts[near_end].kind not in STOPS):
                    beyond.add(other)
        edge = beyond - near
        near |= edge
    conductors = tuple(
        conductor for conductor in topology.conductors if conductor.a[0] in near and conductor.b[0] in near
    )
    wired = {end[0] for conductor in conductors for end in (conductor.a, conductor.b)}
    relays = {unit.bond_relay for unit in topology.units if unit.unit in wired}
    parts = {name: part for name, part in topology.parts.items() if name in wired or name in relays}
    return replace(topology, parts=parts, conductors=conductors)
