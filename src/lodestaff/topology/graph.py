"""The graph made ready to be asked: cores numbered, joins that always are, joins by position; which
cores are one."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

from lodestaff.topology.model import Terminal, Topology

Core = tuple[str, str, str]  # part, port, core


@dataclass(frozen=True)
class Way:
    """Joins through a part that hold in some positions of a key: pairs of core numbers."""

    part: str
    key: str
    positions: tuple[str, ...]
    pairs: tuple[tuple[int, int], ...]


class Joining:
    """Sets of numbers that grow together: each points at a lower one of its set, the lowest at itself."""

    def __init__(self, lowest: list[int]) -> None:
        self._up = list(lowest)

    def join(self, pairs: Iterable[tuple[int, int]]) -> None:
        """Bring the sets of both together, for each pair."""
        up = self._up
        for first, other in pairs:
            while up[first] != first:
                up[first] = first = up[up[first]]
            while up[other] != other:
                up[other] = other = up[up[other]]
            if first < other:
                up[other] = first
            else:
                up[first] = other

    def labels(self) -> list[int]:
        """Of each number the lowest of its set."""
        up = self._up
        for number, above in enumerate(up):
            up[number] = up[above]
        return list(up)


class Graph:
    """Cores as numbers, and the joins between them."""

    def __init__(self, topology: Topology) -> None:
        self.topology = topology
        self.number: dict[Core, int] = {}
        self.at: dict[Terminal, dict[str, int]] = {}  # the cores at a terminal, by name
        self.conductor_pairs: dict[str, tuple[tuple[int, int], ...]] = {}
        fixed: list[tuple[int, int]] = []
        for conductor in topology.conductors:
            pairs = tuple(
                (self._core(*conductor.a, core), self._core(*conductor.b, core)) for core in conductor.cores
            )
            self.conductor_pairs[conductor.id] = pairs
        self.ways: list[Way] = []
        for part in topology.parts.values():
            for contact in part.contacts:
                pairs = tuple(
                    (self._core(part.id, contact.a, core), self._core(part.id, contact.b, core))
                    for core in contact.cores
                )
                if contact.positions is None:
                    fixed += pairs
                else:
                    self.ways.append(Way(part.id, contact.key or part.id, contact.positions, pairs))
        self.fixed = fixed
        self.all_conductors = [pair for pairs in self.conductor_pairs.values() for pair in pairs]
        self.count = len(self.number)
        self._fixed = fixed
        usual = Joining([*range(self.count)])
        usual.join(fixed)
        usual.join(self.all_conductors)
        self._usual = usual.labels()

    def _core(self, part: str, port: str, core: str) -> int:
        number = self.number.setdefault((part, port, core), len(self.number))
        self.at.setdefault((part, port), {})[core] = number
        return number

    def joined(
        self,
        settings: dict[str, str],
        loose: frozenset[str] = frozenset(),
        without: frozenset[str] = frozenset(),
    ) -> list[int]:
        """The set that each core is in, by number. `loose` conductors join nothing, nor do parts
        `without`."""
        held = not loose
        joining = Joining(self._usual if held else [*range(self.count)])
        if not held:
            joining.join(self._fixed)
            for name, pairs in self.conductor_pairs.items():
                if name not in loose:
                    joining.join(pairs)
        for way in self.ways:
            if settings.get(way.key) in way.positions and way.part not in without:
                joining.join(way.pairs)
        return joining.labels()

    def cores_at(self, terminal: Terminal) -> dict[str, int]:
        """Core numbers at a terminal, by name; empty where nothing is wired."""
        return self.at.get(terminal, {})


class Holder:
    """Lets a topology, which holds dictionaries, be a cache's key by identity."""

    def __init__(self, topology: Topology) -> None:
        self.topology = topology

    def __hash__(self) -> int:
        return id(self.topology)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Holder) and other.topology is self.topology


@lru_cache(maxsize=32)
def _graph_of(holder: Holder) -> Graph:
    return Graph(holder.topology)


def graph_of(topology: Topology) -> Graph:
    """The graph of a topology, made once."""
    return _graph_of(Holder(topology))
