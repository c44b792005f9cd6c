"""Editions of a pack: an old job keeps its own; a newer one is offered with all that it changes, as one
step."""

from dataclasses import dataclass

from lodestaff.catalogue.pack import Pack, PackTable, PackValue


@dataclass(frozen=True)
class Unlike:
    """One thing that two editions have otherwise; '' where one of them hasn't got it."""

    kind: str  # value, word, caution, table
    name: str
    before: str
    after: str


@dataclass(frozen=True)
class Newer:
    """The newer edition of a job's pack, what was corrected in the job kept, and what becomes otherwise by
    it."""

    pack: Pack
    unlike: tuple[Unlike, ...]


def newer_edition(pack: Pack) -> Newer | None:
    """The edition that is there now, where it isn't the job's own."""
    now = pack.shipped
    if now.edition == pack.edition:
        return None
    values = {
        **now.values,
        **{name: value for name, value in pack.values.items() if value.corrected and name in now.values},
    }
    tables = {
        **now.tables,
        **{name: table for name, table in pack.tables.items() if table.corrected and name in now.tables},
    }
    made = now.model_copy(update={"values": values, "tables": tables})
    return Newer(made, unlike(pack, made))


def unlike(old: Pack, new: Pack) -> tuple[Unlike, ...]:
    """What two editions have otherwise."""
    both = (
        ("value", {name: _value(value) for name, value in old.values.items()},
         {name: _value(value) for name, value in new.values.items()}),
        ("word", old.words, new.words),
        ("caution", old.cautions, new.cautions),
        ("table", {name: _table(table, new.tables.get(name)) for name, table in old.tables.items()},
         {name: _table(table, table) for name, table in new.tables.items()}),
    )  # fmt: skip
    return tuple(
        Unlike(kind, name, before.get(name, ""), after.get(name, ""))
        for kind, before, after in both
        for name in dict.fromkeys((*before, *after))
        if before.get(name) != after.get(name)
    )


def _value(value: PackValue) -> str:
    return f"{value.value:g} {value.unit}".strip()


def _table(table: PackTable, newer: PackTable | None) -> str:
    """A table in a word: how many of its rows the newer edition hasn't got so."""
    other = len(set(table.rows) - set(newer.rows)) if newer is not None else len(table.rows)
    return f"{len(table.rows)} rows{f', {other} otherwise' if other else ''}"
