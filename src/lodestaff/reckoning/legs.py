"""What circuits put on the legs of each board, and circuits dealt out anew."""

from dataclasses import dataclass

from lodestaff.electrical.dealing import Dealt, deal
from lodestaff.electrical.legs import LegLoad, leg_load
from lodestaff.job import Change, Circuit, Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.wired import BoardPlace

ALIKE_KVA = 0.01  # legs nearer than this are as good as equal: nobody reads a circuit's power more nearly


def load_of(
    job: Job, circuits: list[Circuit], legs: tuple[str, ...], moved: dict[str, str] | None = None
) -> LegLoad:
    """Circuits at their running power on legs; `moved` gives some of them another leg."""
    there, volts = moved or {}, job.pack.value("nominal_v").value
    return leg_load(
        tuple(
            (tuple(legs.index(leg) for leg in there.get(c.id, c.phase).split("+")), c.running_kva * 1000)
            for c in circuits
        ),
        system_of(job, legs),
        volts,
    )


def system_of(job: Job, legs: tuple[str, ...]) -> str:
    """The system that a board's legs are of: the supply's, or two of its three phases."""
    return job.mains.system if len(legs) == len(job.site.phases) else "two of three phases"


def boards_on_legs(reckoner: Reckoner, job: Job) -> list[tuple[BoardPlace, tuple[str, ...], list[Circuit]]]:
    """Boards on two legs or more with circuits, in the supply's order of legs."""
    rows = []
    for board in reckoner.wiring(job).boards:
        legs = tuple(leg for leg in job.site.phases if leg in board.legs)
        circuits = [job.circuit(name) for name in board.circuits]
        if len(legs) > 1 and circuits:
            rows.append((board, legs, circuits))
    return rows


@dataclass(frozen=True)
class Dealing:
    """Circuits of one leg each dealt over the legs of their board: before, after, and the changes."""

    board: str
    before: LegLoad
    after: LegLoad
    dealt: Dealt
    moved: tuple[tuple[str, str, str], ...]  # circuit, from, to
    changes: tuple[Change, ...]


def deal_out(reckoner: Reckoner, job: Job) -> tuple[Dealing, ...]:
    """For each board on several legs the least imbalance that moving as few circuits as possible gives."""
    dealings = []
    for board, legs, circuits in boards_on_legs(reckoner, job):
        single = [c for c in circuits if len(c.legs) == 1]
        if len(single) < 2:
            continue
        wide = [c for c in circuits if len(c.legs) > 1]
        fixed = tuple(sum(c.running_kva / len(c.legs) for c in wide if leg in c.legs) for leg in legs)
        now = tuple(legs.index(c.phase) for c in single)
        dealt = deal(tuple(c.running_kva for c in single), len(legs), now, fixed, ALIKE_KVA)
        rows = [(c, legs[leg]) for c, leg in zip(single, dealt.legs, strict=True) if legs[leg] != c.phase]
        before = load_of(job, circuits, legs)
        after = load_of(job, circuits, legs, {c.id: leg for c, leg in rows})
        changes = tuple(Change(f"circuits/{c.id}/phase", leg) for c, leg in rows)
        dealings.append(
            Dealing(
                board.id,
                before,
                after=after,
                dealt=dealt,
                moved=tuple((c.id, c.phase, leg) for c, leg in rows),
                changes=changes,
            )
        )
    return tuple(dealings)
