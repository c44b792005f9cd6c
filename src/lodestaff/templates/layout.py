"""What grows while the choices of a new job are gone through."""

from dataclasses import dataclass, field

from lodestaff.catalogue import Pack
from lodestaff.job import Circuit, Role
from lodestaff.job.plan import Adjustment, Placed, Poles
from lodestaff.templates.units import Chosen
from lodestaff.templates.wanted import Wanted

BLOCK = "block"


@dataclass
class Layout:
    """What grows while the choices are gone through. `feeds` says where each unit is connected."""

    wanted: Wanted
    chosen: Chosen
    pack: Pack
    circuits: list[Circuit]
    parts: list[Placed] = field(default_factory=list)
    adjustments: list[Adjustment] = field(default_factory=list)
    feeds: dict[str, str] = field(default_factory=dict)
    origin: str = BLOCK  # where the house's boards come from while nothing stands between
    backed: str = ""  # the board that is fed in an outage
    bonds: dict[str, str] = field(default_factory=dict)

    @property
    def rating_a(self) -> float:
        return self.wanted.rating_a or 100

    @property
    def poles(self) -> Poles:
        """Whether a changeover breaks the neutral, as the pack has it."""
        return "with neutral" if self.wanted.begins.opens_neutral else "phases only"

    def word(self, idea: str) -> str:
        return self.pack.word(idea)

    def name(self, idea: str) -> str:
        word = self.word(idea)
        return word[0].upper() + word[1:]

    def move(self, ids: list[str], board: str, role: Role | None = None) -> None:
        """Put circuits on a board."""
        change = {"board": board} | ({"role": role} if role else {})
        self.circuits = [c.model_copy(update=change) if c.id in ids else c for c in self.circuits]
