"""What is live and fed in each state: WIRE-LIVE, WIRE-NEUTRAL, and what has lost its place: WIRE-PLAN."""

from dataclasses import dataclass

from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.quantities import Figure, Input, Provenance, Source

DERIVED = Source("from the graph of the installation, in this state", Provenance.DERIVED)
RETURN = Source("line and neutral of a circuit go together, through the same residual-current device",
                Provenance.COMMON_PRACTICE)  # fmt: skip


@dataclass(frozen=True)
class LiveState:
    """A state with what is live from what, and circuits that are not as they were meant to be."""

    state: str
    live: int
    of: int
    sources: tuple[str, ...]
    fed: int
    circuits: int
    dead_but_held: tuple[tuple[str, str], ...]  # id and name
    live_but_locked: tuple[tuple[str, str], ...]
    by_hand: tuple[str, ...]  # fed on the island though meant for the grid: somebody must switch them off
    stays: tuple[str, ...]  # conductors that stay live with everything off, and open ends
    grid: bool = True  # whether there is a grid at all
    at_rest: bool = True  # whether all devices find a position in which they stay


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
    cure: Remedy


@dataclass(frozen=True)
class Places:
    """Adjustments and transformers whose place is gone, and circuits that no board takes."""

    orphans: tuple[tuple[str, str, str], ...]  # id, kind, what is missing
    unwired: tuple[tuple[str, str], ...]
    adjustments: int
    stray_cables: tuple[str, ...] = ()  # typed for a run that isn't there


def wire_live(record: LiveState) -> list[Finding]:
    """What is live in a state; held circuits that are dead, and locked ones that are fed, on the island."""
    figure = Figure(
        f"Live conductors, {record.state}", record.live, "conductors", "joined to a source that is there",
        (Input("of", record.of, "conductors"), Input("circuits fed", record.fed, f"of {record.circuits}")), DERIVED,
        f"From {', '.join(record.sources) or 'nothing'}.",
    )  # fmt: skip
    found = []

    def add(verdict: Verdict, text: str, advice: str = "", subjects: tuple[str, ...] = ()) -> None:
        found.append(
            Finding("WIRE-LIVE", verdict, text, figure, None, None, DERIVED, (), (), advice, subjects, record.state)
        )

    if not record.at_rest:
        add(Verdict.BLOCKS, f"{record.state}: the devices never come to rest, each sets another off; nothing here is a fact.",
            "Look for a contactor or changeover that takes away what holds it.")  # fmt: skip
    for circuit, name in record.dead_but_held:
        add(Verdict.BLOCKS, f"{record.state}: {name} is to be held, and nothing feeds it.",
            "Move it to a board that is fed in an outage, or leave it on the grid.", (circuit,))  # fmt: skip
    for circuit, name in record.live_but_locked:
        add(Verdict.BLOCKS, f"{record.state}: {name} is to be locked out, and it is fed.",
            "Put a contactor that the grid holds before it, or move it to the grid's side.", (circuit,))  # fmt: skip
    if record.by_hand:
        names = ", ".join(record.by_hand)
        left = "left to the grid" if record.grid else "not among what is held"
        add(Verdict.NOTES, f"{record.state}: {names}: fed, though {left}; a person switches them off.",
            "A contactor or automatic load management would do it without a person.")  # fmt: skip
    if record.stays:
        names = "; ".join(record.stays[:6]) + ("; more" if len(record.stays) > 6 else "")
        add(Verdict.NOTES, f"{record.state}: still live: {names}.", "Make open ends safe; prove dead before touching.")
    if not found:
        add(Verdict.PASSED, f"{record.state}: {record.live} of {record.of} conductors live from "
            f"{', '.join(record.sources) or 'nothing'}; {record.fed} of {record.circuits} circuits fed.")  # fmt: skip
    return found


def wire_neutral(record: Borrowed) -> list[Finding]:
    """A borrowed neutral: no way back, or a residual-current device that sees one of two, or a live neutral."""
    figure = Figure(
        f"Neutral of {record.name}", 1, "borrowed", "its line and its neutral come from different boards",
        (Input("line from", record.line_board), Input("neutral from", record.neutral_board)), RETURN,
        f"State: {record.state}.",
    )  # fmt: skip
    if not record.returns:
        verdict, what = Verdict.BLOCKS, "its current has no way back, and voltages wander"
    elif record.devices:
        verdict, what = Verdict.BLOCKS, f"{', '.join(record.devices)} sees one of both and trips"
    else:
        verdict, what = Verdict.WARNS, "its neutral stays loaded when its own board is off"
    text = f"{record.state}: {record.name} takes its line from {record.line_board} and its neutral from {record.neutral_board}: {what}."
    return [Finding("WIRE-NEUTRAL", verdict, text, figure, 0, -1, RETURN, (), (record.cure,),
                    "Bring line and neutral to the same board.", (record.circuit,), record.state)]  # fmt: skip


def wire_plan(record: Places) -> list[Finding]:
    """Everything that was decided has its place in the graph."""
    lost = len(record.orphans) + len(record.unwired) + len(record.stray_cables)
    figure = Figure("Decisions without a place", lost, "", "adjustments, transformers, circuits and cables that find nothing",
                    (Input("adjustments", record.adjustments, ""),), DERIVED)  # fmt: skip
    found = [
        Finding("WIRE-PLAN", Verdict.WARNS, f"{kind} {id}: {missing}; it is kept and does nothing.", figure, 0, -lost,
                DERIVED, (), (), "Give it another place, or take it out.", (id,))
        for id, kind, missing in record.orphans
    ]  # fmt: skip
    found += [
        Finding("WIRE-PLAN", Verdict.BLOCKS, f"{name}: no board takes it.", figure, 0, -lost, DERIVED, (), (),
                "Give it a board of its phase.", (id,))
        for id, name in record.unwired
    ]  # fmt: skip
    found += [
        Finding("WIRE-PLAN", Verdict.WARNS, f"Cable {id}: there is no run of that name; it is kept, and nothing checks it.",
                figure, 0, -lost, DERIVED, (), (), "Type it into the row of a run that is there, or take it out.", (id,))
        for id in record.stray_cables
    ]  # fmt: skip
    if not found:
        text = "Every part, adjustment and circuit has its place."
        found.append(Finding("WIRE-PLAN", Verdict.PASSED, text, figure, 0, 0, DERIVED))
    return found
