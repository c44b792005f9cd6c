"""Devices between sources: WIRE-XFER, and what passes a unit while the grid is there: LOAD-WHOLE."""

from dataclasses import dataclass

from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

PRACTICE = Source("sources are switched break before make and never joined unsynchronised", Provenance.COMMON_PRACTICE)
RATING = Source("rating on the device's sheet against the sum of what runs beyond it", Provenance.COMMON_PRACTICE)


@dataclass(frozen=True)
class Transfer:
    """One device between sources: the most that passes it, and in which state."""

    id: str
    name: str
    rated_a: float
    through_a: float
    towards: str
    state: str


@dataclass(frozen=True)
class Joining:
    """Sources that hands could make to meet: the state, what meets, the switches worked. Empty where none can."""

    cases: tuple[tuple[str, tuple[str, ...], tuple[str, ...]], ...]  # kind of meeting, leads, moves in words
    searched: int
    cures: tuple[Remedy, ...] = ()


@dataclass(frozen=True)
class PassThrough:
    """What flows through a unit's changeover with the grid: circuits beyond it, all at once and at the year's peak."""

    unit: str
    name: str
    rated_a: float
    together_a: float
    peak_a: float
    when: str
    circuits: int
    state: str = "grid"
    cures: tuple[Remedy, ...] = ()


def wire_xfer(record: Transfer | Joining) -> list[Finding]:
    """A device's rating against what passes it; no two sources closed together by any hands."""
    return _rated(record) if isinstance(record, Transfer) else _joined(record)


def _rated(record: Transfer) -> list[Finding]:
    figure = Figure(
        f"{record.name}: through current", record.through_a, "A", "sum of what lies beyond it, on the busiest phase",
        (Input(f"towards {record.towards}", record.through_a, "A"), Input("rating", record.rated_a, "A")), RATING,
        f"State: {record.state}. Every circuit at its running power, every source at its rating.",
    )  # fmt: skip
    fits = record.through_a <= record.rated_a + 1e-9
    text = f"{record.name}: {text_of(record.through_a, 'A')} may pass it ({record.state}); rated {record.rated_a:g} A."
    advice = (
        "" if fits else "Take a larger one, or move circuits; running together is the worst case, measure the real one."
    )
    return [
        Finding("WIRE-XFER", Verdict.PASSED if fits else Verdict.WARNS, text, figure, record.rated_a,
                record.rated_a - record.through_a, RATING, (), (), advice, (record.id,), record.state)
    ]  # fmt: skip


def _joined(record: Joining) -> list[Finding]:
    inputs = (Input("states searched", record.searched, ""),)
    if not record.cases:
        figure = Figure("Ways to join sources by hand", 0, "ways", "search over hands' moves", inputs, PRACTICE)
        text = f"No two sources can be closed together in {record.searched} states."
        return [Finding("WIRE-XFER", Verdict.PASSED, text, figure, 0, 0, PRACTICE)]
    found = []
    for kind, leads, moves in record.cases:
        figure = Figure("Ways to join sources by hand", len(record.cases), "ways", "search over hands' moves", inputs, PRACTICE,
                        f"Moves: {'; '.join(moves) or 'none: the usual positions'}.")  # fmt: skip
        if kind == "backfeed":
            text = f"{' and '.join(leads)} can feed the operator's wires while the grid is away: {'; '.join(moves) or 'as it stands'}."
        else:
            text = f"{' and '.join(leads)} can be closed together: {'; '.join(moves) or 'as it stands'}."
        found.append(
            Finding("WIRE-XFER", Verdict.BLOCKS, text, figure, 0, -len(record.cases), PRACTICE, (), record.cures,
                    "Fit an interlock, or a changeover with break before make.", (), "; ".join(moves) or "as it stands")
        )  # fmt: skip
    return found


def load_whole(record: PassThrough) -> list[Finding]:
    """The pass-through rating against all that flows through the unit while the grid is there."""
    source = Source("pass-through current on the unit's sheet", Provenance.COMMON_PRACTICE)
    figure = Figure(
        f"Through {record.name} with the grid", record.peak_a, "A", "peak of the circuits beyond it, on the busiest leg",
        (Input("year's peak", record.peak_a, "A", record.when), Input("all running at once", record.together_a, "A"),
         Input("circuits beyond it", record.circuits, "")), source,
    )  # fmt: skip
    if record.peak_a > record.rated_a:
        verdict, advice = Verdict.BLOCKS, "Move circuits to the grid side, or take a unit with a larger pass-through."
    elif record.together_a > record.rated_a:
        verdict, advice = (
            Verdict.WARNS,
            "All at once would be too much; lock heavy circuits against each other, or move them.",
        )
    else:
        verdict, advice = Verdict.PASSED, ""
    text = (
        f"{record.circuits} circuits pass {record.name}: {text_of(record.peak_a, 'A')} at the year's peak, "
        f"{text_of(record.together_a, 'A')} all at once; it passes {record.rated_a:g} A, whatever its inverter is rated."
    )
    return [Finding("LOAD-WHOLE", verdict, text, figure, record.rated_a, record.rated_a - record.peak_a, source, (),
                    record.cures if verdict is not Verdict.PASSED else (), advice, (record.unit,), record.state)]  # fmt: skip
