"""How this site is shut down and started again, from its own topology: which switch, in order, and what
stays live."""

from dataclasses import dataclass

from lodestaff.job import Job
from lodestaff.topology import Answer, Part, State, Topology, answer, standard_states
from lodestaff.topology.questions import inside_cases
from lodestaff.topology.states import off_position


@dataclass(frozen=True)
class HandStep:
    """One switch worked: its part, the position it goes to, and what is live from what after it."""

    part: str
    name: str
    position: str
    caution: str
    live: int
    live_from: tuple[str, ...]
    beside: str = ""  # what else a hand does there

    @property
    def words(self) -> str:
        return f"{self.name}: {', '.join(filter(None, (self.position, self.beside)))}"


LOCKED_OUT, RELEASED = "its start locked out", "its start released"  # a generator starts by itself


@dataclass(frozen=True)
class Isolation:
    """Shutting down and restarting, and the conductors that stay live with everything off (by sources)."""

    shutdown: tuple[HandStep, ...]
    restart: tuple[HandStep, ...]
    stays_live: tuple[tuple[str, tuple[str, ...]], ...]


def isolation(job: Job, topology: Topology) -> Isolation:
    """Unit, its AC side, battery, array, then the supply; back in the equipment's order of starting."""
    switches = {part.id: part for part in topology.switches()}
    order = sorted(switches, key=lambda name: (_rank(job, switches[name]), list(switches).index(name)))
    state = State("shutting down")
    down = []
    found = answer(topology, state)
    for name in order:
        part = switches[name]
        position = off_position(part.positions)
        state = state.with_hand(name, position)
        found = answer(topology, state)
        down.append(_step(job, topology, part=part, position=position, found=found, start=LOCKED_OUT))
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
        switches, key=lambda switch: (_start_rank(job, switches[switch]), -order.index(switch))
    ):
        part = switches[name]
        state = state.with_hand(name, part.positions[0])
        up.append(
            _step(
                job,
                topology,
                part=part,
                position=part.positions[0],
                found=answer(topology, state),
                start=RELEASED,
            )
        )
    return Isolation(tuple(down), tuple(up), stays)


def _rank(job: Job, part: Part) -> int:
    """The order of switching off: units, then their AC feeds and bypass, battery, array, boards, the
    supply."""
    if part.kind == "generator":
        return -1  # what starts by itself first
    if part.kind == "unit":
        return 0
    if part.kind in ("breaker", "bypass", "throw", "interlock"):
        return 1
    return {"battery": 2, "array": 3, "supply": 5}.get(part.way, 4)


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


def _step(job: Job, topology: Topology, part: Part, position: str, found: Answer, start: str) -> HandStep:
    inside = inside_cases(topology)
    live = [name for name in found.still_live() if name not in inside]
    sources = sorted(set().union(*(found.live[name] for name in live)) if live else set())
    caution = "bypass_no_grid" if part.caution == "bypass" and not job.mains.grid else part.caution
    return HandStep(
        part.id,
        part.name,
        position=position,
        caution=caution,
        live=len(live),
        live_from=tuple(sources),
        beside=start if part.kind == "generator" else "",
    )


def _conductor_words(topology: Topology, name: str) -> str:
    conductor = next(conductor for conductor in topology.conductors if conductor.id == name)
    return (
        f"{topology.parts[conductor.a[0]].name} to {topology.parts[conductor.b[0]].name} ({conductor.name})"
    )
