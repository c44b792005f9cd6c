"""Records with one value of theirs changed: what no sample happens to be."""

from collections.abc import Iterator
from dataclasses import fields, is_dataclass, replace
from typing import Any

from pydantic import BaseModel

DEEP = 5
SCALES = (4.0, 100.0, 0.25, 0.0)


def variants(value: Any, depth: int = DEEP) -> Iterator[Any]:
    """The same with one thing changed: a number scaled, a flag turned, a list emptied, a fact not known."""
    if isinstance(value, bool):
        yield not value
    elif isinstance(value, float | int):
        yield from (type(value)(value * scale) for scale in SCALES)
    elif isinstance(value, tuple):
        yield from _of_tuple(value, depth)
    elif depth and isinstance(value, BaseModel):
        for name in type(value).model_fields:
            known = getattr(value, name)
            if name == "value" and known is not None:
                yield value.model_copy(update={name: None})
            yield from (value.model_copy(update={name: one}) for one in variants(known, depth - 1))
    elif depth and is_dataclass(value) and not isinstance(value, type):
        for field in fields(value):
            yield from (
                replace(value, **{field.name: one}) for one in variants(getattr(value, field.name), depth - 1)
            )


def _of_tuple(value: tuple[Any, ...], depth: int) -> Iterator[Any]:
    if value:
        yield ()
        yield value + value
    if depth and value:
        yield from ((one, *value[1:]) for one in variants(value[0], depth - 1))
