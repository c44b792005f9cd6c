"""Legs and phases: LOAD-PHASE. Circuits that their source can't carry, a leg over its rating, legs far apart."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.checks.loads import move
from lodestaff.electrical.legs import LegLoad
from lodestaff.job import Circuit, Role
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

PHASOR = Source("phasor sum of the leg currents; imbalance is the largest deviation from the mean over the mean",
                Provenance.DERIVED)  # fmt: skip


@dataclass(frozen=True)
class Legs:
    """A board on several legs: what its circuits put on each, what its source gives each in an outage (None: the grid).

    `cures` are changes that deal the circuits anew, with the imbalance in percent that they leave.
    """

    board: str
    name: str
    legs: tuple[str, ...]
    load: LegLoad
    rated_a: tuple[float, ...] | None
    limit: PackValue
    system: str
    circuits: tuple[tuple[str, str, float], ...]  # name, legs, kVA
    cures: tuple[Remedy, ...]
    dealt: bool = False  # whether another dealing was looked for; without cures then none is better


@dataclass(frozen=True)
class Strange:
    """Circuits to be held that their source can't carry: between legs or phases that no unit of the island gives."""

    circuits: tuple[Circuit, ...]
    gives: str


def load_phase(record: Legs | Strange) -> list[Finding]:
    """Three-phase or two-leg circuits on a source that can't carry them; legs or phases out of balance."""
    return _legs(record) if isinstance(record, Legs) else _strange(record)


def _strange(record: Strange) -> list[Finding]:
    source = Source("a source gives the legs and phases of its sheet, no others", Provenance.COMMON_PRACTICE)
    found = []
    for c in record.circuits:
        figure = Figure(c.name, len(c.legs), "legs", "legs of the circuit against those of the source",
                        (Input("circuit", c.phase), Input("source", record.gives)), source)  # fmt: skip
        found.append(
            Finding("LOAD-PHASE", Verdict.BLOCKS,
                    f"{c.name} is on {c.phase}; in an outage {record.gives or 'nothing'} is there.", figure, None, None, source,
                    (), (move(c, Role.GRID),), "Leave it on the grid, or take a source with its legs.", (c.id,))
        )  # fmt: skip
    return found


def _legs(record: Legs) -> list[Finding]:
    load = record.load
    inputs = [Input(f"{name} on {legs}", kva, "kVA") for name, legs, kva in record.circuits]
    inputs += [Input(leg, amps, "A") for leg, amps in zip(record.legs, load.current_a, strict=True)]
    inputs.append(Input("neutral", load.neutral_a, "A", record.system))
    currents = ", ".join(f"{leg} {text_of(a, 'A')}" for leg, a in zip(record.legs, load.current_a, strict=True))
    apart = Figure(f"{record.name}: legs apart", load.imbalance_pct, "%", "max |leg − mean| / mean, all circuits running",
                   tuple(inputs), PHASOR)  # fmt: skip
    far = load.imbalance_pct > record.limit.value
    text = f"{record.name}: {currents}, neutral {text_of(load.neutral_a, 'A')}; {load.imbalance_pct:.0f} % apart."
    verdict = Verdict.WARNS if far else Verdict.PASSED
    if far and record.dealt and not record.cures:
        verdict, text = Verdict.NOTES, text + " No other dealing brings them nearer."
    found = [
        Finding("LOAD-PHASE", verdict, text, apart, record.limit.value,
                record.limit.value - load.imbalance_pct, record.limit.cite(), (), record.cures if far else (),
                "Deal the circuits out over the legs.", (record.board,))
    ]  # fmt: skip
    if record.rated_a is None:
        return found
    source = Source("rating of the units divided by their legs", Provenance.SHEET)
    for leg, amps, rated in zip(record.legs, load.current_a, record.rated_a, strict=True):
        figure = Figure(
            f"{record.name}, {leg}", amps, "A", "sum of the circuits on the leg / leg voltage", tuple(inputs), source
        )
        if amps > rated * (1 + 1e-9):
            found.append(
                Finding("LOAD-PHASE", Verdict.BLOCKS,
                        f"{record.name}: {leg} draws {text_of(amps, 'A')} with all running; the source gives each leg {text_of(rated, 'A')}.",
                        figure, rated, rated - amps, source, (), record.cures, "Deal the circuits out, or hold fewer.", (record.board,))
            )  # fmt: skip
    return found
