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
        **{name: one for name, one in pack.values.items() if one.corrected and name in now.values},
    }
    tables = {
        **now.tables,
        **{name: one for name, one in pack.tables.items() if one.corrected and name in now.tables},
    }
    made = now.model_copy(update={"values": values, "tables": tables})
    return Newer(made, unlike(pack, made))


def unlike(old: Pack, new: Pack) -> tuple[Unlike, ...]:
    """What two editions have otherwise."""
    both = (
        ("value", {name: _value(one) for name, one in old.values.items()},
         {name: _value(one) for name, one in new.values.items()}),
        ("word", old.words, new.words),
        ("caution", old.cautions, new.cautions),
        ("table", {name: _table(one, new.tables.get(name)) for name, one in old.tables.items()},
         {name: _table(one, one) for name, one in new.tables.items()}),
    )  # fmt: skip
    return tuple(
        Unlike(kind, name, before.get(name, ""), after.get(name, ""))
        for kind, before, after in both
        for name in dict.fromkeys((*before, *after))
        if before.get(name) != after.get(name)
    )


def _value(one: PackValue) -> str:
    return f"{one.value:g} {one.unit}".strip()


def _table(one: PackTable, newer: PackTable | None) -> str:
    """A table in a word: how many of its rows the newer edition hasn't got so."""
    other = len(set(one.rows) - set(newer.rows)) if newer is not None else len(one.rows)
    return f"{len(one.rows)} rows{f', {other} otherwise' if other else ''}"
