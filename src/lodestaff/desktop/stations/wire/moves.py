"""What hands can do next, what is left when a unit fails, and the adjustments: tables beside the diagram."""

from dataclasses import dataclass
from typing import Generic, TypeVar

from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, number, words
from lodestaff.job import Change
from lodestaff.job.plan import Adjustment
from lodestaff.quantities import text_of
from lodestaff.topology.moves import Failure, Move, failures, next_moves
from lodestaff.topology.states import Hazard

Of = TypeVar("Of")


@dataclass(frozen=True)
class Named(Generic[Of]):
    """What is found of a part, under the part's name, with what hangs on a unit."""

    name: str
    of: Of
    batteries: str = ""
    left_kwh: float = 0.0


class MovesTable(Table[Named[Move]]):
    """Every state that one hand reaches from the present one; Enter makes the move."""

    def __init__(self, store: Store) -> None:
        self.store = store
        columns: tuple[Column[Named[Move]], ...] = (
            words("Switch", lambda row: row.name, wide=True),
            words("To", lambda row: row.of.position),
            words("Darkens", lambda row: _count(row.of.darkened), order=lambda row: len(row.of.darkened)),
            words("Feeds", lambda row: _count(row.of.fed), order=lambda row: len(row.of.fed)),
            number("Becomes live", lambda row: row.of.made_live),
            number("Becomes dead", lambda row: row.of.made_dead),
            words("Meets", lambda row: "; ".join(map(_leads, row.of.hazards)) or "nothing"),
        )
        super().__init__("What a hand can reach next", columns, act=lambda row: self.do(row.of))

    def refresh(self) -> None:
        """Show the moves from the present state."""
        job = self.store.job
        if job is not None:
            topology = self.store.reckoner.wiring(job).topology
            moves = next_moves(topology, self.store.state)
            self.show_rows([Named(topology.parts[move.part].name, move) for move in moves])

    def do(self, move: Move) -> None:
        """Make the move."""
        self.store.set_state(self.store.state.with_hand(move.part, move.position))


class FailuresTable(Table[Named[Failure]]):
    """For each unit what its failure in an outage leaves."""

    def __init__(self, store: Store) -> None:
        self.store = store
        columns: tuple[Column[Named[Failure]], ...] = (
            words("Fails in an outage", lambda row: row.name, wide=True),
            words("Batteries on it", lambda row: row.batteries),
            words("Still fed", lambda row: _count(row.of.fed), order=lambda row: len(row.of.fed)),
            words("Lost", lambda row: _count(row.of.lost), order=lambda row: len(row.of.lost)),
            words("Battery left", lambda row: text_of(row.left_kwh, "kWh"), order=lambda row: row.left_kwh),
        )
        super().__init__("If a unit fails", columns)

    def refresh(self) -> None:
        """Show what each failure leaves."""
        job = self.store.job
        if job is None:
            return
        topology = self.store.reckoner.wiring(job).topology
        rows = []
        for failure in failures(topology):
            on = [f"{bank.modules} modules" for bank in job.banks if bank.unit == failure.unit]
            left = [bank for bank in job.banks if bank.id in failure.batteries]
            left_kwh = sum(bank.modules * job.sheets.batteries[bank.sheet].module_kwh for bank in left)
            rows.append(Named(topology.parts[failure.unit].name, failure, ", ".join(on) or "none", left_kwh))
        self.show_rows(rows)


class AdjustmentsTable(Table[Adjustment]):
    """Changes made by hand, and whether each has its place; Delete takes one out."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.lost: dict[str, str] = {}
        columns: tuple[Column[Adjustment], ...] = (
            words("Adjustment", lambda row: getattr(row, "name", row.id), wide=True),
            words("Kind", lambda row: row.kind),
            words("Where", _where),
            words("State", lambda row: self.lost.get(row.id, "in place")),
        )
        super().__init__(
            "Adjustments of the wiring", columns, remove=lambda adjustment: self.take_out(adjustment.id)
        )

    def refresh(self) -> None:
        """Show the adjustments of the job."""
        job = self.store.job
        if job is not None:
            orphans = self.store.reckoner.wiring(job).topology.orphans
            self.lost = {orphan.id: orphan.missing for orphan in orphans}
            self.show_rows(job.adjustments)

    def take_out(self, id: str) -> None:
        """Take an adjustment out, as one undoable step."""
        job = self.store.job
        if job is not None:
            kept = [
                adjustment.model_dump(mode="json") for adjustment in job.adjustments if adjustment.id != id
            ]
            self.store.edit(f"Take out {id}", Change("adjustments", kept))


def _leads(hazard: Hazard) -> str:
    return " and ".join(hazard.leads)


def _where(move: Adjustment) -> str:
    where = getattr(move, "into", "") or getattr(move, "board", "") or getattr(move, "fed_from", "")
    return where or ", ".join(getattr(move, "on", ())) or getattr(move, "around", "")


def _count(names: tuple[str, ...]) -> str:
    return f"{len(names)} circuits" if len(names) != 1 else "1 circuit"
