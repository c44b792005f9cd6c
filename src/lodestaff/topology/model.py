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
    "throw",
    "interlock",
    "gateway",
    "contactor",
    "generator",
    "battery",
    "array",
    "circuit",
    "electrode",
    "transmitter",
    "shutdown",
]
Way = Literal["", "supply", "grid", "battery", "array", "generator"]  # into a unit, or of the site
RunKind = Literal["service", "feed", "first feed", "output", "generator", "battery", "array"]
Terminal = tuple[str, str]
SourceKind = Literal["grid", "generator", "battery", "array"]
GRID: SourceKind = "grid"
GENERATOR: SourceKind = "generator"
BATTERY: SourceKind = "battery"
ARRAY: SourceKind = "array"
DC = ("DC+", "DC−")
NEUTRAL, EARTH = "N", "PE"
QUIET = (NEUTRAL, EARTH)  # cores whose voltage makes no conductor live


@dataclass(frozen=True)
class Contact:
    """A way through a part: between two of its ports, for some cores, in some positions (None: always).

    `key` is whose position decides, if not the part's own: a unit's changeover goes by the unit's mode.
    """

    a: str
    b: str
    cores: tuple[str, ...]
    positions: tuple[str, ...] | None = None
    key: str = ""


@dataclass(frozen=True)
class Part:
    """One piece of equipment. `positions` are what a hand (or the device itself, if `automatic`) can set."""

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
    rated_a: float | None = None
    building: str = ""
    way: Way = ""
    of: str = ""  # the unit in whose way it stands


@dataclass(frozen=True)
class Run:
    """A run of cable: what it carries and whose it is: the part that it feeds, or that gives out by it."""

    id: str
    kind: RunKind
    of: str

    @property
    def dc(self) -> bool:
        return self.kind in ("battery", "array")


@dataclass(frozen=True)
class Conductor:
    """A cable between two terminals with its cores; drawn from a to b, from supply towards loads."""

    id: str
    a: Terminal
    b: Terminal
    cores: tuple[str, ...]
    run: str = ""  # the run of cable it is part of; '' for links inside an enclosure
    pen: bool = False  # neutral and protective conductor in one

    @property
    def name(self) -> str:
        return " ".join("PEN" if self.pen and core == NEUTRAL else core for core in self.cores)


@dataclass(frozen=True)
class Source:
    """A source at a terminal. A battery and an array reach AC only through their unit.

    `rests` marks an array that is at a safe voltage until its unit runs: optimisers on every module, or a
    unit behind each of them.
    """

    kind: SourceKind
    part: str
    at: Terminal
    unit: str = ""
    rests: bool = False


@dataclass(frozen=True)
class Bond:
    """A neutral-earth bond at a terminal; `relay` names the part whose `closed` position makes it."""

    id: str
    at: Terminal
    name: str
    relay: str | None = None


def mode_key(unit: str) -> str:
    """The key by which a unit's changeover goes: its way through is `grid`, `generator` or `open`."""
    return f"{unit}~way"


@dataclass(frozen=True)
class UnitPorts:
    """How a converter sits in the graph: its ports, what it can do, the relay it works.

    `out` is where its power reaches AC: the backup port of one with a changeover inside, else the AC port
    itself.
    """

    unit: str
    legs: tuple[str, ...]
    grid: Terminal
    out: Terminal
    transfer: bool
    forms: bool
    group: str
    bond_relay: str | None
    battery: Terminal | None
    arrays: tuple[Terminal, ...]
    generator: Terminal | None
    rated_kw: float
    rated_kva: float
    serves: bool  # whether anything hangs on its output
    module_level: bool = False  # a converter behind each module: plugs there, no isolator on the DC side
    sealed: bool = False  # its battery, with the battery's isolation, is inside its case


AutoRule = Literal[
    "gateway", "first live", "with the grid", "in island mode", "with surplus", "relay", "while transmitting"
]


@dataclass(frozen=True)
class Automatic:
    """A device that sets itself: its rule, and the terminals it watches."""

    part: str
    rule: AutoRule
    watches: tuple[Terminal, ...]
    choices: tuple[str, ...] = ("closed", "open")
    owner: str = ""


@dataclass(frozen=True)
class Ct:
    """A current transformer on conductors, its arrow from a to b unless it is reversed."""

    id: str
    name: str
    conductors: tuple[str, ...]
    serves: str
    watches: str
    proves_limit: bool
    reversed: bool
    phases: tuple[str, ...] = ()  # () for all of them
    obeyed_by: tuple[str, ...] = ()  # units that keep its limit besides the one it serves


@dataclass(frozen=True)
class Orphan:
    """An adjustment or a transformer whose place is gone; it stays in the job and is shown."""

    id: str
    kind: str
    missing: str


@dataclass(frozen=True)
class Topology:
    """The whole installation. Ids come from the decisions that made the parts."""

    parts: dict[str, Part]
    conductors: tuple[Conductor, ...]
    sources: tuple[Source, ...]
    bonds: tuple[Bond, ...]
    units: tuple[UnitPorts, ...]
    circuits: dict[str, Terminal] = field(default_factory=dict)
    automatics: tuple[Automatic, ...] = ()
    cts: tuple[Ct, ...] = ()
    orphans: tuple[Orphan, ...] = ()
    unwired: tuple[str, ...] = ()  # circuits that no board takes
    symbols: str = "IEC"  # the standard that its diagram's symbols follow
    runs: dict[str, Run] = field(default_factory=dict)

    def switches(self) -> tuple[Part, ...]:
        """Parts that a hand can switch."""
        return tuple(part for part in self.parts.values() if part.positions and not part.automatic)

    def on_way(self, way: Way, unit: str = "") -> tuple[Part, ...]:
        """The parts in a way into a unit; without one, of the site."""
        return tuple(part for part in self.parts.values() if part.way == way and part.of == unit)

    def ahead(self, terminal: Terminal) -> tuple[Part, ...]:
        """What stands one after the other ahead of a terminal, nearest first, up to a source or a bus."""
        parts: list[Part] = []
        into = {conductor.b: conductor for conductor in self.conductors}
        while (conductor := into.get(terminal)) is not None and len(parts) < len(self.parts):
            part = self.parts[conductor.a[0]]
            parts.append(part)
            terminal = (part.id, "line")
        return tuple(parts)

    def array_isolator(self, unit: str, tracker: str) -> str:
        """The isolator of the array on a tracker; '' where none stands there."""
        way = self.ahead((unit, f"array {tracker}"))
        return next(
            (part.id for part in reversed(way) if part.kind == "isolator" and part.way == "array"), ""
        )

    def unit(self, name: str) -> UnitPorts:
        return next(unit for unit in self.units if unit.unit == name)

    def conductor(self, name: str) -> Conductor:
        return next(conductor for conductor in self.conductors if conductor.id == name)
