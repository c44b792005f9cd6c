"""Parts, runs and circuits against the data sheets that they have: WIRE-PLAN, and a charger on a combined
neutral and earth: SITE-EARTH."""

from dataclasses import dataclass
from typing import Any

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import Owned, check
from lodestaff.checks.finding import Findings, Remedy, Verdict, soft
from lodestaff.checks.makers import at_least, at_most, one_of, open_
from lodestaff.checks.site import planned
from lodestaff.job import Circuit, Fact
from lodestaff.quantities import Input, Provenance, Source

SHEET = Source("the data sheet of what stands there", Provenance.SHEET)
PACK = Source("the pack's edition", Provenance.JOB)
COMBINED = ("TN-C-S", "MEN", "TN-C")  # supplies whose neutral is the earth as well


@dataclass(frozen=True)
class Asked:
    """What a place asks of the sheet that stands in it: a value that must not fall below a limit; None where
    the sheet or the job doesn't say it."""

    quantity: str
    text: str
    value: float | None
    limit: float | None
    unit: str = ""
    advice: str = ""


@dataclass(frozen=True)
class Sheeted:
    """A place with its sheet: what is reckoned with otherwise than it says, and what the place asks of it."""

    owner: str
    id: str
    name: str
    sheet: str
    apart: tuple[str, ...]
    follow: tuple[Remedy, ...]
    asked: tuple[Asked, ...]


@check("WIRE-PLAN", "sheets", station="wire", rests_on="sheets of parts, devices and cables")
def wire_sheets(record: Sheeted) -> Findings:
    """Is what stands there reckoned with as its sheet says, and does its sheet suit the place?"""
    apart = f" Reckoned with otherwise: {'; '.join(record.apart)}." if record.apart else ""
    yield at_most(
        value=len(record.apart),
        limit=0,
        worse=Verdict.WARNS,
        quantity="agrees",
        text=f"{record.name}: {record.sheet}.{apart or ' Reckoned with as its sheet says.'}",
        name=f"{record.name}: values beside its sheet",
        formula="fields that read otherwise than the sheet",
        source=SHEET,
        cures=record.follow,
        advice="Take the sheet's value, or the sheet of what really stands there.",
    )
    for asked in record.asked:
        yield at_least(
            value=asked.value,
            limit=asked.limit,
            unit=asked.unit,
            quantity=asked.quantity,
            text=f"{record.name}: {asked.text}.",
            name=f"{record.name}: {asked.quantity}",
            formula="the sheet's >= the place's",
            source=SHEET,
            inputs=(Input("sheet", record.sheet),),
            advice=asked.advice,
        )


@dataclass(frozen=True)
class Charger(Owned):
    """A car charger of a site, and whether the pack asks for protection against an open neutral: None where
    its edition doesn't say."""

    owner: str
    circuit: Circuit
    earthing: Fact[Any]
    asked: PackValue | None


@check("SITE-EARTH", "charger", station="site", rests_on="pack, charger's sheet")
def charger_earth(record: Charger) -> Findings:
    """Is a car charger safe where the supply's neutral is its earth and parts?"""
    fact, asked, earthing = record.circuit.open_neutral, record.asked, record.earthing
    if (earthing.firm and earthing.value not in COMBINED) or (asked is not None and not asked.value):
        return
    name = f"{record.circuit.name}: protection against an open neutral"
    if asked is None:
        yield open_(
            text=f"{record.circuit.name}: this edition of the pack doesn't say whether it needs protection "
            "against an open neutral.",
            because=("the edition doesn't say",),
            name=name,
            formula="by the pack",
            source=PACK,
            advice="Take the newer edition, or ask by the local code.",
        )
        return
    words = {"yes": "it has protection against an open neutral", "no": "it has none against an open neutral"}
    said = "whether it protects against an open neutral is unknown"
    if fact.value is not None:
        said = f"{words[fact.value]} ({fact.words()})"
    yield one_of(
        word=fact.value,
        bad={"no": Verdict.BLOCKS},
        value=float(fact.value == "yes"),
        text=f"{record.circuit.name} on {earthing.value or 'an unknown earthing'}: {said}.",
        name=name,
        formula="asked where the supply's neutral is its earth",
        inputs=(Input("earthing", earthing.value or "unknown", "", earthing.words()),),
        source=asked.cite(),
        because=soft(protection_against_an_open_neutral=fact, earthing=earthing),
        cures=planned(f"circuits/{record.owner}/open_neutral", "yes", "Plan a charger that has it"),
        advice="Read the charger's sheet; else a device that opens line, neutral and earth together.",
    )
