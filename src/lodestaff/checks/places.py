"""Where things stand: STO-PLACE for batteries, the room about every part, and WIRE-ISO's reach.

Distances and rooms are the pack's data, many from memory: local code and the maker's instructions rule.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from lodestaff.catalogue.placing import Placing
from lodestaff.checks.check import Owned, check
from lodestaff.checks.finding import Finding, Findings, Verdict
from lodestaff.checks.makers import Words, at_least, at_most, noted, one_of, open_
from lodestaff.checks.weather import Stood, weathered
from lodestaff.quantities import Input, Provenance, Source, text_of

ROOM = Source("the clearances of its sheet", Provenance.SHEET)
REACH = Source("hands reach it without a ladder, and see it", Provenance.COMMON_PRACTICE)
FIXING = Source(
    "heavy things hang on masonry, on studs or on a board; stacks on the floor are tied back",
    Provenance.COMMON_PRACTICE,
)
HEAVY_KG = 40.0  # a lining alone carries no more (common practice, no source)
PLACE_RULES = ("STO-PLACE: battery", "STO-PLACE: room about", "WIRE-ISO: reach")
RULES = "Local code and the maker's instructions rule."


@dataclass(frozen=True)
class BatteryPlace(Owned):
    """A battery on its wall (`wall` is '' while it has none) against what the pack says of its place.

    Distances are those to the nearest, None where there is none on the wall.
    """

    owner: str
    name: str
    wall: str
    rules: Placing | None
    room: str
    behind: str | None
    opening: tuple[str, float] | None
    gas: tuple[str, float] | None
    other: tuple[str, float] | None
    foot_m: float
    flood_m: float | None
    sun: str | None
    vehicles: str | None
    backed: bool | None
    reach: tuple[float | None, float | None] | None  # of a board behind it beyond its sides and its top
    outside: bool

    @property
    def source(self) -> Source:
        if self.rules is None:
            return Source("the pack, which is silent", Provenance.FROM_MEMORY)
        return Source(self.rules.source, Provenance(self.rules.provenance))


@check("STO-PLACE", "battery", station="place", rests_on="pack, from memory")
def sto_place(record: BatteryPlace) -> Findings:
    """May the battery stand where it does?"""
    if not record.wall or record.rules is None:
        why = "its place isn't planned yet" if not record.wall else "the pack says nothing about places"
        yield open_(
            text=f"{record.name}: where it stands isn't known.",
            because=(why,),
            quantity="place",
            advice=RULES,
            **_of(record, "place"),
        )
        return
    yield _room(record, record.rules)
    yield from _distances(record, record.rules)
    yield from _surroundings(record, record.rules)


def _of(record: BatteryPlace, what: str) -> Words:
    """The words of a figure that is read, not reckoned."""
    return {"name": f"{record.name}: {what}", "formula": "as read of its place", "source": record.source}


def _room(record: BatteryPlace, rules: Placing) -> Finding:
    """The room that it stands in."""
    why = rules.not_in.get(record.room, "")
    where = f"in the {record.room}" if record.room else "outside"
    return one_of(
        word=record.room or "outside",
        bad=dict.fromkeys(rules.not_in, Verdict.BLOCKS),
        text=f"{record.name} stands {where}, at {record.wall}{f': {why}' if why else ''}.",
        **_of(record, "room"),
        quantity="room",
        advice=f"Another place. {RULES}" if why else RULES,
    )


def _distances(record: BatteryPlace, rules: Placing) -> Iterator[Finding]:
    """From openings, gas and other batteries on the same wall."""
    for what, nearest, limit in (
        ("opening", record.opening, rules.opening_m),
        ("gas", record.gas, rules.gas_m),
        ("other battery", record.other, rules.between_m),
    ):
        if nearest is None or limit is None:
            continue
        name, metres = nearest
        yield at_least(
            value=metres,
            limit=limit,
            unit="m",
            text=f"{record.name} is {text_of(metres, 'm')} from {name}; {text_of(limit, 'm')} are wanted.",
            name=f"{record.name} to the nearest {what}",
            formula="shortest distance on the wall, edge to edge",
            source=record.source,
            quantity=what,
            advice=f"Move it along the wall, or to another. {RULES}",
        )


def _surroundings(record: BatteryPlace, rules: Placing) -> Iterator[Finding]:
    """Water, sun, vehicles, what lies behind."""
    if record.flood_m is not None:
        least = record.flood_m + rules.above_flood_m
        yield at_least(
            value=record.foot_m,
            limit=least if record.flood_m > 0 else 0.0,
            unit="m",
            text=f"{record.name} begins {text_of(record.foot_m, 'm')} above the floor; water may stand "
            f"{text_of(record.flood_m, 'm')} high.",
            name=f"Foot of {record.name} above the floor",
            formula="height of its lower edge",
            source=record.source,
            quantity="flood",
            advice="Raise it, or choose a place that stays dry.",
        )
    elif record.outside or record.room in ("cellar", "garage", "outbuilding"):
        yield open_(
            text=f"{record.name}: how high water may stand at {record.wall} isn't known.",
            because=("flood level is unknown",),
            quantity="flood",
            **_of(record, "height of water"),
        )
    driven = record.outside or record.room == "garage"
    for what, there, said, words, advice in (
        ("sun", record.outside, record.sun, "stands in direct sun", "Shade it, or turn a corner."),
        ("vehicles", driven, record.vehicles, "stands where vehicles move", "A post or a kerb before it."),
    ):
        if not there:
            continue
        yield one_of(
            word=said,
            bad={"yes": Verdict.WARNS},
            text=f"{record.name} {words}."
            if said == "yes"
            else f"{record.name}: no {what} there."
            if said
            else f"{record.name}: whether it {words} isn't known.",
            because=() if said else (f"{what} at {record.wall} is unknown",),
            quantity=what,
            advice=advice,
            **_of(record, what),
        )
    yield from _backing(record, rules)


def _backing(record: BatteryPlace, rules: Placing) -> Iterator[Finding]:
    """What doesn't burn behind it."""
    wanted = rules.backing_always or record.behind in rules.backing_behind
    unknown = record.behind is None and bool(rules.backing_behind) and not rules.backing_always
    if not wanted and not unknown:
        return
    behind = f" with a {record.behind} behind" if record.behind in rules.backing_behind else ""
    because = ("what lies behind the wall is unknown",) if unknown else ()
    there = "what doesn't burn stands" if record.backed else "nothing that doesn't burn is known"
    if wanted and record.backed is None:
        because = (*because, "what stands behind it is unknown")
    yield one_of(
        word=None if record.backed is None else "yes" if record.backed else "no",
        bad={"no": Verdict.WARNS if unknown else Verdict.BLOCKS},
        text=f"{record.name}{behind}: {there} behind it.",
        because=because,
        **_of(record, "what stands behind"),
        quantity="backing",
        advice=f"A board that doesn't burn behind it, wider and higher than it. {RULES}",
    )
    if wanted and record.backed and record.reach is not None:
        yield from _reach(record, rules, record.reach)


def _reach(
    record: BatteryPlace, rules: Placing, reach: tuple[float | None, float | None]
) -> Iterator[Finding]:
    """How far the board behind it goes beyond it."""
    for where, metres, limit in (
        ("each side", reach[0], rules.backing_side_m),
        ("the top", reach[1], rules.backing_above_m),
    ):
        if limit is None:
            continue
        far = "an unknown way" if metres is None else text_of(metres, "m")
        yield at_least(
            value=metres,
            limit=limit,
            unit="m",
            text=f"{record.name}: what stands behind goes {far} beyond {where}; "
            f"{text_of(limit, 'm')} are wanted.",
            name=f"What stands behind {record.name}, beyond {where}",
            formula="edge of the board to edge of the battery",
            source=record.source,
            because=() if metres is not None else ("how far it goes is unknown",),
            quantity=f"backing beyond {where}",
            advice=f"A larger board. {RULES}",
        )


@dataclass(frozen=True)
class AboutBody(Stood):
    """A part on its wall with what lies in its way: parts, openings and edges within its clearance."""

    owner: str
    name: str
    wall: str
    in_the_way: tuple[str, ...]
    fits: bool
    silent: tuple[str, ...]
    sized: str
    weight_kg: float | None
    held: str | None
    build: str | None
    grows_m: float
    above_m: float
    front_m: float  # wanted free in front
    free_m: float | None  # free in front of it
    spans_studs: bool | None  # whether it is as wide as two studs stand apart; None: it isn't known how far

    @property
    def subjects(self) -> tuple[str, ...]:
        return (self.owner,)


@check("STO-PLACE", "room about", station="place", rests_on="sheets")
def room_about(record: AboutBody) -> Findings:
    """Does it fit on its wall, with the room that its maker wants, and does the wall carry it?"""
    because = (*(("its size is the usual one",) if record.sized == "usual" and record.large else ()),
               *(f"the sheet gives no {what}" for what in record.silent))  # fmt: skip
    fits = "it fits" if record.fits else "it goes beyond the wall"
    blocked = f"; in its way: {', '.join(record.in_the_way)}" if record.in_the_way else ""
    yield at_most(
        value=float(len(record.in_the_way)),
        limit=0.0,
        kept=record.fits and not record.in_the_way,
        text=f"{record.name} on {record.wall}: {fits}{blocked}.",
        name=f"In the way of {record.name}",
        formula="parts, openings and edges within its clearances",
        source=ROOM,
        because=because,
        quantity="clear",
        advice="Move it; what must open stays free.",
    )
    if record.grows_m > 0:
        yield at_least(
            value=record.above_m,
            limit=record.grows_m,
            unit="m",
            worse=Verdict.NOTES,
            text=f"{record.name} may grow by {text_of(record.grows_m, 'm')}; {text_of(record.above_m, 'm')} "
            "are free above it.",
            name=f"Free above {record.name}",
            formula="to the next thing above, or the wall's edge",
            source=ROOM,
            quantity="grows",
            advice="Leave room for the next module.",
        )
    if record.front_m > 0:
        there = "" if record.free_m is None else f", {text_of(record.free_m, 'm')} are there"
        yield at_least(
            value=record.free_m,
            limit=record.front_m,
            unit="m",
            text=f"{record.name}: {text_of(record.front_m, 'm')} are wanted free in front of it{there}.",
            name=f"Free in front of {record.name}",
            formula="free before the wall − its depth",
            source=ROOM,
            because=() if record.free_m is not None else ("how much is free before the wall is unknown",),
            quantity="front",
            advice="Clear what stands there, or choose another wall.",
        )
    if record.weight_kg is not None and record.weight_kg > HEAVY_KG:
        yield _held(record, record.weight_kg)
    yield from weathered(record.name, record)


def _held(record: AboutBody, kg: float) -> Finding:
    """What carries something heavy."""
    bad = {"free": Verdict.BLOCKS}
    if record.build in ("studs", "insulated panel", "timber"):
        bad["to masonry"] = Verdict.BLOCKS
    if record.build in ("masonry", "concrete"):
        bad["to studs"] = Verdict.BLOCKS
    if record.spans_studs is False:
        bad["to studs"] = Verdict.WARNS  # one stud alone
    how = record.held or "not known how it is held"
    build = f" on {record.build}" if record.build else ""
    return one_of(
        word=record.held,
        bad=bad,
        value=kg,
        unit="kg",
        text=f"{record.name}, {text_of(kg, 'kg', 0)}: {how}{build}.",
        name=f"Weight of {record.name}",
        formula="modules x weight of one" if record.grows_m else "by its sheet",
        inputs=(Input("heavy above", HEAVY_KG, "kg"),),
        because=() if record.held and record.build else ("how it is held, or the wall's build, is unknown",),
        source=FIXING,
        quantity="held",
        advice="Into masonry, into studs, on a board across them; a stack on the floor is tied back.",
    )


@dataclass(frozen=True)
class Handle(Owned):
    """The height of what hands must reach, and the unit in whose sight it must be."""

    owner: str
    name: str
    middle_m: float
    low_m: float
    high_m: float
    unit: str
    same_wall: bool | None  # None where the unit has no place


@check("WIRE-ISO", "reach", station="wire", rests_on="pack, common practice")
def wire_reach(record: Handle) -> Findings:
    """Is it within reach, and in sight of what it isolates?"""
    yield at_most(
        value=record.middle_m,
        limit=record.high_m,
        unit="m",
        worse=Verdict.WARNS,
        kept=record.low_m <= record.middle_m <= record.high_m,
        text=f"{record.name} is {text_of(record.middle_m, 'm')} high; hands reach from "
        f"{text_of(record.low_m, 'm')} to {text_of(record.high_m, 'm')}.",
        name=f"Height of {record.name}",
        formula="middle above the floor",
        source=REACH,
        quantity="height",
        advice="Set it where it is reached without a ladder.",
    )
    if record.unit:
        unknown = (f"the place of {record.unit} isn't planned yet",) if record.same_wall is None else ()
        where = "on the wall" if record.same_wall else "not on the wall"
        yield noted(
            verdict=Verdict.PASSED if record.same_wall else Verdict.NOTES,
            text=f"{record.name} is {where} of {record.unit}.",
            because=unknown,
            source=REACH,
            name=f"{record.name}, in sight of {record.unit}",
            formula="on the same wall",
            quantity="sight",
            advice="In sight, or it locks off.",
        )
