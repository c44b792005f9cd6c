"""The graph of a job with what its standard states make of it, and what a unit carries in an outage."""

from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property

from lodestaff.job import Circuit, Job, Role, Unit
from lodestaff.topology import Answer, Island, State, Topology, answer, islands, standard_states
from lodestaff.topology.flows import Flows, flows
from lodestaff.topology.model import QUIET
from lodestaff.topology.moves import Reached, reachable_hazards

BYTES_FOR_EACH = 6000  # conductor or part
MOST_FLOWS = 60


@dataclass(frozen=True)
class BoardPlace:
    """A board with the circuits on it: its legs, the units that feed it in an outage, the contactor ahead
    of it."""

    id: str
    name: str
    building: str
    legs: tuple[str, ...]
    forming: tuple[str, ...]
    contactor: str  # what holds it: "with the grid", "in island mode", "with surplus"; '' where there is none
    circuits: tuple[str, ...]


@dataclass(frozen=True)
class Wiring:
    """The graph of a job; what each standard state makes of it is found when it is first asked for."""

    topology: Topology
    put: tuple[tuple[str, str], ...] = ()  # switches that hands put over in an outage

    @property
    def takes_bytes(self) -> int:
        """Memory with all that is found of it in time, as measured over the samples with some to spare."""
        return BYTES_FOR_EACH * (len(self.topology.conductors) + len(self.topology.parts))

    @cached_property
    def states(self) -> tuple[State, ...]:
        return standard_states(self.topology)

    @cached_property
    def answers(self) -> tuple[Answer, ...]:
        """All standard states, in their order."""
        return tuple(self.answer(state) for state in self.states)

    @cached_property
    def islands(self) -> tuple[Island, ...]:
        """The networks that units form in an outage."""
        return islands(self.topology, self.dark) if self.dark is not None else ()

    @cached_property
    def dark(self) -> Answer | None:
        """The outage, with what hands put over."""
        if self.put:
            return answer(self.topology, State("island", self.put, grid_present=False))
        return self.state("island")

    @cached_property
    def boards(self) -> tuple[BoardPlace, ...]:
        """Where circuits hang, in the order of the parts; a board without circuits is there too."""
        into = {conductor.b: conductor for conductor in reversed(self.topology.conductors)}
        above = {
            conductor.b[0]: conductor.a[0]
            for conductor in reversed(self.topology.conductors)
            if "PE" not in conductor.cores[:1]
        }
        on: dict[str, list[str]] = {
            part.id: [] for part in self.topology.parts.values() if part.kind == "board"
        }
        for name, end in self.topology.circuits.items():
            if end in into:
                on.setdefault(into[end].a[0], []).append(name)
        island_of = {name: island.forming for island in self.islands for name in island.circuits}
        places = []
        for board, circuits in on.items():
            part = self.topology.parts[board]
            feed = next(
                (
                    conductor.cores
                    for conductor in self.topology.conductors
                    if conductor.b[0] == board and conductor.b[1] in ("in", "line")
                ),
                (),
            )
            way, at = [board], board
            while at in above and above[at] not in way and len(way) < 40:
                at = above[at]
                way.append(at)
            held_by = next(
                (self.topology.parts[by].rating for by in way if self.topology.parts[by].kind == "contactor"),
                "",
            )
            forming = next((island_of[name] for name in circuits if name in island_of), ())
            if not circuits:  # an empty board is fed by the unit that its feed leads to
                forming = next(
                    (island.forming for island in self.islands if set(island.forming) & set(way[1:])), ()
                )
            legs = tuple(core for core in feed if core not in QUIET and core != "N")
            places.append(
                BoardPlace(
                    board,
                    part.name,
                    building=part.building,
                    legs=legs,
                    forming=forming,
                    contactor=held_by,
                    circuits=tuple(circuits),
                )
            )
        return tuple(places)

    def board_of(self, circuit: str) -> BoardPlace | None:
        """The board that a circuit hangs on."""
        return next((board for board in self.boards if circuit in board.circuits), None)

    def state(self, name: str) -> Answer | None:
        """What a standard state makes of it; None where this installation has no such state."""
        asked_state = next((state for state in self.states if state.name == name), None)
        return self.answer(asked_state) if asked_state is not None else None

    def answer(self, state: State) -> Answer:
        """What a state makes of it, found once."""
        if state not in self._found:
            self._found[state] = answer(self.topology, state)
            if len(self._found) > MOST_FLOWS:
                self._found.pop(next(iter(self._found)), None)
        return self._found[state]

    @cached_property
    def _found(self) -> dict[State, Answer]:
        return {}

    def flows(
        self,
        outcome: Answer,
        circuits_kva: tuple[tuple[str, float], ...],
        nominal_v: float,
        charging_kva: tuple[tuple[str, float], ...] = (),
        gives_a: tuple[tuple[str, float], ...] = (),
        leaves_a: tuple[tuple[str, float], ...] = (),
        pair: float = 1.0,
    ) -> Flows:
        """Currents in a state, kept with the graph that they belong to."""
        key = (outcome.state, circuits_kva, nominal_v, charging_kva, gives_a, leaves_a, pair)
        known = self._flows.get(key)
        if known is None:
            known = flows(
                self.topology,
                outcome,
                dict(circuits_kva),
                nominal_v,
                charging_kva=dict(charging_kva),
                gives_a=dict(gives_a),
                leaves_a=dict(leaves_a),
                pair=pair,
            )
            self._flows[key] = known
            if len(self._flows) > MOST_FLOWS:  # of circuits as they were before
                self._flows.pop(next(iter(self._flows)), None)
        return known

    @cached_property
    def _flows(self) -> dict[Hashable, Flows]:
        return {}

    @cached_property
    def before(self) -> dict[str, tuple[str, ...]]:
        """Of each run of cable those that stand between it and the origin, the origin's first: in the first
        state, with the grid where there is one."""
        above = flows(self.topology, self.answers[0], {}, 1.0).above
        run_of = {conductor.id: conductor.run for conductor in self.topology.conductors}
        ways: dict[str, tuple[str, ...]] = {}
        for conductor, run in run_of.items():
            if not run or run in ways or conductor not in above:
                continue
            chain: list[str] = []
            at = above[conductor]
            while at:
                if run_of[at] and run_of[at] != run and run_of[at] not in chain:
                    chain.append(run_of[at])
                at = above[at]
            ways[run] = tuple(reversed(chain))
        return ways

    @cached_property
    def hazards(self) -> tuple[Reached, ...]:
        """Sources that hands could make to meet."""
        return reachable_hazards(self.topology)


@dataclass(frozen=True)
class Backed:
    """What a unit carries in an outage, with the units that carry it together, and those that follow on
    AC."""

    unit: Unit
    circuits: tuple[Circuit, ...]
    forming: tuple[Unit, ...]
    share: float
    following: tuple[Unit, ...]
    carries: bool = True  # whether any circuit hangs on the island


def backed_of(wiring: Wiring, job: Job, unit: Unit) -> Backed:
    """What a unit carries in an outage, by the graph."""
    island = next((island for island in wiring.islands if unit.id in island.forming), None)
    if island is None:
        return Backed(unit, (), forming=(), share=1.0, following=(), carries=False)
    inside = set(island.circuits)
    forming = tuple(unit for unit in job.units if unit.id in island.forming)
    rated = {unit.id: job.sheet_of(unit).rated_kva for unit in forming}
    return Backed(
        unit,
        tuple(c for c in job.with_role(Role.HELD, Role.SHED) if c.id in inside),
        forming=forming,
        share=rated[unit.id] / sum(rated.values()),
        following=tuple(unit for unit in job.units if unit.id in island.following),
        carries=bool(island.circuits),
    )
