"""One step of the procedure."""

from dataclasses import dataclass
from typing import Literal

from lodestaff.commissioning.rules import Rule

MeasureKind = Literal[
    "confirm",
    "insulation",
    "voc",
    "isc",
    "module voc",
    "battery v",
    "supply v",
    "electrode",
    "bonding",
    "setting",
    "setting by hand",
    "ct",
    "ct by hand",
    "tracker power",
    "balance",
    "export",
    "transfer",
    "island loop",
]
Topic = Literal["", "start", "transformer", "bypass"]  # what other steps wait for as a whole
OVER_LINK = frozenset({"setting", "ct", "tracker power", "balance", "export"})
OPEN_KIND = "open for this kind, not reckoned: follow the maker's instructions"


@dataclass(frozen=True)
class Measure:
    """What is read: a kind, the unit it belongs to, and its subject (a string, tracker, setting, circuit)."""

    kind: MeasureKind = "confirm"
    unit: str = ""
    subject: str = ""
    face: str = ""  # of a string, where it is a module of that face

    @property
    def over_link(self) -> bool:
        return self.kind in OVER_LINK


@dataclass(frozen=True)
class Step:
    """`waits_for` names steps that must have passed before; `needs` what must be there besides.

    `proves` names parts of the topology that are proven when all their steps have passed.
    """

    id: str
    stage: str
    text: str
    rule: Rule
    waits_for: tuple[str, ...] = ()
    caution: str = ""
    needs: str = ""
    measure: Measure = Measure()
    proves: tuple[str, ...] = ()
    topic: Topic = ""

    @property
    def open_kind(self) -> bool:
        """Whether the program has no true rule for it yet: it stays open, whatever is read."""
        return OPEN_KIND in self.needs
