"""How this site is shut down and started again, from its own topology: which switch, in order, and what
stays live."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, get_args

from lodestaff.job import Job
from lodestaff.job.plan import Reordering
from lodestaff.topology import Answer, Part, State, Topology, answer, standard_states
from lodestaff.topology.model import Terminal
from lodestaff.topology.questions import inside_cases
from lodestaff.topology.states import off_position

Group = Literal[
    "What starts by itself",
    "Rapid shutdown",
    "Units",
    "AC feeds and changeovers",
    "Batteries",
    "Arrays",
    "Boards",
    "Supply",
]
GROUPS: tuple[Group, ...] = get_args(Group)


@dataclass(frozen=True)
class HandStep:
    """One switch worked: its part, the position it goes to, and what is live from what after it.

    `group` is the source or the kind of way that it stands in, `of` the unit whose it is, `building` where it
    is; `proofs` are the places that are dead after it, to be proved so before anybody goes on; `why` a person
    put it here, else it stands where the site's own wiring puts it. `loaded` is an isolator of DC that is
    opened while its unit still runs.
    """

    part: str
    name: str
    position: str
    caution: str
    live: int
    live_from: tuple[str, ...]
    beside: str = ""  # what else a hand does there
    group: Group = "Units"
    of: str = ""
    building: str = ""
    proofs: tuple[str, ...] = ()
    why: str = ""
    loaded: bool = False

    @property
    def place(self) -> str:
        """Whose it is and in which building, where that isn't in its name."""
        return ", ".join(place for place in (self.of, self.building) if place and place not in self.name)

    @property
    def words(self) -> str:
        return f"{self.name}: {', '.join(filter(None, (self.position, self.beside)))}"


LOCKED_OUT, RELEASED = "its start locked out", "its start released"  # a generator starts by itself
LOCKED = "locked off"


@dataclass(frozen=True)
class Isolation:
    """Shutting down and restarting, and the conductors that stay live with everything off (by sources).
    `strays` are steps that a person moved and that name a switch that isn't there any more."""

    shutdown: tuple[HandStep, ...]
    restart: tuple[HandStep, ...]
    stays_live: tuple[tuple[str, tuple[str, ...]], ...]
    strays: tuple[Reordering, ...] = ()


def isolation(job: Job, topology: Topology) -> Isolation:
    """What starts by itself, units, their AC side, batteries, arrays, boards, then the supply, unless a
    person put a step elsewhere; back in the equipment's order of starting."""
    switches = {part.id: part for part in topology.switches()}
    derived = sorted(switches, key=lambda name: (_rank(topology, switches[name]), list(switches).index(name)))
    order, whys, strays = _reordered(derived, job.reorderings)
    state = State("shutting down")
    down: list[HandStep] = []
    dead: list[set[str]] = []
    places = _places(topology)
    outcome = answer(topology, state)
    for name in order:
        part = switches[name]
        position = off_position(part.positions)
        state = state.with_hand(name, position)
        outcome = answer(topology, state)
        down.append(_step(job, topology, part=part, position=position, outcome=outcome, start=LOCKED_OUT))
        dead.append(
            {words for words, wires in places.items() if not any(outcome.live[wire] for wire in wires)}
        )
    good = _for_good(dead)
    down = [
        replace(
            step,
            proofs=tuple(sorted(now - before)),
            why=whys.get(step.part, ""),
            loaded=_loaded(switches[step.part], order),
        )
        for step, now, before in zip(down, good, [set(), *good], strict=False)
    ]
    off = next(state for state in standard_states(topology) if state.name == "all off")
    last = answer(topology, off)
    inside = inside_cases(topology)
    stays = tuple(
        (_conductor_words(topology, name), tuple(sorted(last.live[name])))
        for name in last.still_live()
        if name not in inside
    )
    up = []
    for name in sorted(
        switches, key=lambda switch: (_start_rank(job, switches[switch]), -derived.index(switch))
    ):
        part = switches[name]
        state = state.with_hand(name, part.positions[0])
        up.append(
            _step(
                job,
                topology,
                part=part,
                position=part.positions[0],
                outcome=answer(topology, state),
                start=RELEASED,
            )
        )
    return Isolation(tuple(down), tuple(up), stays, strays)


def _loaded(part: Part, order: list[str]) -> bool:
    """Whether an isolator of an array or a battery comes before the unit that it feeds is off."""
    breaks = part.kind == "isolator" and part.way in ("array", "battery") and part.of in order
    return breaks and order.index(part.id) < order.index(part.of)


def _reordered(
    derived: list[str], moves: Sequence[Reordering]
) -> tuple[list[str], dict[str, str], tuple[Reordering, ...]]:
    """The order with a person's moves, one after the other; the reason of each moved step; moves of what
    isn't there."""
    order, whys, strays = list(derived), dict[str, str](), list[Reordering]()
    for move in moves:
        if move.part not in order or move.before == move.part or move.before not in ("", *order):
            strays.append(move)
            continue
        order.remove(move.part)
        order.insert(order.index(move.before) if move.before else len(order), move.part)
        whys[move.part] = move.why
    return order, whys, tuple(strays)


def _places(topology: Topology) -> dict[str, tuple[str, ...]]:
    """Where a hand can prove dead: wired ports of units, and boards, with the conductors there."""
    inside, ends = inside_cases(topology), dict[str, tuple[str, ...]]()
    for unit in topology.units:
        name = topology.parts[unit.unit].name
        ports: list[tuple[Terminal | None, str]] = [
            (unit.grid, "AC"),
            (unit.out if unit.out != unit.grid else None, "backup"),
            (unit.battery, "battery"),
            (unit.generator, "generator"),
        ]
        ports += [(port, port[1]) for port in unit.arrays if not unit.module_level]
        for port, words in ports:
            here = (conductor.id for conductor in topology.conductors if port in (conductor.a, conductor.b))
            wires = tuple(wire for wire in here if wire not in inside)
            if wires:
                ends[f"{words} terminals of {name}"] = wires
    for part in topology.parts.values():
        wires = tuple(conductor.id for conductor in topology.conductors if conductor.b == (part.id, "in"))
        if part.kind == "board" and wires:
            ends[part.name] = wires
    return ends


def _for_good(dead: list[set[str]]) -> list[set[str]]:
    """Of the places that are dead after each step those that stay so to the end."""
    groups, stays = [], None
    for now in reversed(dead):
        stays = set(now) if stays is None else stays & now
        groups.append(stays)
    return groups[::-1]


def _group(topology: Topology, part: Part) -> Group:
    """Which source or way a switch stands in."""
    feeds = {
        topology.parts[conductor.b[0]].kind for conductor in topology.conductors if conductor.a[0] == part.id
    }
    comes = {
        topology.parts[conductor.a[0]].kind for conductor in topology.conductors if conductor.b[0] == part.id
    }
    if part.kind == "generator" or "generator" in comes:
        return "What starts by itself"
    if "transmitter" in feeds:
        return "Rapid shutdown"
    if part.kind == "unit":
        return "Units"
    ways: dict[str, Group] = {"battery": "Batteries", "array": "Arrays", "supply": "Supply"}
    if part.way in ways:
        return ways[part.way]
    between = part.kind in ("breaker", "bypass", "throw", "interlock", "gateway") or "unit" in feeds
    return "AC feeds and changeovers" if between else "Boards"


def _rank(topology: Topology, part: Part) -> float:
    """The order of switching off, group by group; an engine before its own isolator."""
    return GROUPS.index(_group(topology, part)) + (0.0 if part.kind == "generator" else 0.5)


def _start_rank(job: Job, part: Part) -> float:
    """The order of switching on: the supply and the boards, then what each unit wants first, the unit itself,
    and last what starts by itself."""
    if part.kind == "generator":
        return 11.0
    if part.kind == "unit":
        return 10.0
    if part.of and (part.kind != "isolator" or part.way != "grid"):
        return 3 + job.sheet_of(job.unit(part.of)).start_order.index(part.way)
    return 1.0 if part.way == "supply" else 2.0


def _step(job: Job, topology: Topology, part: Part, position: str, outcome: Answer, start: str) -> HandStep:
    inside = inside_cases(topology)
    locks = start == LOCKED_OUT and part.kind in ("isolator", "breaker")
    live = [name for name in outcome.still_live() if name not in inside]
    sources = sorted(set().union(*(outcome.live[name] for name in live)) if live else set())
    caution = "bypass_no_grid" if part.caution == "bypass" and not job.mains.grid else part.caution
    return HandStep(
        part.id,
        part.name,
        position=position,
        caution=caution,
        live=len(live),
        live_from=tuple(sources),
        beside=start if part.kind == "generator" else LOCKED if locks else "",
        group=_group(topology, part),
        of=next((unit.name for unit in job.units if unit.id == part.of), ""),
        building=part.building,
    )


def _conductor_words(topology: Topology, name: str) -> str:
    conductor = next(conductor for conductor in topology.conductors if conductor.id == name)
    return (
        f"{topology.parts[conductor.a[0]].name} to {topology.parts[conductor.b[0]].name} ({conductor.name})"
    )
