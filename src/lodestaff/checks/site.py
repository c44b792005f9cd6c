"""The supply as it was read: SITE-RATING, SITE-EARTH, SITE-SPACE."""

from dataclasses import dataclass
from typing import Any

from lodestaff.catalogue import Pack, PackValue
from lodestaff.catalogue.demand import DemandMethod
from lodestaff.checks.check import check
from lodestaff.checks.demand import larger_supply
from lodestaff.checks.finding import Finding, Findings, Remedy, Verdict, cure, soft
from lodestaff.checks.makers import at_least, at_most, noted, one_of, open_
from lodestaff.job import Fact, Site
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.gauge import NEAR

READ = Source("the supply as it was read", Provenance.JOB)
ON_SITE = Source("what was found on site", Provenance.JOB)
OLD_BOARDS = Source("old boards show old faults once they are opened", Provenance.COMMON_PRACTICE)
ZONES = Source("the IANA's time zone database", Provenance.PUBLISHED)
THE_YEAR = Source("simulated year", Provenance.DERIVED)


def planned(path: str, value: Any, words: str, note: str = "planned") -> tuple[Remedy, ...]:
    """A fact changed to what is planned: assumed until it is done and read, so its check stays open."""
    return cure(words, path, {"value": value, "known": "assumed", "note": note, "date": ""})


def read(name: str, fact: Fact[Any], unit: str = "") -> Input:
    """A fact as an input: its value, and how it is known."""
    return Input(name, fact.value if fact.value is not None else "unknown", unit, fact.words())


@dataclass(frozen=True)
class Place:
    """Where the site is, its clocks, and what lies near it."""

    site: Site
    time_zone: str  # by which is reckoned
    near: tuple[str, ...]  # zones whose places are nearest
    offset_h: float | None  # of the zone's standard time


@check("SITE-PLACE", station="site", rests_on="what was told")
def site_place(record: Place) -> Findings:
    """Is the place of the site known, and by which clocks do people live there?"""
    site, zone = record.site, record.time_zone
    where = f"{plain(site.latitude_deg)}°, {plain(site.longitude_deg)}°, {text_of(site.altitude_m, 'm', 0)}"
    known = {"value": "yes", "known": "told", "note": "", "date": ""}
    yield one_of(
        word=site.place_known.value,
        bad={},
        value=site.latitude_deg,
        unit="deg",
        quantity="place",
        text=f"{site.place}: {where}, {site.place_known.words()}; sun, temperatures and shade of every "
        "figure rest on it.",
        name="Latitude",
        formula="told, or what the pack begins with",
        inputs=(
            Input("longitude", site.longitude_deg, "deg"),
            Input("altitude", site.altitude_m, "m"),
            read("place", site.place_known),
        ),
        source=READ,
        because=soft(place=site.place_known),
        cures=cure("Note that this is the place", "site/place_known", known),
        advice="Type latitude, longitude and altitude of the roof.",
    )
    told, apart = (
        {**known, "value": zone},
        record.offset_h is not None and record.offset_h != site.utc_offset_h,
    )
    text = f"Clocks by {zone or 'no time zone'}"
    text += (
        f"; near the place lie {', '.join(record.near)}."
        if not site.time_zone.firm
        else f" ({site.time_zone.words()})."
    )
    if apart:
        text += (
            f" Its standard time isn't the {plain(site.utc_offset_h)} h ahead of UTC that are reckoned with."
        )
    yield noted(
        verdict=Verdict.WARNS if apart else Verdict.NOTES if not zone else Verdict.PASSED,
        text=text,
        value=site.utc_offset_h,
        unit="h",
        name="Standard time ahead of UTC",
        formula="by the time zone",
        inputs=(read("time zone", site.time_zone),),
        source=ZONES,
        because=soft(time_zone=site.time_zone),
        cures=cure(f"Reckon with {plain(record.offset_h or 0.0)} h", "site/utc_offset_h", record.offset_h)
        if apart
        else cure(f"Note that clocks go by {zone}", "site/time_zone", told)
        if zone
        else (),
        advice="Choose the zone whose clocks the household keeps.",
        quantity="time zone",
    )


@dataclass(frozen=True)
class Rating:
    """The service rating against the year's highest demand of the busiest phase."""

    site: Site
    demand_kw: float
    demand_when: str
    nominal: PackValue
    usual: PackValue
    method: DemandMethod


@check("SITE-RATING", station="site", rests_on="reading on site")
def site_rating(record: Rating) -> Findings:
    """Was the service rating read, and does it carry the circuits?"""
    fact = record.site.supply.rating_a
    amps, usual = record.demand_kw * 1000 / record.nominal.value, record.usual.value
    name, because = "Highest demand of the circuits", soft(the_service_rating=fact)
    formula = "max of 15-minute means of the busiest phase / nominal voltage"
    inputs = Input("demand", record.demand_kw, "kW", record.demand_when), read("service rating", fact, "A")
    note = "Diversity is in the timetables; short peaks within 15 minutes are not."
    if fact.value is None:
        cures = planned(
            "site/supply/rating_a",
            usual,
            f"Reckon with {plain(usual)} A until it is read",
            "the smallest usual; not read yet",
        )
        yield open_(
            verdict=Verdict.WARNS,
            text="The service rating isn't known; everything behind it rests on it.",
            value=amps,
            unit="A",
            name=name,
            formula=formula,
            inputs=inputs,
            source=THE_YEAR,
            note=note,
            rests_on=READ,
            because=because,
            cures=cures,
            advice="Read it off the fuse carrier or breaker.",
        )
        return
    yield at_most(
        value=amps,
        limit=fact.value,
        unit="A",
        name=name,
        formula=formula,
        inputs=inputs,
        source=THE_YEAR,
        text=f"The circuits ask for up to {text_of(amps, 'A')}; the service rating is "
        f"{text_of(fact.value, 'A', 0)} ({fact.words()}).",
        note=note,
        rests_on=READ,
        because=because,
        cures=lambda: _larger(record, amps),
        advice="Read it off the fuse carrier; ask for a larger one if it is too small.",
    )


def _larger(record: Rating, demand_a: float) -> tuple[Remedy, ...]:
    """A note to ask for the next standard size, unless one is noted already."""
    permits = record.site.permits
    size = record.method.next_standard_a(demand_a)
    noted = any(permit.kind == "main fuse" for permit in permits)
    return (larger_supply(permits, size),) if size and not noted else ()


@dataclass(frozen=True)
class Earth:
    """The earthing arrangement with its limits."""

    site: Site
    ze_max: PackValue
    earthing: PackValue
    bonding: PackValue
    earth_word: str


@check("SITE-EARTH", station="site", rests_on="pack", rules=("IEC",))
def site_earth(record: Earth) -> Findings:
    """Is the earthing known, measured and large enough?"""
    supply, limit = record.site.supply, record.ze_max
    tt = supply.earthing.value == "TT"
    fact, name = (supply.electrode_ohm, "electrode") if tt else (supply.ze_ohm, "Ze")
    most = text_of(limit.value, "ohm")
    rods = planned("site/supply/electrode_ohm", limit.value, f"Plan rods that bring it to {most}")
    yield at_most(
        value=fact.value,
        limit=limit.value,
        unit="ohm",
        worse=Verdict.WARNS,
        quantity=name,
        text=f"{name} is {_said(fact, 'ohm')} ({fact.words()}); usual limit {most}.",
        name=f"{name} of the {supply.earthing.value or 'unknown'} supply",
        formula="measured",
        inputs=(read(name, fact, "ohm"),),
        source=READ,
        rests_on=limit.cite(),
        cures=rods if tt else (),
        because=soft(earthing_arrangement=supply.earthing, **{name: fact}),
        advice="Measure it at the origin; ask the operator where it is too high.",
    )
    earthing = f"{record.earth_word.capitalize()}ing conductor"
    yield _large_enough(earthing, supply.earthing_mm2, record.earthing, "earthing_mm2")
    yield _large_enough("Main bonding", supply.bonding_mm2, record.bonding, "bonding_mm2")


@dataclass(frozen=True)
class ElectrodeConductor:
    """The conductor to the electrode of a service, against the service's own, mm²; None where that isn't
    known."""

    site: Site
    pack: Pack
    service_mm2: float | None


@check("SITE-EARTH", "electrode conductor", station="site", rests_on="pack", rules=("NEC",))
def electrode_conductor(record: ElectrodeConductor) -> Findings:
    """Is the grounding electrode conductor large enough for the service?"""
    fact, table, pack = record.site.supply.earthing_mm2, record.pack.usual_table("electrode"), record.pack
    service = record.service_mm2
    least = table.above(service, "mm2") if service is not None else None
    has = pack.size_words(fact.value) if fact.value is not None else "unknown"
    asked = pack.size_words(least) if least is not None else "by the service conductors, which aren't known"
    yield at_least(
        value=fact.value,
        limit=least,
        kept=fact.value is not None and least is not None and fact.value >= least * (1 - NEAR),
        unit="mm²",
        quantity="earthing_mm2",
        text=f"Grounding electrode conductor {has} ({fact.words()}); at least {asked}.",
        name="Grounding electrode conductor",
        formula="by the largest service conductor",
        inputs=(
            read("grounding electrode conductor", fact, "mm²"),
            Input("service conductor", service if service is not None else "unknown", "mm²"),
        ),
        source=table.cite(),
        because=soft(grounding_electrode_conductor=fact),
        advice="A larger one; to rods alone 6 AWG is enough.",
    )


def _said(fact: Fact[float], unit: str) -> str:
    return text_of(fact.value if fact.value is not None else float("nan"), unit)


def _large_enough(what: str, size: Fact[float], least: PackValue, field: str) -> Finding:
    wanted = text_of(least.value, "mm²")
    return at_least(
        value=size.value,
        limit=least.value,
        unit="mm²",
        quantity=field,
        text=f"{what} is {_said(size, 'mm²')}; at least {wanted}.",
        name=what,
        formula="read",
        inputs=(read(what, size, "mm²"),),
        source=READ,
        rests_on=least.cite(),
        because=soft(**{what.lower().replace(" ", "_"): size}),
        cures=planned(f"site/supply/{field}", least.value, f"Plan {wanted}", "to be replaced"),
        advice="Replace it before the unit is connected.",
    )


@dataclass(frozen=True)
class Space:
    """Spare ways and the state of what is there."""

    site: Site
    ways_needed: int
    board_word: str
    isolator_word: str
    grid: bool = True
    surge_rule: PackValue | None = None


@check("SITE-SPACE", "board", station="site", rests_on="what was found")
def site_space(record: Space) -> Findings:
    """Is there room at the distribution, and in what state is it?"""
    supply, board, needed = record.site.supply, record.board_word, record.ways_needed
    ways = supply.spare_ways
    more = needed + (ways.value or 0)
    spare = ways.value if ways.value is not None else "an unknown number"
    yield at_most(
        value=needed,
        limit=ways.value,
        worse=Verdict.WARNS,
        quantity="ways",
        text=f"Ways needed: {needed}; {spare} are spare.",
        name="Ways needed at the distribution",
        formula="unit feed and bypass feed of each unit",
        inputs=(read("spare ways", ways),),
        source=ON_SITE,
        because=soft(spare_ways=ways),
        cures=planned("site/supply/spare_ways", more, f"Plan a small {board} of {needed} ways"),
        advice=f"Plan a small {board} for the new feeds.",
    )
    yield _state(
        f"{board} condition",
        "board_condition",
        supply.board_condition,
        bad={"unfit": Verdict.BLOCKS, "worn": Verdict.NOTES},
        advice="Photograph it, show it to the customer, and allow for repair.",
        cures=planned("site/supply/board_condition", "good", f"Plan a new {board}", "to be replaced"),
    )
    yield _state(
        "surge protection",
        "surge_protection",
        supply.surge_protection,
        bad={"no": Verdict.WARNS},
        advice="Fit it at the origin.",
        cures=planned("site/supply/surge_protection", "yes", "Plan it at the origin", "to be fitted"),
        source=record.surge_rule.cite() if record.surge_rule is not None else OLD_BOARDS,
    )
    if not record.grid:
        return
    isolator = record.isolator_word
    yield _state(
        f"{isolator} at the origin",
        "isolator",
        supply.isolator,
        bad={"no": Verdict.WARNS},
        advice="Ask for one: without it the seal has to be broken.",
        cures=planned("site/supply/isolator", "yes", f"Plan an {isolator}", "to be fitted"),
    )
    who, how = supply.de_energise, supply.de_energise_how
    yield one_of(
        word=who.value or "",
        bad={},
        value=float(bool(who.value)),
        quantity="de-energise",
        text="De-energising: "
        f"{who.value or 'nobody was asked who may'}{f', {how.value}' if how.value else ''}.",
        name="Who may de-energise",
        formula="asked",
        inputs=(
            read("who", who),
            read("how", how),
            read("seal", supply.seal),
            read("people can be without power", supply.without_power),
        ),
        source=ON_SITE,
        because=soft(who_may_de_energise=who, how=how),
        advice="Agree it with the operator before the day.",
    )


def _state(
    what: str,
    quantity: str,
    fact: Fact[Any],
    *,
    bad: dict[str, Verdict],
    advice: str,
    cures: tuple[Remedy, ...],
    source: Source = OLD_BOARDS,
) -> Finding:
    """A thing as it was found; what is only noted has no cure."""
    value = None if fact.value is None else str(fact.value)
    note = f", {fact.note}" if fact.note else ""
    known = Input(what, value or "unknown", "", f"{fact.words()}. {fact.note}".strip())
    return one_of(
        word=value,
        bad=bad,
        value=0.0 if value is None else 1.0,
        quantity=quantity,
        text=f"{what[0].upper() + what[1:]}: {value or 'unknown'}{note}.",
        name=what,
        formula="found",
        inputs=(known,),
        source=source,
        because=soft(**{what.replace(" ", "_"): fact}),
        cures=() if bad.get(value or "") is Verdict.NOTES else cures,
        advice=advice,
    )
