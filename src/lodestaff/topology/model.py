"""Parts, their terminals, and the conductors between them. A terminal is (part id, port)."""

from dataclasses import dataclass, field
from typing import Literal

Kind = Literal[
    "supply",
    "fuse",
    "meter",
    "isolator",
    "breaker",
    "block",
    "board",
    "rcd",
    "unit",
    "relay",
    "bypass",
    "battery",
    "array",
    "circuit",
    "electrode",
]
Terminal = tuple[str, str]
SourceKind = Literal["grid", "battery", "array"]
GRID: SourceKind = "grid"
BATTERY: SourceKind = "battery"
ARRAY: SourceKind = "array"
DC = ("DC+", "DC−")
NEUTRAL = "N"


@dataclass(frozen=True)
class Contact:
    """A way through a part: between two of its ports, for some cores, in some positions (None: always)."""

    a: str
    b: str
    cores: tuple[str, ...]
    positions: tuple[str, ...] | None = None


@dataclass(frozen=True)
class Part:
    """One piece of equipment. `positions` are what a hand (or the unit itself, if `automatic`) can set."""

    id: str
    kind: Kind
    name: str
    ports: tuple[str, ...]
    contacts: tuple[Contact, ...] = ()
    positions: tuple[str, ...] = ()
    automatic: bool = False
    rating: str = ""
    decided_by: str = ""
    caution: str = ""


@dataclass(frozen=True)
class Conductor:
    """A cable between two terminals with its cores; drawn from a to b, from supply towards loads."""

    id: str
    a: Terminal
    b: Terminal
    cores: tuple[str, ...]
    run: str = ""  # the run of cable it is part of; '' for links inside an enclosure

    @property
    def name(self) -> str:
        return " ".join(self.cores)


@dataclass(frozen=True)
class Source:
    """A source at a terminal. A battery and an array reach AC only through their unit."""

    kind: SourceKind
    part: str
    at: Terminal
    unit: str = ""


@dataclass(frozen=True)
class Bond:
    """A neutral-earth bond at a terminal; `relay` names the part whose `closed` position makes it."""

    id: str
    at: Terminal
    name: str
    relay: str | None = None


@dataclass(frozen=True)
class UnitPorts:
    """How a hybrid sits in the graph: its ports, the relay it works, and the switch that turns it off."""

    unit: str
    phase: str
    transfer: str
    bond_relay: str | None
    grid: Terminal
    backup: Terminal
    battery: Terminal | None
    arrays: tuple[Terminal, ...]


@dataclass(frozen=True)
class Topology:
    """The whole installation. Ids come from the decisions that made the parts."""

    parts: dict[str, Part]
    conductors: tuple[Conductor, ...]
    sources: tuple[Source, ...]
    bonds: tuple[Bond, ...]
    units: tuple[UnitPorts, ...]
    circuits: dict[str, Terminal] = field(default_factory=dict)

    def switches(self) -> tuple[Part, ...]:
        """Parts that a hand can switch."""
        return tuple(part for part in self.parts.values() if part.positions and not part.automatic)
