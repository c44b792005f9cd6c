"""The graph of a job with what its standard states make of it, and what a unit carries in an outage."""

from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property

from lodestaff.job import Circuit, Unit
from lodestaff.topology import Answer, Island, State, Topology, answer, islands, standard_states
from lodestaff.topology.flows import Flows, flows
from lodestaff.topology.moves import Reached, reachable_hazards


@dataclass(frozen=True)
class Wiring:
    """The graph of a job; what each standard state makes of it is found when it is first asked for."""

    topology: Topology

    @cached_property
    def states(self) -> tuple[State, ...]:
        return standard_states(self.topology)

    @cached_property
    def answers(self) -> tuple[Answer, ...]:
        """All standard states, in their order."""
        return tuple(self._answer(state) for state in self.states)

    @cached_property
    def islands(self) -> tuple[Island, ...]:
        """The networks that units form in an outage."""
        dark = self.state("island")
        return islands(self.topology, dark) if dark is not None else ()

    def state(self, name: str) -> Answer | None:
        """What a standard state makes of it; None where this installation has no such state."""
        found = next((state for state in self.states if state.name == name), None)
        return self._answer(found) if found is not None else None

    def _answer(self, state: State) -> Answer:
        if state.name not in self._found:
            self._found[state.name] = answer(self.topology, state)
        return self._found[state.name]

    @cached_property
    def _found(self) -> dict[str, Answer]:
        return {}

    def flows(self, found: Answer, circuits_kva: tuple[tuple[str, float], ...], nominal_v: float) -> Flows:
        """Currents in a state, kept with the graph that they belong to."""
        key = (found.state, circuits_kva, nominal_v)
        if key not in self._flows:
            self._flows[key] = flows(self.topology, found, dict(circuits_kva), nominal_v)
        return self._flows[key]

    @cached_property
    def _flows(self) -> dict[Hashable, Flows]:
        return {}

    @cached_property
    def hazards(self) -> tuple[Reached, ...]:
        """Sources that hands could make to meet."""
        return reachable_hazards(self.topology)


@dataclass(frozen=True)
class Backed:
    """What a unit carries in an outage, with the units that carry it together, and those that follow on AC."""

    unit: Unit
    circuits: tuple[Circuit, ...]
    forming: tuple[Unit, ...]
    share: float
    following: tuple[Unit, ...]
