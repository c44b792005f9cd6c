"""The graph made ready to be asked: cores numbered, joins that always are, joins by position; sets by
SciPy."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from lodestaff.topology.model import Terminal, Topology

Core = tuple[str, str, str]  # part, port, core
Ints = NDArray[np.int32]


@dataclass(frozen=True)
class Way:
    """Joins through a part that hold in some positions of a key: pairs of core numbers."""

    part: str
    key: str
    positions: tuple[str, ...]
    pairs: tuple[tuple[int, int], ...]


def _ends(pairs: Sequence[tuple[int, int]]) -> Ints:
    return np.array(pairs, dtype=np.int32).reshape(-1, 2)


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
        self._fixed_ends, self._all_ends = _ends(fixed), _ends(self.all_conductors)
        self._conductor_ends = {name: _ends(pairs) for name, pairs in self.conductor_pairs.items()}
        self._way_ends = [_ends(way.pairs) for way in self.ways]

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
        from scipy.sparse import csr_array
        from scipy.sparse.csgraph import connected_components

        chosen = [self._fixed_ends]
        if loose:
            chosen += [self._conductor_ends[name] for name in self.conductor_pairs if name not in loose]
        else:
            chosen.append(self._all_ends)
        chosen += [
            ends
            for way, ends in zip(self.ways, self._way_ends, strict=True)
            if settings.get(way.key) in way.positions and way.part not in without
        ]
        ends = np.concatenate(chosen)
        order = np.argsort(ends[:, 0], kind="stable")
        starts = np.searchsorted(ends[order, 0], np.arange(self.count + 1)).astype(np.int32)
        matrix = csr_array(
            (np.ones(len(ends), dtype=np.int8), ends[order, 1], starts), shape=(self.count, self.count)
        )
        labels: list[int] = connected_components(matrix, directed=False)[1].tolist()
        return labels

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
