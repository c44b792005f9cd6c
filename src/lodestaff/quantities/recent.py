"""What was made of an object that never changes, found again by the object itself."""

import operator
from collections.abc import Callable, Hashable
from typing import Any, TypeVar, cast

T = TypeVar("T")
MOST_NAMES = 200


class Recent:
    """The last few results by name and object: a job, a face never changes, so what was made of it stands.

    It spares making and comparing long keys when many ask in turn for the same one.
    """

    def __init__(self, most: int = 4) -> None:
        self._most = most
        self._held: dict[Hashable, list[tuple[object, Any]]] = {}

    def get_of_all(self, name: Hashable, of: tuple[object, ...], make: Callable[[], T]) -> T:
        """The same by several objects, all of which must be the very ones."""
        for known, value in self._held.get(name, ()):
            if isinstance(known, tuple) and all(map(operator.is_, known, of)):
                return cast(T, value)
        return self._keep(name, of, make())

    def get(self, name: Hashable, of: object, make: Callable[[], T]) -> T:
        for known, value in self._held.get(name, ()):
            if known is of:
                return cast(T, value)
        return self._keep(name, of, make())

    def _keep(self, name: Hashable, of: object, made: T) -> T:
        self._held[name] = [(of, made), *self._held.get(name, ())][: self._most]  # one step: safe in threads
        while len(self._held) > MOST_NAMES:
            self._held.pop(next(iter(self._held)), None)
        return made
