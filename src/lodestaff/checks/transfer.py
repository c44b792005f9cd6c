"""Devices between sources: WIRE-XFER, and what passes a unit while the grid is there: LOAD-WHOLE."""

from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict
from lodestaff.checks.makers import at_most, noted
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

PRACTICE = Source(
    "sources are switched break before make and never joined unsynchronised", Provenance.COMMON_PRACTICE
)
RATING = Source(
    "rating on the device's sheet against the sum of what runs beyond it", Provenance.COMMON_PRACTICE
)
PASSES = Source("pass-through current on the unit's sheet", Provenance.COMMON_PRACTICE)


@dataclass(frozen=True)
class Transfer:
    """One device between sources: the most that passes it, and in which state."""

    id: str
    name: str
    rated_a: float
    through_a: float
    towards: str
    state: str


@check("WIRE-XFER", "rating", station="wire", rests_on="device's rating")
def wire_xfer(record: Transfer) -> Findings:
    """Is every device between sources rated for what passes it?"""
    through, rated = record.through_a, record.rated_a
    yield at_most(
        value=through,
        limit=rated,
        unit="A",
        worse=Verdict.WARNS,
        source=RATING,
        text=f"{record.name}: {text_of(through, 'A')} may pass it ({record.state}); rated {plain(rated)} A.",
        name=f"{record.name}: through current",
        formula="sum of what lies beyond it, on the busiest phase",
        inputs=(Input(f"towards {record.towards}", through, "A"), Input("rating", rated, "A")),
        note=f"State: {record.state}. Every circuit at its running power, every source at its rating.",
        advice=""
        if through <= rated
        else "Take a larger one, or move circuits; running together is the worst case, measure the real one.",
        state=record.state,
    )


@dataclass(frozen=True)
class Joining:
    """Sources that hands could make to meet: the state, what meets, the switches worked. Empty where none
    can."""

    cases: tuple[tuple[str, tuple[str, ...], tuple[str, ...]], ...]  # kind of meeting, leads, moves in words
    searched: int
    cures: tuple[Remedy, ...] = ()


@check("WIRE-XFER", "joining", station="wire", rests_on="common practice")
def wire_joining(record: Joining) -> Findings:
    """Can hands close two sources together?"""
    name, formula = "Ways to join sources by hand", "search over hands' moves"
    inputs = (Input("states searched", record.searched, ""),)
    if not record.cases:
        yield at_most(
            value=0,
            limit=0,
            unit="ways",
            name=name,
            formula=formula,
            inputs=inputs,
            source=PRACTICE,
            text=f"No two sources can be closed together in {record.searched} states.",
        )
    for kind, leads, moves in record.cases:
        both, hands = " and ".join(leads), "; ".join(moves)
        can = (
            "feed the operator's wires while the grid is away" if kind == "backfeed" else "be closed together"
        )
        yield at_most(
            value=len(record.cases),
            limit=0,
            unit="ways",
            text=f"{both} can {can}: {hands or 'as it stands'}.",
            name=name,
            formula=formula,
            inputs=inputs,
            source=PRACTICE,
            cures=record.cures,
            note=f"Moves: {hands or 'none: the usual positions'}.",
            quantity=f"{kind} of {both}",
            advice="Fit an interlock, or a changeover with break before make.",
            state=hands or "as it stands",
        )


@dataclass(frozen=True)
class PassThrough:
    """What flows through a unit's changeover with the grid: circuits beyond it, all at once and at the
    year's peak."""

    unit: str
    name: str
    rated_a: float
    together_a: float
    peak_a: float
    when: str
    circuits: int
    cures: tuple[Remedy, ...] = ()

    @property
    def subjects(self) -> tuple[str, ...]:
        return (self.unit,)


@check("LOAD-WHOLE", "pass", station="loads", rests_on="unit's sheet")
def load_whole(record: PassThrough) -> Findings:
    """Does the unit pass all that flows through it while the grid is there?"""
    rated, peak, together = record.rated_a, record.peak_a, record.together_a
    verdict, advice = Verdict.PASSED, ""
    if peak > rated:
        verdict, advice = (
            Verdict.BLOCKS,
            "Move circuits to the grid side, or take a unit with a larger pass-through.",
        )
    elif together > rated:
        verdict = Verdict.WARNS
        advice = "All at once would be too much; lock heavy circuits against each other, or move them."
    yield noted(
        verdict=verdict,
        value=peak,
        unit="A",
        limit=rated,
        margin=rated - peak,
        text=f"{record.circuits} circuits pass {record.name}: {text_of(peak, 'A')} at the year's peak, "
        f"{text_of(together, 'A')} all at once; it passes {plain(rated)} A, whatever its inverter is rated.",
        name=f"Through {record.name} with the grid",
        formula="peak of the circuits beyond it, on the busiest leg",
        inputs=(
            Input("year's peak", peak, "A", record.when),
            Input("all running at once", together, "A"),
            Input("circuits beyond it", record.circuits, ""),
        ),
        source=PASSES,
        cures=record.cures,
        advice=advice,
        state="grid",
    )
