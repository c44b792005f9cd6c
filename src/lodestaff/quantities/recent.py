"""What was made of an object that never changes, found again by the object itself."""

from collections.abc import Callable, Hashable
from typing import Any, TypeVar, cast

T = TypeVar("T")


class Recent:
    """The last few results by name and object: a job, a face never changes, so what was made of it stands.

    It spares making and comparing long keys when many ask in turn for the same one.
    """

    def __init__(self, most: int = 4) -> None:
        self._most = most
        self._held: dict[Hashable, list[tuple[object, Any]]] = {}

    def get(self, name: Hashable, of: object, make: Callable[[], T]) -> T:
        for known, value in self._held.get(name, ()):
            if known is of:
                return cast(T, value)
        made = make()
        self._held[name] = [(of, made), *self._held.get(name, ())][
            : self._most
        ]  # one step: safe between threads
        return made
