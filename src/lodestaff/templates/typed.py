"""Choices of a new job as they are typed: words to values, and what may be chosen."""

import typing
from typing import Any

from pydantic import ValidationError

from lodestaff.catalogue import pack_names
from lodestaff.catalogue.field_meta import rows_of
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.templates.in_pack import in_pack
from lodestaff.templates.wanted import CHOICES, Wanted

YES, NO = ("yes", "true", "1"), ("no", "false", "0")
FREE = ("unit_sheet", "battery_sheet", "module_sheet")


def options_of(key: str) -> tuple[str, ...]:
    """The words that a choice takes; () for free text and numbers."""
    if key == "pack":
        return tuple(pack_names())
    kind = Wanted.model_fields[key].annotation
    if kind is bool:
        return ("no", "yes")
    inner = [part for part in typing.get_args(kind) if isinstance(part, str)]
    return tuple(inner)


def choices() -> list[dict[str, str]]:
    """Every choice with its words, what it takes, and its ordinary value."""
    words = {row.key: row.words for row in rows_of(Wanted)}
    rows = []
    for key in CHOICES:
        usual = Wanted.model_fields[key].default
        takes = " | ".join(options_of(key)) or ("a number" if key in ("rating_a", "units") else "text")
        rows.append({"key": key, "words": words.get(key, key), "values": takes, "usual": _shown(usual)})
    return rows


def _shown(value: Any) -> str:
    return "yes" if value is True else "no" if value is False else "" if value is None else str(value)


def changed(wanted: Wanted | None, texts: list[str]) -> Wanted:
    """Choices with some changed, each as key=value; with another pack the others go by it. Raises JobError
    that names the choice and what it takes."""
    given: dict[str, Any] = {}
    for text in texts:
        key, equals, value = text.partition("=")
        if not equals or key not in (*CHOICES, *FREE, "battery_modules"):
            raise JobError(
                f"{text!r} is no choice", "--set", f"write key=value with one of {', '.join(CHOICES)}"
            )
        given[key] = _value(key, value.strip())
    start = wanted or Wanted()
    base = in_pack(start, given.get("pack", start.pack))
    return built({**base, **without_sheets(base, {**base, **given}), **given})


def without_sheets(before: dict[str, Any], data: dict[str, Any]) -> dict[str, str]:
    """The sheets of a starting point that don't go with what was chosen instead, as none: the usual ones are
    taken. A unit's is of its family and supply, of one or several, with a backup or without; a battery's is
    of its family."""
    family = data["family"] != before["family"]
    other = (
        any(data[key] != before[key] for key in ("arrangement", "grid", "system"))
        or (data["units"] > 1) != (before["units"] > 1)
        or (data["backup"] == "none") != (before["backup"] == "none")
    )
    left = {"battery_sheet": ""} if family else {}
    return {**left, "unit_sheet": ""} if family or other else left


def built(data: dict[str, Any]) -> Wanted:
    """Choices from plain values. Raises JobError with what is wrong and what would be right."""
    try:
        return Wanted.model_validate(data)
    except ValidationError as trouble:
        first = trouble.errors()[0]
        words = str(first["msg"]).removeprefix("Value error, ")
        where = " ".join(str(step) for step in first["loc"]) or "choices"
        raise JobError(words[0].lower() + words[1:], where) from trouble


def _value(key: str, text: str) -> Any:
    if key == "battery_modules":
        try:
            return [int(part) for part in text.split(",")]
        except ValueError as trouble:
            raise JobError(f"{text!r} is no list of numbers", key, "write 6 or 4,2") from trouble
    options = options_of(key)
    if options == ("no", "yes"):
        if text.lower() not in (*YES, *NO):
            raise JobError(f"{text!r} is neither yes nor no", key, "write yes or no")
        return text.lower() in YES
    if options and text not in options:
        raise JobError(f"no {text!r}", key, f"choose from {', '.join(options)}")
    if key == "rating_a":
        try:
            return read_number(text, "A")
        except JobError as trouble:
            raise JobError(trouble.what, key, trouble.right or "write one like 80") from None
    if key == "units":
        try:
            return int(text)
        except ValueError as trouble:
            raise JobError(f"{text!r} is no whole number", key, "write one like 2") from trouble
    return text
