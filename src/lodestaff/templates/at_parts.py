"""Which choices of a new job belong to which part of its drawing, and what could still be added to it."""

from dataclasses import dataclass

from lodestaff.catalogue.field_meta import rows_of
from lodestaff.quantities.errors import JobError
from lodestaff.templates.typed import changed, options_of
from lodestaff.templates.wanted import Wanted

HEAD = ("title", "place", "pack")  # what no part shows: the place sets weather, cold and clock
AT = {
    "supply": ("system", "rating_a", "earthing", "metered"),
    "block": ("interlock", "chosen_loads_ct", "metered"),
    "unit": ("family", "units", "arrangement", "backup", "shutdown", "metered"),
    "battery": ("family", "outbuilding"),
    "array": ("existing", "optimisers", "shutdown", "outbuilding"),
    "board": ("backup", "circuits", "charger", "second_building", "surplus"),
    "gateway": ("backup", "bypass"),
    "bypass": ("bypass",),
    "throw": ("bypass", "backup"),
    "interlock": ("interlock",),
    "contactor": ("surplus", "charger"),
    "generator": ("generator", "grid"),
}
ADDED = {  # what can be added: the value that adds it, and how it is called
    "grid": ("yes", "Grid supply"),
    "generator": ("yes", "Generator"),
    "existing": ("string inverter", "Inverter that is there"),
    "charger": ("yes", "Car charger"),
    "surplus": ("yes", "Surplus loads"),
    "second_building": ("yes", "Second building"),
    "outbuilding": ("yes", "Battery in an outbuilding"),
    "bypass": ("by hand", "Bypass"),
    "interlock": ("yes", "Interlock"),
    "optimisers": ("all", "Optimisers"),
    "shutdown": ("yes", "Rapid shutdown"),
    "chosen_loads_ct": ("yes", "CT on chosen circuits"),
    "metered": ("yes", "Generation meter"),
    "own_sun": ("yes", "Load with its own sun"),
}
NOTHING = ("no", "none")


@dataclass(frozen=True)
class Addition:
    """Something that could stand there too: what it is called, the value of the choice that adds or takes it,
    whether it is there, and why it can't be added where it can't."""

    key: str
    words: str
    value: str
    there: bool
    why_not: str = ""


def choices_at(kind: str) -> tuple[str, ...]:
    """The keys of the choices that a part of a kind shows; () where it shows none."""
    return AT.get(kind, ())


def words_of(key: str) -> str:
    """A choice in words."""
    return next(row.words for row in rows_of(Wanted) if row.key == key)


def additions(wanted: Wanted) -> tuple[Addition, ...]:
    """All that could be added to or taken from what is wanted: with the reason where it can't be."""
    return tuple(_addition(wanted, key, *how) for key, how in ADDED.items())


def _addition(wanted: Wanted, key: str, value: str, words: str) -> Addition:
    now = getattr(wanted, key)
    there = now not in (False, "none")
    other = value if not there else next(option for option in options_of(key) if option in NOTHING)
    try:
        changed(wanted, [f"{key}={other}"])
        why_not = ""
    except JobError as trouble:
        why_not = trouble.what
    words = f"{words}: {now}" if there and isinstance(now, str) else words
    return Addition(key, words, other, there, why_not)
