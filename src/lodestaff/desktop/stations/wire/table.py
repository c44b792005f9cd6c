"""Switches and conductors as rows: the diagram's equal."""

from dataclasses import dataclass

from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words


@dataclass(frozen=True)
class Place:
    """A row: a switch with its positions, or a conductor with its cores and what makes it live."""

    id: str
    name: str
    is_at: str
    live: str = ""
    positions: tuple[str, ...] = ()


class WireTable(Table[Place]):
    """Switches first, with a choice of positions; then every conductor with what makes it live."""

    def __init__(self, store: Store) -> None:
        self.store = store
        columns: tuple[Column[Place], ...] = (
            words("Part or conductor", lambda place: place.name, wide=True),
            words(
                "Position or cores",
                lambda place: place.is_at,
                typed=self._turn,
                may=lambda place: bool(place.positions),
                choices=lambda place: place.positions,
                standing=True,
                spoken=lambda place: f"Position of {place.name}",
            ),
            words("Live from", lambda place: place.live),
        )
        super().__init__("Switches and conductors", columns)

    def refresh(self) -> None:
        """Show the present state."""
        answer = self.store.answer()
        if answer is None or self.store.job is None:
            return
        topology = self.store.reckoner.wiring(self.store.job).topology
        parts = topology.parts
        self.show_rows(
            [
                *(
                    Place(part.id, part.name, answer.positions[part.id], "", tuple(part.positions))
                    for part in topology.switches()
                ),
                *(
                    Place(
                        line.id,
                        f"{parts[line.a[0]].name} to {parts[line.b[0]].name}",
                        line.name,
                        ", ".join(sorted(answer.live[line.id])) or "dead",
                    )
                    for line in topology.conductors
                ),
            ]
        )

    def _turn(self, place: Place, position: str) -> None:
        self.store.set_state(self.store.state.with_hand(place.id, position))
