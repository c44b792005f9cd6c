"""A person's own pack: values, words and tables laid over a shipped one, each with its source and date."""

from typing import Annotated, Any

from pydantic import Field

from lodestaff.catalogue.documents import parse_document
from lodestaff.catalogue.frozen import Frozen
from lodestaff.catalogue.pack import Pack, PackTable, PackValue, load_pack
from lodestaff.quantities import Provenance
from lodestaff.quantities.errors import JobError

Words = Annotated[str, Field(min_length=1, max_length=400)]
IsoDate = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")]


class OwnValue(Frozen):
    """A value with where it was read and when."""

    value: float
    source: Words
    date: IsoDate


class OwnTable(Frozen):
    """Rows of a table by their key; a cell of null stays as it was."""

    source: Words
    date: IsoDate
    rows: Annotated[tuple[tuple[float | None, ...], ...], Field(min_length=1)]


class Overlay(Frozen):
    """What is laid over a pack."""

    name: Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{1,30}$")]
    over: str
    values: dict[str, OwnValue] = {}
    words: dict[str, Words] = {}
    tables: dict[str, OwnTable] = {}


def parse_overlay(raw: bytes, name: str) -> Overlay:
    """An overlay from its document, held against the pack it is laid over. Raises JobError with place and
    cure."""
    overlay = parse_document(Overlay, raw, name, "pack; each value needs a value, a source and a date")
    laid_over(load_pack(overlay.over), overlay, name)
    return overlay


def laid_over(pack: Pack, overlay: Overlay, where: str = "") -> Pack:
    """The pack with an overlay on it; what is laid on it says so in each working. Raises JobError."""
    where = where or overlay.name
    for what, mine, theirs in (
        ("value", overlay.values, pack.values),
        ("word", overlay.words, pack.words),
        ("table", overlay.tables, pack.tables),
    ):
        unknown = sorted(set(mine) - set(theirs))
        if unknown:
            raise JobError(
                f"the pack {pack.name} has no {what} {unknown[0]!r}",
                where,
                f"it has {', '.join(sorted(theirs))}",
            )
    values = {name: _value(pack.values[name], own) for name, own in overlay.values.items()}
    tables = {
        name: _table(pack.tables[name], own, f"{where} tables {name}") for name, own in overlay.tables.items()
    }
    return pack.model_copy(
        update={
            "edition": f"{pack.edition} with {overlay.name}",
            "values": {**pack.values, **values},
            "words": {**pack.words, **overlay.words},
            "tables": {**pack.tables, **tables},
        }
    )


def _value(old: PackValue, own: OwnValue) -> PackValue:
    return old.model_copy(
        update={"value": own.value, "source": f"{own.source}, {own.date}", "provenance": Provenance.PUBLISHED}
    )


def _table(old: PackTable, own: OwnTable, where: str) -> PackTable:
    """Rows take the place of those of their key; new keys are put in order."""
    rows = {row[0]: row for row in old.rows}
    for row in own.rows:
        if len(row) > len(old.columns) or len(row) < 2 or row[0] is None:
            raise JobError(f"a row has {len(row)} cells", where, f"columns: {', '.join(old.columns)}")
        row = (
            *row,
            *(None for _ in old.columns[len(row) :]),
        )  # written before the table had its last columns
        before: tuple[Any, ...] = rows.get(row[0], (None,) * len(row))
        rows[row[0]] = tuple(b if a is None else a for a, b in zip(row, before, strict=True))
    ordered = tuple(rows[key] for key in sorted(rows, key=lambda key: key if key is not None else 0.0))
    source = f"{old.source}; rows from {own.source}, {own.date}"
    return old.model_copy(update={"rows": ordered, "source": source})
