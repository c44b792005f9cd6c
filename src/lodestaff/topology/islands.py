"""Who feeds whom in an outage: the units that form a network, those that follow it, and the circuits on
it."""

from dataclasses import dataclass

from lodestaff.topology.graph import graph_of
from lodestaff.topology.model import QUIET, Topology
from lodestaff.topology.states import Answer


@dataclass(frozen=True)
class Island:
    """One network that units form together. `circuits` hang on it, whatever is decided of them."""

    forming: tuple[str, ...]
    following: tuple[str, ...]
    circuits: tuple[str, ...]


def islands(topology: Topology, answer: Answer) -> tuple[Island, ...]:
    """The networks that units form in a state, in the order of the units."""
    graph, labels = graph_of(topology), answer.settled.labels

    def sets(at: tuple[str, str]) -> frozenset[int]:
        return frozenset(labels[number] for core, number in graph.cores_at(at).items() if core not in QUIET)

    outs = {unit.unit: sets(unit.out) for unit in topology.units}
    ends = {name: sets((part, port)) for name, (part, port) in topology.circuits.items()}
    all_islands: list[Island] = []
    for unit in topology.units:
        if unit.unit not in answer.forming or any(unit.unit in island.forming for island in all_islands):
            continue
        here = set(outs[unit.unit])
        while True:
            joined = {
                name
                for name, labels_of in outs.items()
                if labels_of & here and answer.unit_modes[name] != "off"
            }
            wider = here.union(*(outs[name] for name in joined))
            if wider == here:
                break
            here = wider
        all_islands.append(
            Island(
                tuple(
                    unit.unit
                    for unit in topology.units
                    if unit.unit in joined and unit.unit in answer.forming
                ),
                tuple(
                    unit.unit
                    for unit in topology.units
                    if unit.unit in joined and unit.unit not in answer.forming
                ),
                tuple(name for name, at in ends.items() if at and at <= here),
            )
        )
    return tuple(all_islands)
