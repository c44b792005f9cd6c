"""A memory of results, bounded in bytes, that forgets what was used longest ago."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar, cast

import numpy as np

from lodestaff.quantities.going import may_go_on

T = TypeVar("T")
MOST_BYTES = 192 * 1024**2


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


class _Key:
    """A key that is hashed once: the long ones take longer than looking them up."""

    __slots__ = ("_hash", "key")

    def __init__(self, key: Hashable) -> None:
        self.key, self._hash = key, hash(key)

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Key) and self.key == other.key


class Memo:
    """Results by key; safe to share between threads."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self.most_bytes = most_bytes
        self._held: OrderedDict[_Key, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The result under a key, made now if it isn't there. A failure is not remembered.

        Raises Stopped where the person stopped the work that asks for it.
        """
        known = _Key(key)
        with self._lock:
            held = self._held.get(known)
            if held is not None:
                self._held.move_to_end(known)
                return cast(T, held[0])
        may_go_on()
        value = make()
        size = size_of(value)
        with self._lock:
            if known not in self._held:
                self._held[known] = (value, size)
                self._bytes += size
            while self._bytes > self.most_bytes and len(self._held) > 1:
                _, (_, freed) = self._held.popitem(last=False)
                self._bytes -= freed
        return value

    @property
    def held_bytes(self) -> int:
        return self._bytes
