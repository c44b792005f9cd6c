"""A memory of results, bounded in bytes, that forgets what was used longest ago."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar, cast

import numpy as np

T = TypeVar("T")


def size_of(value: Any) -> int:
    """Bytes of the arrays in a result; what it says itself that it takes; 200 for anything small."""
    if hasattr(value, "takes_bytes"):
        return int(value.takes_bytes)
    if isinstance(value, np.ndarray):
        return value.nbytes
    if isinstance(value, tuple | list):
        return sum(size_of(item) for item in value)
    if is_dataclass(value):
        return sum(size_of(getattr(value, field.name)) for field in fields(value))
    return 200


class OfJob:
    """The last few results by name and job object: a job never changes, so what was made of it stands.

    It spares making and comparing the long keys of the memory when many ask in turn for the same job.
    """

    def __init__(self, jobs: int = 4) -> None:
        self._jobs = jobs
        self._held: dict[Hashable, list[tuple[object, Any]]] = {}

    def get(self, name: Hashable, job: object, make: Callable[[], T]) -> T:
        for known, value in self._held.get(name, ()):
            if known is job:
                return cast(T, value)
        made = make()
        self._held[name] = [(job, made), *self._held.get(name, ())][
            : self._jobs
        ]  # one step: safe between threads
        return made


class Memo:
    """Results by key; safe to share between threads."""

    def __init__(self, most_bytes: int = 192 * 1024**2) -> None:
        self.most_bytes = most_bytes
        self._held: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The result under a key, made now if it isn't there. A failure is not remembered."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return cast(T, self._held[key][0])
        value = make()
        size = size_of(value)
        with self._lock:
            if key not in self._held:
                self._held[key] = (value, size)
                self._bytes += size
            while self._bytes > self.most_bytes and len(self._held) > 1:
                _, (_, freed) = self._held.popitem(last=False)
                self._bytes -= freed
        return value

    @property
    def held_bytes(self) -> int:
        return self._bytes
