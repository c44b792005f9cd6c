"""Lifting by weight: how many hands, or an aid."""

import math

from lodestaff.catalogue.pack import Pack
from lodestaff.quantities.convention import plain

PER_PERSON_KG, MOST_PEOPLE = 25.0, 4.0  # where an older edition of a pack gives none; common practice


def _limits(pack: Pack) -> tuple[float, float]:
    each, most = (
        pack.values[name].value if name in pack.values else usual
        for name, usual in (("lift_per_person_kg", PER_PERSON_KG), ("lift_most_people", MOST_PEOPLE))
    )
    return each, most


def people_for(pack: Pack, weight_kg: float | None) -> int:
    """How many lift a part of this weight; two where it isn't known, and beside a lifting aid."""
    each, most = _limits(pack)
    people = 2 if weight_kg is None else math.ceil(weight_kg / each - 1e-9)
    return people if people <= most else 2


def wants_aid(pack: Pack, weight_kg: float | None) -> bool:
    """Whether a part is too heavy for hands alone."""
    each, most = _limits(pack)
    return weight_kg is not None and math.ceil(weight_kg / each - 1e-9) > most


def lifting(pack: Pack, weight_kg: float | None) -> str:
    """Who lifts a part of this weight, in words. Common practice: 25 kg a person, an aid above four
    people."""
    if weight_kg is None:
        return "Its weight isn't on the sheet: read it before anybody lifts."
    each, most = _limits(pack)
    people = math.ceil(weight_kg / each - 1e-9)
    if people > most:
        return f"{plain(weight_kg)} kg: a lifting aid, it is too heavy for hands alone."
    return (
        f"{plain(weight_kg)} kg: {people} people lift it."
        if people > 1
        else f"{plain(weight_kg)} kg: one person lifts it."
    )
