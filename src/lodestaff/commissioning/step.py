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
    "ac power",
    "balance",
    "export",
    "transfer",
    "island loop",
    "between legs",
    "same leg",
    "ac insulation",
    "earth loop",
    "fault current",
    "rcd time",
    "neutral to earth",
    "residual",
    "branch",
    "battery power",
    "import",
    "meter lost",
    "array off",
    "generator",
    "load step",
    "registers",
    "charger",
    "type",
]
Topic = Literal["", "start", "transformer", "bypass"]  # what other steps wait for as a whole
OVER_LINK = frozenset({"setting", "ct", "tracker power", "ac power", "balance", "export", "import"})


@dataclass(frozen=True)
class Measure:
    """What is read: a kind, the unit it belongs to, its subject (string, tracker, setting, circuit, part).

    `doing` is what a person tries, where that isn't told by the kind. `ct` and `leg` are the transformer and
    the leg that is read, `face` that of a string's module, `part` the bond that is parted or the device whose
    protective conductor is clamped; `switch` is moved to `position` for it.
    """

    kind: MeasureKind = "confirm"
    unit: str = ""
    subject: str = ""
    face: str = ""
    ct: str = ""
    leg: str = ""
    doing: str = ""
    part: str = ""
    switch: str = ""
    position: str = ""

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
    wait_s: float = 0.0  # what is waited before the reading counts
