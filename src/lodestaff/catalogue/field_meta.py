"""What is said of a field beside its bounds: the words and unit of a data sheet. One declaration feeds form,
validation, command line, import and reference."""

import types
from dataclasses import dataclass
from functools import cache
from typing import Any, Literal, Union, get_args, get_origin

import annotated_types
from pydantic import BaseModel

Items = Literal["", "words", "pairs", "trackers", "holes"]  # what a list is made of
FieldKind = Literal["number", "whole number", "words", "yes or no", "choice", "list"]


@dataclass(frozen=True)
class FieldMeta:
    """Words and unit of a field; `also` are further units in which sheets give it."""

    words: str
    unit: str = ""
    also: tuple[str, ...] = ()


@dataclass(frozen=True)
class FieldRow:
    """One field of a kind, in the order of a data sheet."""

    key: str
    words: str
    unit: str
    also: tuple[str, ...]
    kind: FieldKind
    required: bool
    low: float | None
    high: float | None
    low_open: bool
    choices: tuple[str, ...]
    default: Any
    items: Items = ""

    @property
    def bounds(self) -> str:
        """The bounds in words."""
        if self.choices:
            return " | ".join(self.choices)
        low = "" if self.low is None else f"{'above' if self.low_open else 'from'} {self.low:g}"
        high = "" if self.high is None else f"to {self.high:g}"
        return f"{low} {high}".strip()


@cache
def rows_of(model: type[BaseModel]) -> tuple[FieldRow, ...]:
    """The fields of a sheet as rows, made from its own declaration; the sizes of its body come last."""
    rows = [_row(name, info) for name, info in model.model_fields.items()]
    last = ("stands", "weather", "fixings", "entries")
    return tuple(sorted(rows, key=lambda row: row.key.startswith(("body_", "clear_")) or row.key in last))


def _row(name: str, info: Any) -> FieldRow:
    said = next((extra for extra in info.metadata if isinstance(extra, FieldMeta)), None)
    base, metadata = _base(info.annotation, list(info.metadata))
    said = said or next(
        (extra for extra in metadata if isinstance(extra, FieldMeta)), FieldMeta(name.replace("_", " "))
    )
    low = high = None
    low_open = False
    for extra in metadata:
        if isinstance(extra, annotated_types.Gt):
            low, low_open = float(extra.gt), True  # type: ignore[arg-type]
        elif isinstance(extra, annotated_types.Ge):
            low = float(extra.ge)  # type: ignore[arg-type]
        elif isinstance(extra, annotated_types.Le):
            high = float(extra.le)  # type: ignore[arg-type]
        elif isinstance(extra, annotated_types.Lt):
            high = float(extra.lt)  # type: ignore[arg-type]
    choices = tuple(str(choice) for choice in get_args(base)) if get_origin(base) is Literal else ()
    kinds: dict[Any, FieldKind] = {float: "number", int: "whole number", str: "words", bool: "yes or no"}
    kind: FieldKind = "choice" if choices else kinds.get(base, "list")
    default = None if info.is_required() else info.get_default(call_default_factory=True)
    items = _items(base) if kind == "list" else ""
    return FieldRow(
        name,
        said.words,
        unit=said.unit,
        also=said.also,
        kind=kind,
        required=info.is_required(),
        low=low,
        high=high,
        low_open=low_open,
        choices=choices,
        default=default,
        items=items,
    )


def _items(base: Any) -> Items:
    inner = (get_args(base) or (None,))[0]
    if inner is str or get_origin(inner) is Literal:
        return "words"
    if get_origin(inner) is tuple:
        return "pairs"
    made_of: dict[str, Items] = {"Tracker": "trackers", "Hole": "holes"}
    return made_of.get(getattr(inner, "__name__", ""), "")


def _base(annotation: Any, metadata: list[Any]) -> tuple[Any, list[Any]]:
    """The type under optional and annotated wrappings, and all that is said on the way."""
    while True:
        origin = get_origin(annotation)
        if hasattr(annotation, "__metadata__"):
            metadata = [*metadata, *annotation.__metadata__]
            annotation = annotation.__origin__
        elif origin in (Union, types.UnionType):
            inner = [part for part in get_args(annotation) if part is not type(None)]
            if len(inner) != 1:
                return annotation, metadata
            annotation = inner[0]
        else:
            break
    flat: list[Any] = []
    for extra in metadata:
        told = getattr(extra, "metadata", None)
        flat += list(told) if isinstance(told, list) else [extra]
    return annotation, flat
