"""The supply as it was read: SITE-RATING, SITE-EARTH, SITE-SPACE."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.catalogue.demand import DemandMethod
from lodestaff.checks.demand import larger_supply
from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.checks.found import planned
from lodestaff.job import Site
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

READ = Source("the supply as it was read", Provenance.JOB)


@dataclass(frozen=True)
class Rating:
    """The service rating against the year's highest demand."""

    site: Site
    demand_kw: float
    demand_when: str
    nominal: PackValue
    phases: int
    rating_word: str
    usual: PackValue
    method: DemandMethod


def site_rating(record: Rating) -> list[Finding]:
    """Service rating known from a reading, and at least the circuits' demand."""
    fact = record.site.supply.rating_a
    demand_a = record.demand_kw * 1000 / record.nominal.value / record.phases
    figure = Figure(
        "Highest demand of the circuits",
        demand_a,
        "A",
        "max of 15-minute means of the busiest phase / nominal voltage",
        (
            Input("demand", record.demand_kw, "kW", record.demand_when),
            Input(record.rating_word, fact.value if fact.value is not None else "unknown", "A", fact.words()),
        ),
        Source("simulated year", Provenance.DERIVED),
        "Diversity is in the timetables; short peaks within 15 minutes are not.",
    )
    because = soft(**{f"the_{record.rating_word}": fact})
    if fact.value is None:
        return [
            Finding(
                "SITE-RATING",
                Verdict.WARNS,
                "The service rating isn't known; everything behind it rests on it.",
                figure,
                None,
                None,
                READ,
                because,
                (
                    planned(
                        "site/supply/rating_a",
                        record.usual.value,
                        f"Reckon with {record.usual.value:g} A until it is read",
                        "the smallest usual; not read yet",
                    ),
                ),
                "Read it off the fuse carrier or breaker.",
            )
        ]
    over = demand_a > fact.value
    text = f"The circuits ask for up to {text_of(demand_a, 'A')}; the {record.rating_word} is {text_of(fact.value, 'A', 0)} ({fact.words()})."
    return [
        Finding(
            "SITE-RATING",
            Verdict.BLOCKS if over else Verdict.PASSED,
            text,
            figure,
            fact.value,
            fact.value - demand_a,
            READ,
            because,
            _larger(record, demand_a) if over else (),
            "Read it off the fuse carrier; ask for a larger one if it is too small.",
        )
    ]


def _larger(record: Rating, demand_a: float) -> tuple[Remedy, ...]:
    """A note to ask for the next standard size, unless one is noted already."""
    permits = record.site.permits
    if any(one.kind == "main fuse" for one in permits):
        return ()
    size = record.method.next_standard_a(demand_a)
    return (larger_supply(permits, size),) if size else ()


@dataclass(frozen=True)
class Earth:
    """The earthing arrangement with its limits."""

    site: Site
    ze_max: PackValue
    earthing: PackValue
    bonding: PackValue
    earth_word: str


def site_earth(record: Earth) -> list[Finding]:
    """Earthing arrangement, Ze (or the electrode on TT), earthing and bonding conductors."""
    supply = record.site.supply
    tt = supply.earthing.value == "TT"
    fact = supply.electrode_ohm if tt else supply.ze_ohm
    name = "electrode" if tt else "Ze"
    findings = []
    because = soft(earthing_arrangement=supply.earthing, **{name: fact})
    value = fact.value if fact.value is not None else float("nan")
    figure = Figure(
        f"{name} of the {supply.earthing.value or 'unknown'} supply",
        value,
        "ohm",
        "measured",
        (Input(name, fact.value if fact.value is not None else "unknown", "ohm", fact.words()),),
        READ,
    )
    limit = record.ze_max
    over = fact.value is not None and fact.value > limit.value
    text = f"{name} is {text_of(value, 'ohm')} ({fact.words()}); usual limit {text_of(limit.value, 'ohm')}."
    findings.append(
        Finding(
            "SITE-EARTH",
            Verdict.WARNS if over else Verdict.PASSED,
            text,
            figure,
            limit.value,
            None if fact.value is None else limit.value - fact.value,
            limit.cite(),
            because,
            (
                planned(
                    "site/supply/electrode_ohm",
                    limit.value,
                    f"Plan rods that bring it to {text_of(limit.value, 'ohm')}",
                ),
            )
            if over and tt
            else (),
            "Measure it at the origin; ask the operator where it is too high.",
        )
    )
    for what, size, least, field in (
        (f"{record.earth_word.capitalize()}ing conductor", supply.earthing_mm2, record.earthing, "earthing_mm2"),
        ("Main bonding", supply.bonding_mm2, record.bonding, "bonding_mm2"),
    ):
        shown = size.value if size.value is not None else float("nan")
        figure = Figure(
            what,
            shown,
            "mm²",
            "read",
            (Input(what, size.value if size.value is not None else "unknown", "mm²", size.words()),),
            READ,
        )
        small = size.value is not None and size.value < least.value
        findings.append(
            Finding(
                "SITE-EARTH",
                Verdict.BLOCKS if small else Verdict.PASSED,
                f"{what} is {text_of(shown, 'mm²')}; at least {text_of(least.value, 'mm²')}.",
                figure,
                least.value,
                None if size.value is None else size.value - least.value,
                least.cite(),
                soft(**{what.lower().replace(" ", "_"): size}),
                (planned(f"site/supply/{field}", least.value, f"Plan {text_of(least.value, 'mm²')}", "to be replaced"),)
                if small
                else (),
                "Replace it before the unit is connected.",
            )
        )
    return findings


@dataclass(frozen=True)
class Space:
    """Spare ways and the state of what is there."""

    site: Site
    ways_needed: int
    board_word: str
    isolator_word: str
    grid: bool = True


def site_space(record: Space) -> list[Finding]:
    """Spare ways, surge protection, board condition; of a service also its isolator, and who may de-energise."""
    supply = record.site.supply
    source = Source("what was found on site", Provenance.JOB)
    practice = Source("old boards show old faults once they are opened", Provenance.COMMON_PRACTICE)
    ways = supply.spare_ways
    figure = Figure(
        "Ways needed at the distribution",
        record.ways_needed,
        "",
        "unit feed and bypass feed of each unit",
        (Input("spare ways", ways.value if ways.value is not None else "unknown", "", ways.words()),),
        source,
    )
    short = ways.value is not None and ways.value < record.ways_needed
    findings = [
        Finding(
            "SITE-SPACE",
            Verdict.WARNS if short else Verdict.PASSED,
            f"{record.ways_needed} ways are needed; {ways.value if ways.value is not None else 'an unknown number'} are spare.",
            figure,
            ways.value,
            None if ways.value is None else ways.value - record.ways_needed,
            source,
            soft(spare_ways=ways),
            (
                planned(
                    "site/supply/spare_ways",
                    record.ways_needed + (ways.value or 0),
                    f"Plan a small {record.board_word} of {record.ways_needed} ways",
                ),
            )
            if short
            else (),
            f"Plan a small {record.board_word} for the new feeds.",
        )
    ]
    rows = (
        (
            f"{record.board_word} condition",
            supply.board_condition,
            {"unfit": Verdict.BLOCKS, "worn": Verdict.NOTES},
            "Photograph it, show it to the customer, and allow for repair.",
            planned("site/supply/board_condition", "good", f"Plan a new {record.board_word}", "to be replaced"),
        ),
        (
            "surge protection",
            supply.surge_protection,
            {"no": Verdict.WARNS},
            "Fit it at the origin.",
            planned("site/supply/surge_protection", "yes", "Plan it at the origin", "to be fitted"),
        ),
        (
            f"{record.isolator_word} at the origin",
            supply.isolator,
            {"no": Verdict.WARNS},
            "Ask for one: without it the seal has to be broken.",
            planned("site/supply/isolator", "yes", f"Plan an {record.isolator_word}", "to be fitted"),
        ),
    )
    for what, fact, bad, advice, cure in rows if record.grid else rows[:2]:
        verdict = bad.get(str(fact.value), Verdict.PASSED)
        figure = Figure(
            what,
            1.0 if fact.value is not None else 0.0,
            "",
            "found",
            (Input(what, str(fact.value or "unknown"), "", f"{fact.words()}. {fact.note}".strip()),),
            practice,
        )
        text = f"{what[0].upper() + what[1:]}: {fact.value or 'unknown'}{f', {fact.note}' if fact.note else ''}."
        findings.append(
            Finding(
                "SITE-SPACE",
                verdict,
                text,
                figure,
                None,
                None,
                practice,
                soft(**{what.replace(" ", "_"): fact}),
                (cure,) if verdict in (Verdict.BLOCKS, Verdict.WARNS) else (),
                advice,
            )
        )
    if not record.grid:
        return findings
    who, how = supply.de_energise, supply.de_energise_how
    figure = Figure(
        "Who may de-energise",
        float(bool(who.value)),
        "",
        "asked",
        (
            Input("who", who.value or "unknown", "", who.words()),
            Input("how", how.value or "unknown", "", how.words()),
            Input("seal", supply.seal.value or "unknown", "", supply.seal.words()),
            Input(
                "people can be without power", supply.without_power.value or "unknown", "", supply.without_power.words()
            ),
        ),
        source,
    )
    findings.append(
        Finding(
            "SITE-SPACE",
            Verdict.PASSED,
            f"De-energising: {who.value or 'nobody was asked who may'}{f', {how.value}' if how.value else ''}.",
            figure,
            None,
            None,
            source,
            soft(who_may_de_energise=who, how=how),
            (),
            "Agree it with the operator before the day.",
        )
    )
    return findings
