"""Columns whose cells are typed into a path of the job."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, number, words
from lodestaff.desktop.understood import as_number
from lodestaff.job import Change, Fact
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number


@dataclass(frozen=True)
class Owner:
    """What a row is of: its path in the job and its name, what it is, as it stands."""

    path: str
    name: str
    of: Any
    wall: str = ""


class Typing:
    """Columns that type into a path of the job."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def put(self, row: Owner, words: str, field: str, value: Any) -> bool:
        said = value.get("value") if isinstance(value, dict) else value
        return self.store.edit(f"Set {words} of {row.name} to {said}", Change(f"{row.path}/{field}", value))

    def name(self) -> Column[Owner]:
        def typed(row: Owner, text: str) -> bool:
            return self.store.edit(f"Call {row.name} {text}", Change(f"{row.path}/name", text))

        return words("Name", lambda row: row.name, typed=typed)

    def metres(self, heading: str, field: str, unit: str = "m", fact: bool = False) -> Column[Owner]:
        """A number; of a fact what is typed was read."""

        def value(row: Owner) -> float | None:
            stored = getattr(row.of, field)
            return stored.value if isinstance(stored, Fact) else stored

        def typed(row: Owner, text: str) -> bool:
            try:
                made = read_number(text, unit) if text else None
            except JobError as trouble:
                self.store.trouble.emit("edit", f"Not changed. {trouble}")
                return False
            kept = {"value": made, "known": "read on site"} if fact else made
            return self.put(row, heading.lower(), field, kept)

        return number(
            heading,
            value,
            typed=typed,
            reads=lambda _: as_number(unit),
            spoken=lambda row: f"{heading} of {row.name}, {unit}",
        )

    def choice(
        self, heading: str, field: str, options: Sequence[str], fact: bool = False, none: str = ""
    ) -> Column[Owner]:
        """A word of some; of a fact the first is that it isn't known."""

        def value(row: Owner) -> str:
            stored = getattr(row.of, field)
            said = stored.value if isinstance(stored, Fact) else stored
            return str(said) if said else options[0] if fact else none

        def typed(row: Owner, text: str) -> bool:
            if fact:
                kept: Any = {"value": None if text == options[0] else text, "known": "read on site"}
            else:
                kept = "" if text == none else text
            return self.put(row, heading.lower(), field, kept)

        return words(
            heading,
            value,
            typed=typed,
            choices=lambda _: tuple(options),
            standing=True,
            spoken=lambda row: f"{heading} of {row.name}",
        )

    def yes_no(self, heading: str, field: str, options: tuple[str, str], unknown: str = "") -> Column[Owner]:
        """One of two words for yes and no; `unknown` for neither."""
        every = (*options, unknown) if unknown else options

        def value(row: Owner) -> str:
            stored = getattr(row.of, field)
            return unknown if stored is None else options[0] if stored else options[1]

        def typed(row: Owner, text: str) -> bool:
            made = None if unknown and text == unknown else text == options[0]
            return self.put(row, heading.lower(), field, made)

        return words(
            heading,
            value,
            typed=typed,
            choices=lambda _: every,
            standing=True,
            spoken=lambda row: f"{heading}: {row.name}",
        )

    def text(self, heading: str, field: str) -> Column[Owner]:
        """Words as they are typed."""

        def typed(row: Owner, text: str) -> bool:
            return self.put(row, heading.lower(), field, text.strip())

        return words(
            heading,
            lambda row: str(getattr(row.of, field)),
            typed=typed,
            spoken=lambda row: f"{heading} of {row.name}",
        )

    def listed(self, heading: str, field: str) -> Column[Owner]:
        """Words of some, typed one after the other with commas between."""

        def typed(row: Owner, text: str) -> bool:
            kept = [word.strip() for word in text.split(",") if word.strip()]
            return self.put(row, heading.lower(), field, kept)

        return words(
            heading,
            lambda row: ", ".join(getattr(row.of, field)),
            typed=typed,
            spoken=lambda row: f"{heading} of {row.name}, with commas between",
        )
