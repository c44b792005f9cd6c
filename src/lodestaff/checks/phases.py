"""Legs and phases: LOAD-PHASE. Circuits that their source can't carry, a leg over its rating, legs far
apart."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict
from lodestaff.checks.loads import move
from lodestaff.checks.makers import at_most, noted
from lodestaff.electrical.legs import LegLoad
from lodestaff.job import Circuit, Role
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

PHASOR = Source(
    "phasor sum of the leg currents; imbalance is the largest deviation from the mean over the mean",
    Provenance.DERIVED,
)
PER_LEG = Source("rating of the units divided by their legs", Provenance.SHEET)
OF_SHEET = Source("a source gives the legs and phases of its sheet, no others", Provenance.COMMON_PRACTICE)


@dataclass(frozen=True)
class Legs:
    """A board on several legs: what its circuits put on each, what its source gives each in an outage
    (None: the grid).

    `cures` are changes that deal the circuits anew, with the imbalance in percent that they leave.
    """

    board: str
    name: str
    legs: tuple[str, ...]
    load: LegLoad
    rated_a: tuple[float, ...] | None
    limit: PackValue
    system: str
    circuits: tuple[Circuit, ...]
    cures: tuple[Remedy, ...]
    dealt: bool = False  # whether another dealing was looked for; without cures then none is better

    @property
    def subjects(self) -> tuple[str, ...]:
        return (self.board,)

    @property
    def by_leg(self) -> tuple[tuple[str, float], ...]:
        return tuple(zip(self.legs, self.load.current_a, strict=True))

    @property
    def owner(self) -> str:
        """The board with all it feeds, or the unit with what it holds."""
        return self.board if self.rated_a is None else f"held by {self.board}"


@dataclass(frozen=True)
class Strange:
    """Circuits to be held that their source can't carry: between legs or phases that no unit of the island
    gives."""

    circuits: tuple[Circuit, ...]
    gives: str


@check("LOAD-PHASE", "legs", station="loads", rests_on="unit's sheet, pack")
def load_phase(record: Legs) -> Findings:
    """Are the legs and phases of every board within their source, and near each other?"""
    load, most = record.load, record.limit.value
    inputs = (
        *(Input(f"{c.name} on {c.phase}", c.running_kva, "kVA") for c in record.circuits),
        *(Input(leg, amps, "A") for leg, amps in record.by_leg),
        Input("neutral", load.neutral_a, "A", record.system),
    )
    currents = ", ".join(f"{leg} {text_of(amps, 'A')}" for leg, amps in record.by_leg)
    stuck = record.dealt and not record.cures
    text = (
        f"{record.name}: {currents}, neutral {text_of(load.neutral_a, 'A')}; "
        f"{plain(load.imbalance_pct, 0)} % apart."
    )
    if stuck and load.imbalance_pct > most:
        text += " No other dealing brings them nearer."
    yield at_most(
        value=load.imbalance_pct,
        limit=most,
        unit="%",
        worse=Verdict.NOTES if stuck else Verdict.WARNS,
        text=text,
        name=f"{record.name}: legs apart",
        formula="max |leg − mean| / mean, all circuits running",
        inputs=inputs,
        source=PHASOR,
        rests_on=record.limit.cite(),
        cures=record.cures,
        advice="Deal the circuits out over the legs.",
        quantity="apart",
    )
    for (leg, amps), rated in zip(record.by_leg, record.rated_a or (), strict=False):
        if amps > rated * (1 + 1e-9):
            yield at_most(
                value=amps,
                limit=rated,
                unit="A",
                quantity=leg,
                source=PER_LEG,
                text=f"{record.name}: {leg} draws {text_of(amps, 'A')} with all running; the source gives "
                f"each leg {text_of(rated, 'A')}.",
                name=f"{record.name}, {leg}",
                formula="sum of the circuits on the leg / leg voltage",
                inputs=inputs,
                cures=record.cures,
                advice="Deal the circuits out, or hold fewer.",
            )


@check("LOAD-PHASE", "source", station="loads", rests_on="unit's sheet")
def load_source(record: Strange) -> Findings:
    """Is every backed-up circuit on legs that its source gives?"""
    for c in record.circuits:
        yield noted(
            verdict=Verdict.BLOCKS,
            value=len(c.legs),
            unit="legs",
            text=f"{c.name} is on {c.phase}; in an outage {record.gives or 'nothing'} is there.",
            name=c.name,
            formula="legs of the circuit against those of the source",
            inputs=(Input("circuit", c.phase), Input("source", record.gives)),
            source=OF_SHEET,
            cures=(move(c, Role.GRID),),
            advice="Leave it on the grid, or take a source with its legs.",
            subjects=(c.id,),
        )
