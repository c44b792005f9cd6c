"""What can be adjusted at a place of the diagram, each as words and the changes that do it."""

from dataclasses import dataclass
from typing import Any

from lodestaff.job import Change, Job
from lodestaff.job.plan import Transformer
from lodestaff.topology import Conductor, Part, Topology, normalised
from lodestaff.topology.model import EARTH

INSERTED = (("isolator", "isolator"), ("meter", "meter"), ("breaker", "protective device"),
            ("rcd", "residual-current device"))  # fmt: skip
TAKES_BOARD = ("block", "board", "gateway")


@dataclass(frozen=True)
class Offer:
    """One adjustment that fits a place."""

    words: str
    changes: tuple[Change, ...]


def offers(job: Job, topology: Topology, name: str) -> tuple[Offer, ...]:
    """What a person may do at a part or conductor, by its id."""
    all_offers: list[Offer] = []
    conductor = next((conductor for conductor in topology.conductors if conductor.id == name), None)
    if conductor is not None:
        all_offers += _in_conductor(job, topology, conductor)
    part = topology.parts.get(name)
    if part is not None:
        all_offers += _at_part(job, topology, part)
        for made in job.adjustments:
            if made.id == name or part.decided_by == f"adjustments/{made.id}":
                all_offers.append(Offer(f"Take out {part.name}", (_without(job, made.id),)))
    return tuple(all_offers)


def _in_conductor(job: Job, topology: Topology, conductor: Conductor) -> list[Offer]:
    if EARTH in conductor.cores:
        return []
    all_offers = []
    to = topology.parts[conductor.b[0]]
    into = f"{conductor.b[0]}:{conductor.b[1]}"
    dc = "DC+" in conductor.cores
    for what, words in INSERTED:
        if what == "isolator" or not dc:
            insert: dict[str, Any] = {"kind": "insert", "id": _fresh(job, f"{to.id}-{what}"), "what": what,
                                      "into": into,
                                      "name": f"{words.capitalize()} of {to.name}"[:60]}  # fmt: skip
            all_offers.append(Offer(f"Insert {_a(words)} before {to.name}", (_with(job, insert),)))
    for part in () if dc else normalised(job).parts:
        if isinstance(part, Transformer):
            move: dict[str, Any] = {
                "kind": "move ct",
                "id": _fresh(job, f"{part.id}-moved"),
                "ct": part.id,
                "on": [into],
            }
            all_offers.append(Offer(f"Move {part.name} here", (_with(job, move),)))
    return all_offers


def _at_part(job: Job, topology: Topology, part: Part) -> list[Offer]:
    name = part.id
    all_offers: list[Offer] = []
    if part.kind in TAKES_BOARD:
        board = {
            "kind": "board",
            "id": _fresh(job, "further-board"),
            "name": "Further board",
            "fed_from": name,
        }
        all_offers.append(Offer(f"Add a board fed from {part.name}", (_with(job, board),)))
    gateways = [part for part in topology.parts.values() if part.kind == "gateway"]
    if part.kind == "board":
        fed = next((each for each in normalised(job).parts if each.id == name), None)
        for gateway in gateways:
            if fed is not None and getattr(fed, "fed_from", "") == "block":
                fields = {
                    "kind": "intercept",
                    "id": _fresh(job, f"{name}-intercepted"),
                    "board": name,
                    "by": gateway.id,
                }
                all_offers.append(
                    Offer(f"Intercept the feeder of {part.name} by {gateway.name}", (_with(job, fields),))
                )
    unit = next((unit for unit in topology.units if unit.unit == name), None)
    if unit is not None and unit.transfer and unit.serves and not _bypassed(topology, name):
        bypass: dict[str, Any] = {"kind": "bypass", "id": _fresh(job, f"{name}-bypass"),
                                  "name": f"Bypass of {part.name}"[:60],
                                  "around": f"{name}:backup", "grid": "block",
                                  "rated_a": part.rated_a or 63}  # fmt: skip
        all_offers.append(Offer(f"Put a bypass round {part.name}", (_with(job, bypass),)))
    return all_offers


def _bypassed(topology: Topology, unit: str) -> bool:
    return any(
        conductor.a == (unit, "backup") and topology.parts[conductor.b[0]].kind == "bypass"
        for conductor in topology.conductors
    )


def _a(words: str) -> str:
    return f"{'an' if words[0] in 'aeiou' else 'a'} {words}"


def _fresh(job: Job, wanted: str) -> str:
    """An id that nothing has yet."""
    taken = {thing.id for thing in (*job.adjustments, *job.parts, *job.units, *job.banks)}
    name, number = wanted[:36], 2
    while name in taken:
        name, number = f"{wanted[:36]}-{number}", number + 1
    return name


def _with(job: Job, part: dict[str, Any]) -> Change:
    return Change("adjustments", [*(each.model_dump(mode="json") for each in job.adjustments), part])


def _without(job: Job, id: str) -> Change:
    return Change("adjustments", [each.model_dump(mode="json") for each in job.adjustments if each.id != id])
