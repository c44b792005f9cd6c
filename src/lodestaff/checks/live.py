"""What is live and fed in each state: WIRE-LIVE, WIRE-NEUTRAL, and what has lost its place: WIRE-PLAN."""

from collections.abc import Iterator
from dataclasses import dataclass

from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Remedy, Verdict
from lodestaff.checks.makers import Words, at_most, noted
from lodestaff.quantities import Input, Provenance, Source

DERIVED = Source("from the graph of the installation, in this state", Provenance.DERIVED)
RETURN = Source(
    "line and neutral of a circuit go together, through the same residual-current device",
    Provenance.COMMON_PRACTICE,
)
Named = tuple[tuple[str, str], ...]  # ids and names


@dataclass(frozen=True)
class LiveState:
    """A state with what is live from what, and circuits that are not as they were meant to be."""

    state: str
    live: int
    of: int
    sources: tuple[str, ...]
    fed: int
    circuits: int
    dead_but_held: Named
    live_but_locked: Named
    by_hand: tuple[str, ...]  # fed on the island though meant for the grid: somebody must switch them off
    stays: tuple[str, ...]  # conductors that stay live with everything off, and open ends
    grid: bool = True  # whether there is a grid at all
    at_rest: bool = True  # whether all devices find a position in which they stay


@check("WIRE-LIVE", station="wire", rests_on="the graph")
def wire_live(record: LiveState) -> Findings:
    """What is live and fed in each state, and is that as it was meant?"""
    sources = ", ".join(record.sources) or "nothing"
    said = list(_wrong(record))
    if not said:
        words = (
            f"{record.live} of {record.of} conductors live from {sources}; {record.fed} of {record.circuits}"
        )
        said = [("", Verdict.PASSED, f"{words} circuits fed.", "", ())]
    for quantity, verdict, text, advice, subjects in said:
        yield noted(
            verdict=verdict,
            text=f"{record.state}: {text}",
            value=record.live,
            unit="conductors",
            name=f"Live conductors, {record.state}",
            formula="joined to a source that is there",
            inputs=(
                Input("of", record.of, "conductors"),
                Input("circuits fed", record.fed, f"of {record.circuits}"),
            ),
            source=DERIVED,
            note=f"From {sources}.",
            advice=advice,
            subjects=subjects,
            state=record.state,
            quantity=quantity,
        )


Said = tuple[str, Verdict, str, str, tuple[str, ...]]  # quantity, verdict, words, advice, subjects


def _wrong(record: LiveState) -> Iterator[Said]:
    """What is not as it was meant to be in a state."""
    if not record.at_rest:
        yield (
            "rest",
            Verdict.BLOCKS,
            "the devices never come to rest, each sets another off; nothing here is a fact.",
            "Look for a contactor or changeover that takes away what holds it.",
            (),
        )
    for circuit, name in record.dead_but_held:
        yield (
            "dead",
            Verdict.BLOCKS,
            f"{name} is to be backed up, and nothing feeds it.",
            "Move it to a board that is fed in an outage, or leave it on the grid.",
            (circuit,),
        )
    for circuit, name in record.live_but_locked:
        yield (
            "locked",
            Verdict.BLOCKS,
            f"{name} is to be locked out, and it is fed.",
            "Put a contactor that the grid holds before it, or move it to the grid's side.",
            (circuit,),
        )
    if record.by_hand:
        left = "left to the grid" if record.grid else "not among what is backed up"
        yield (
            "by hand",
            Verdict.NOTES,
            f"{', '.join(record.by_hand)}: fed, though {left}; a person switches them off.",
            "A contactor or automatic load management would do it without a person.",
            (),
        )
    if record.stays:
        names = "; ".join(record.stays[:6]) + ("; more" if len(record.stays) > 6 else "")
        yield (
            "stays",
            Verdict.NOTES,
            f"still live: {names}.",
            "Make open ends safe; prove dead before touching.",
            (),
        )


@dataclass(frozen=True)
class Borrowed:
    """A circuit whose neutral goes to another board than its line, and what that makes of it in a state."""

    circuit: str
    name: str
    line_board: str
    neutral_board: str
    returns: bool
    devices: tuple[str, ...]  # residual-current devices that see only one of both
    state: str
    cures: tuple[Remedy, ...]


@check("WIRE-NEUTRAL", station="wire", rests_on="common practice")
def wire_neutral(record: Borrowed) -> Findings:
    """Does every circuit's neutral go with its line?"""
    what = "its neutral stays loaded when its own board is off"
    if not record.returns:
        what = "its current has no way back, and voltages wander"
    elif record.devices:
        what = f"{', '.join(record.devices)} sees one of both and trips"
    yield noted(
        verdict=Verdict.WARNS if record.returns and not record.devices else Verdict.BLOCKS,
        value=1,
        unit="borrowed",
        text=f"{record.state}: {record.name} takes its line from {record.line_board} and its neutral from "
        f"{record.neutral_board}: {what}.",
        limit=0,
        margin=-1,
        name=f"Neutral of {record.name}",
        formula="its line and its neutral come from different boards",
        inputs=(Input("line from", record.line_board), Input("neutral from", record.neutral_board)),
        source=RETURN,
        note=f"State: {record.state}.",
        cures=record.cures,
        advice="Bring line and neutral to the same board.",
        subjects=(record.circuit,),
        state=record.state,
    )


@dataclass(frozen=True)
class Places:
    """Adjustments and transformers whose place is gone, and circuits that no board takes."""

    orphans: tuple[tuple[str, str, str], ...]  # id, kind, what is missing
    unwired: Named
    adjustments: int
    stray_cables: tuple[str, ...] = ()  # typed for a run that isn't there


@check("WIRE-PLAN", station="wire", rests_on="the graph")
def wire_plan(record: Places) -> Findings:
    """Has every part, adjustment and circuit its place?"""
    lost = len(record.orphans) + len(record.unwired) + len(record.stray_cables)
    figure = Words(
        name="Decisions without a place",
        formula="adjustments, transformers, circuits and cables that find nothing",
        inputs=(Input("adjustments", record.adjustments, ""),),
        source=DERIVED,
    )

    def without(id: str, text: str, advice: str, worse: Verdict = Verdict.WARNS) -> Finding:
        return at_most(value=lost, limit=0, worse=worse, text=text, **figure, advice=advice, subjects=(id,))

    for id, kind, missing in record.orphans:
        yield without(
            id,
            f"{kind} {id}: {missing}; it is kept and does nothing.",
            "Give it another place, or take it out.",
        )
    for id, name in record.unwired:
        yield without(id, f"{name}: no board takes it.", "Give it a board of its phase.", Verdict.BLOCKS)
    for id in record.stray_cables:
        yield without(
            id,
            f"Cable {id}: there is no run of that name; it is kept, and nothing checks it.",
            "Type it into the row of a run that is there, or take it out.",
        )
    if not lost:
        yield at_most(value=0, limit=0, text="Every part, adjustment and circuit has its place.", **figure)
