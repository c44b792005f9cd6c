"""The graph made ready to be asked: cores numbered, joins that always are, joins by position; sets by SciPy."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from lodestaff.topology.model import Terminal, Topology

Core = tuple[str, str, str]  # part, port, core
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Way:
    """Joins through a part that hold in some positions of a key: pairs of core numbers."""

    part: str
    key: str
    positions: tuple[str, ...]
    pairs: tuple[tuple[int, int], ...]


class Graph:
    """Cores as numbers, and the joins between them."""

    def __init__(self, topology: Topology) -> None:
        self.topology = topology
        self.number: dict[Core, int] = {}
        self.at: dict[Terminal, dict[str, int]] = {}  # the cores at a terminal, by name
        self.conductor_pairs: dict[str, tuple[tuple[int, int], ...]] = {}
        fixed: list[tuple[int, int]] = []
        for conductor in topology.conductors:
            pairs = tuple((self._core(*conductor.a, core), self._core(*conductor.b, core)) for core in conductor.cores)
            self.conductor_pairs[conductor.id] = pairs
        self.ways: list[Way] = []
        self.rcd_pairs: list[tuple[int, int]] = []
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

    def _core(self, part: str, port: str, core: str) -> int:
        number = self.number.setdefault((part, port, core), len(self.number))
        self.at.setdefault((part, port), {})[core] = number
        return number

    def joined(
        self, settings: dict[str, str], loose: frozenset[str] = frozenset(), without: frozenset[str] = frozenset()
    ) -> list[int]:
        """The set that each core is in, by number. `loose` conductors join nothing, nor do parts `without`."""
        from scipy.sparse import coo_array
        from scipy.sparse.csgraph import connected_components

        pairs = list(self.fixed)
        if loose:
            pairs += [pair for name, found in self.conductor_pairs.items() if name not in loose for pair in found]
        else:
            pairs += self.all_conductors
        for way in self.ways:
            if settings.get(way.key) in way.positions and way.part not in without:
                pairs += way.pairs
        ends = np.array(pairs, dtype=np.int32).reshape(-1, 2)
        weights = np.ones(len(pairs), dtype=np.int8)
        matrix = coo_array((weights, (ends[:, 0], ends[:, 1])), shape=(self.count, self.count))
        labels: list[int] = connected_components(matrix, directed=False)[1].tolist()
        return labels

    def cores_at(self, terminal: Terminal) -> dict[str, int]:
        """Core numbers at a terminal, by name; empty where nothing is wired."""
        return self.at.get(terminal, {})


@lru_cache(maxsize=32)
def _graph_of(holder: _Holder) -> Graph:
    return Graph(holder.topology)


class _Holder:
    """Lets a topology, which holds dictionaries, be a cache's key by identity."""

    def __init__(self, topology: Topology) -> None:
        self.topology = topology

    def __hash__(self) -> int:
        return id(self.topology)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Holder) and other.topology is self.topology


def graph_of(topology: Topology) -> Graph:
    """The graph of a topology, made once."""
    return _graph_of(_Holder(topology))
