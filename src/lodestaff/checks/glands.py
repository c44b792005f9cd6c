"""Cables of several cores at the cases that they enter: WIRE-FILL, their glands and entries."""

from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Verdict
from lodestaff.checks.makers import Words, at_most, open_
from lodestaff.quantities import Input, Provenance, Source, text_of

SEALS = Source("a gland seals cables of the range that is marked on it", Provenance.COMMON_PRACTICE)
PASSES = Source("an entry passes what is no wider than it is, gland or cable", Provenance.COMMON_PRACTICE)


@dataclass(frozen=True)
class Gland:
    """A cable with its outside diameter, the range of its glands and the widest entry of the unit that it
    ends at, mm; None where not known. `asked`: whether a gland is asked for, as conductors aren't pulled
    through conduits."""

    run: str
    name: str
    outside_mm: float | None
    least_mm: float | None
    most_mm: float | None
    entry_mm: float | None
    asked: bool

    @property
    def read(self) -> bool:
        return None not in (self.outside_mm, self.least_mm, self.most_mm)


@dataclass(frozen=True)
class Glands:
    """All cables that a hand brings into cases."""

    cables: tuple[Gland, ...]

    @property
    def subjects(self) -> tuple[str, ...]:
        return tuple(cable.run for cable in self.cables)


@check("WIRE-FILL", "glands", station="wire", rests_on="what was read on the cable and on its glands")
def wire_fill_glands(record: Glands) -> Findings:
    """Do cables seal in their glands, and go through the entries of their cases?"""
    unread = [cable for cable in record.cables if cable.asked and not cable.read]
    if unread:
        count = f"{len(unread)} cable" + ("" if len(unread) == 1 else "s")
        yield open_(
            text=f"Outside diameter or gland of {count} not read: {unread[0].name}"
            f"{', first' if len(unread) > 1 else ''}.",
            because=("what glands take wasn't read",),
            value=float(len(unread)),
            name="Glands that weren't read",
            formula="cables whose outside diameter and glands aren't both known",
            source=SEALS,
            subjects=tuple(cable.run for cable in unread),
            quantity="unread",
            advice="Read the diameter on the cable's sheet, the range on the gland.",
        )
    for cable in record.cables:
        yield from _sealed(cable)
        yield from _entering(cable)


def _sealed(cable: Gland) -> Findings:
    outside, least, most = cable.outside_mm, cable.least_mm, cable.most_mm
    if outside is None or least is None or most is None:
        return
    words = Words(
        name=f"{cable.name}: gland",
        formula="outside diameter within the gland's range",
        inputs=(Input("from", least, "mm"), Input("to", most, "mm")),
        source=SEALS,
    )
    turned = f"{cable.name}: its gland from {text_of(least, 'mm')} to {text_of(most, 'mm')}"
    if least > most:
        yield open_(
            text=f"{turned}: the wrong way round.",
            because=("the gland's range was read the wrong way round",),
            value=outside,
            unit="mm",
            subjects=(cable.run,),
            quantity=f"gland {cable.run}",
            **words,
        )
        return
    yield at_most(
        value=outside,
        limit=most if outside >= least else least,
        unit="mm",
        worse=Verdict.WARNS,
        kept=least <= outside <= most,
        text=f"{turned}, the cable {text_of(outside, 'mm')} wide.",
        subjects=(cable.run,),
        quantity=f"gland {cable.run}",
        advice="A gland whose range holds the cable; a tape or a sleeve doesn't seal.",
        **words,
    )


def _entering(cable: Gland) -> Findings:
    if cable.outside_mm is None or cable.entry_mm is None:
        return
    yield at_most(
        value=cable.outside_mm,
        limit=cable.entry_mm,
        unit="mm",
        worse=Verdict.WARNS,
        text=f"{cable.name}: {text_of(cable.outside_mm, 'mm')} wide; the widest entry there "
        f"{text_of(cable.entry_mm, 'mm')}.",
        name=f"{cable.name}: entry",
        formula="outside diameter against the widest entry of the case",
        inputs=(Input("widest entry", cable.entry_mm, "mm"),),
        source=PASSES,
        subjects=(cable.run,),
        quantity=f"entry {cable.run}",
        advice="Another entry, or a box beside the unit from which conductors that fit go on.",
    )
