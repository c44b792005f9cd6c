"""The shelf's document: entries by id, with how each value is known."""

import json
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from lodestaff.catalogue.cross import Remark, remarks
from lodestaff.catalogue.documents import load_document, parse_document, save_document
from lodestaff.catalogue.frozen import Frozen
from lodestaff.catalogue.kinds import Kind, checked, kind_named
from lodestaff.job import Known
from lodestaff.quantities.errors import JobError

Id = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9.-]{0,39}$")]
MOST_ENTRIES = 20_000


class Entry(Frozen):
    """One sheet on the shelf. Values may be missing while the data sheet is being typed; none is guessed.

    `known` says of single values how they are known; the others come from the data sheet. `file` names the
    sheet's own file, wherever the person keeps it.
    """

    id: Id
    kind: str
    values: dict[str, Any]
    known: dict[str, Known] = {}
    note: Annotated[str, Field(max_length=400)] = ""
    file: Annotated[str, Field(max_length=400)] = ""

    @model_validator(mode="after")
    def _fields_are_the_kinds(self) -> "Entry":
        try:
            kind = kind_named(self.kind)
            for key in (*self.values, *self.known):
                kind.row(key)
        except JobError as trouble:
            raise ValueError(str(trouble)) from trouble
        return self

    @property
    def of(self) -> Kind:
        return kind_named(self.kind)

    @property
    def name(self) -> str:
        return str(self.values.get("name") or self.id)

    @property
    def missing(self) -> tuple[str, ...]:
        """Words of the values that a complete sheet needs and this one lacks."""
        return tuple(row.words for row in self.of.rows if row.required and self.values.get(row.key) is None)

    @property
    def remarks(self) -> tuple[Remark, ...]:
        """What stands out among its values."""
        return remarks(self.kind, self.values)

    def sheet(self) -> Frozen:
        """The sheet as a job takes it. Raises JobError where values are missing or wrong."""
        return checked(self.of, self.values, self.id)

    def known_of(self, key: str) -> Known:
        return self.known.get(key, Known.SHEET)


class Shelf(Frozen):
    """All entries, ids differ."""

    version: Literal[1] = 1
    entries: Annotated[tuple[Entry, ...], Field(max_length=MOST_ENTRIES)] = ()

    @model_validator(mode="after")
    def _ids_differ(self) -> "Shelf":
        ids = [entry.id for entry in self.entries]
        twice = sorted({name for name in ids if ids.count(name) > 1}) if len(set(ids)) < len(ids) else []
        if twice:
            raise ValueError(f"the id {twice[0]!r} stands twice; ids must differ")
        return self

    def get(self, entry_id: str) -> Entry:
        """An entry. Raises JobError where there is none."""
        for entry in self.entries:
            if entry.id == entry_id:
                return entry
        raise JobError(
            f"nothing on the shelf is called {entry_id!r}", "shelf", "list it with `lodestaff shelf`"
        )

    def of_kind(self, kind: str) -> tuple[Entry, ...]:
        return tuple(entry for entry in self.entries if entry.kind == kind)

    def with_entry(self, entry: Entry) -> "Shelf":
        """The shelf with an entry put in, or in place of the one of its id."""
        kept = [other for other in self.entries if other.id != entry.id]
        at = next((index for index, row in enumerate(self.entries) if row.id == entry.id), len(kept))
        return Shelf(entries=(*kept[:at], entry, *kept[at:]))

    def without(self, entry_id: str) -> "Shelf":
        self.get(entry_id)
        return Shelf(entries=tuple(entry for entry in self.entries if entry.id != entry_id))


def shelf_path() -> Path:
    """Where the person's shelf lies."""
    from platformdirs import user_data_dir

    return Path(user_data_dir("lodestaff", appauthor=False)) / "shelf.json"


def parse_shelf(raw: bytes, name: str) -> Shelf:
    """A shelf from its document. Raises JobError with place and cure."""
    return parse_document(Shelf, raw, name, "shelf")


@cache
def starter() -> Shelf:
    """The invented starter set that ships with the program."""
    return parse_shelf((resources.files("lodestaff.shelf") / "starter.json").read_bytes(), "starter set")


def load_shelf(path: Path | None = None) -> Shelf:
    """The person's shelf; the starter set where none was made. Raises JobError for a damaged one."""
    where = path or shelf_path()
    if path is None and not where.exists():
        return starter()
    return load_document(Shelf, where, "shelf")


def save_shelf(shelf: Shelf, path: Path | None = None) -> None:
    """Write the shelf. Raises JobError where the disk refuses."""
    save_document(shelf_text(shelf), path or shelf_path())


def shelf_text(shelf: Shelf) -> str:
    """The shelf's document; defaults are left out."""
    return (
        json.dumps(
            shelf.model_dump(mode="json", exclude_defaults=True) | {"version": 1},
            indent=1,
            ensure_ascii=False,
        )
        + "\n"
    )
