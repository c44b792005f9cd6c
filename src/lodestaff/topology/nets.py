"""Cores that are joined: a union of sets, for the graph is asked in every switching state while a hand drags."""

from __future__ import annotations

from collections.abc import Iterable

Core = tuple[str, str, str]  # part, port, core


class Nets:
    """Sets of joined cores. A core that no conductor or contact touches is in none."""

    def __init__(self, edges: Iterable[tuple[Core, Core]] = ()) -> None:
        self._parent: dict[Core, Core] = {}
        for a, b in edges:
            self.join(a, b)

    def join(self, a: Core, b: Core) -> None:
        parent = self._parent
        parent.setdefault(a, a)
        parent.setdefault(b, b)
        one, other = self.root(a), self.root(b)
        if one != other:
            parent[other] = one

    def root(self, core: Core) -> Core:
        """The core that stands for a set."""
        parent = self._parent
        top = core
        while parent[top] != top:
            top = parent[top]
        while parent[core] != top:
            parent[core], core = top, parent[core]
        return top

    def __contains__(self, core: Core) -> bool:
        return core in self._parent

    def joined(self, a: Core, b: Core) -> bool:
        """Whether two cores are in one set."""
        return a in self and b in self and self.root(a) == self.root(b)

    def sets(self) -> list[list[Core]]:
        """All sets."""
        found: dict[Core, list[Core]] = {}
        for core in self._parent:
            found.setdefault(self.root(core), []).append(core)
        return list(found.values())
