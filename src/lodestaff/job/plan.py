"""The plan of the installation: parts that stand in it, each saying where it is fed from, and changes made
by hand.

A feed is named by the part it comes from, with a port where that part has several: `block`, `gateway`,
`hybrid:backup`. Units and their batteries and strings are parts of the job of their own; here are the boards,
the devices between sources, the generators, current transformers, electrodes and rapid shutdown. Any of them
can be added to any installation: a kind of system is a set of parts, nothing more.
"""

from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.facts import Fact
from lodestaff.job.types import Hour, Identifier, NotNegative, Positive, Share, SheetName

Feed = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*(:[^:]{1,40})?$", max_length=80)]
PartName = Annotated[str, Field(min_length=1, max_length=60)]
Phases = Annotated[str, Field(max_length=12)]  # joined by +, as in A+B; '' for those of the feed
Poles = Literal["with neutral", "phases only"]


class Board(Frozen):
    """A board of final circuits. `holds` says which circuits come here that name no board of their own.

    `main` is the device at its head; `feed` whether a protective device stands at the other end of its feed.
    `link` is a neutral-earth bond made in this board; `sources_sit` where the devices of
    sources are on its busbar.
    """

    kind: Literal["board"] = "board"
    id: Identifier
    name: PartName
    fed_from: Feed
    phases: Phases = ""
    building: Annotated[str, Field(max_length=40)] = ""
    holds: Literal["all", "essential", "rest", "named only"] = "all"
    main: Literal["isolator", "rcd", "none"] = "isolator"
    feed: Literal["breaker", "none"] = "breaker"
    busbar_a: Fact[Positive] = Fact[Positive]()
    sources_sit: Fact[Literal["opposite the main", "elsewhere"]] = Fact[
        Literal["opposite the main", "elsewhere"]
    ]()
    link: bool = False
    outlet: bool = False  # sockets that a unit feeds, not a board of circuits


class Gateway(Frozen):
    """An automatic device between grid and house; what forms the island stands on its load side."""

    kind: Literal["gateway"] = "gateway"
    id: Identifier
    name: PartName
    fed_from: Feed
    phases: Phases = ""
    rated_a: Positive
    neutral_switched: bool = True
    bond: Literal["relay", "link", "none"] = "none"  # relay: made in island mode only; link: always there
    sheet: SheetName = ""


class Throw(Frozen):
    """One output from either of two feeds: a bypass, a changeover, a transfer switch, an interlocked pair.

    Worked by hand unless `automatic`, which takes `first` whenever it is live. Without an interlock both
    can be closed together. `neutral` says whether the poles break the neutral as well.
    """

    kind: Literal["throw"] = "throw"
    id: Identifier
    name: PartName
    use: Literal["bypass", "transfer", "interlock"]
    first: Feed
    second: Feed
    phases: Phases = ""
    rated_a: Positive
    middle_off: bool = True
    automatic: bool = False
    interlocked: bool = True
    neutral: Poles = "with neutral"
    sheet: SheetName = ""  # of a transfer switch; of a gateway where it is automatic


class Contactor(Frozen):
    """A contactor between a feed and what hangs on it, held by what it watches."""

    kind: Literal["contactor"] = "contactor"
    id: Identifier
    name: PartName
    fed_from: Feed
    phases: Phases = ""
    rated_a: Positive
    closes: Literal["with the grid", "in island mode", "with surplus"]


class Generator(Frozen):
    """A generator and the inputs of units that it is wired to; a throw names it as its feed. `started_by`
    names the unit that starts it by two wires.

    That unit starts it at the one charge and stops it at the other, not in the quiet hours; it is exercised
    for so long each week. By volts it starts after so many minutes at or below `start_v` and stops at
    `stop_v`: years reckon with it where the battery's sheet says what volts a charge and a load make. Of its
    rating x power factor the usable share is taken;
    `least_load_share` is what its maker wants it loaded with, `charger_kw` what each unit takes of it for its
    battery.
    """

    kind: Literal["generator"] = "generator"
    id: Identifier
    name: PartName
    rated_kva: Positive
    phases: Phases = ""
    feeds: Annotated[tuple[Feed, ...], Field(max_length=8)] = ()
    started_by: str = ""
    bonded: bool = False
    neutral_earthed: Fact[Literal["yes", "no"]] = Fact[Literal["yes", "no"]]()
    power_factor: Annotated[float, Field(gt=0.3, le=1)] = 0.8
    usable_share: Annotated[float, Field(gt=0.1, le=1)] = 0.85
    start_by: Literal["charge", "volts"] = "charge"
    start_soc: Share = 0.3
    stop_soc: Share = 0.8
    start_v: Positive | None = None
    stop_v: Positive | None = None
    start_delay_min: Annotated[float, Field(ge=0, le=60)] = 5.0
    quiet_from_h: Hour | None = None
    quiet_to_h: Hour | None = None
    exercise_h_week: Annotated[float, Field(ge=0, le=12)] = 0.0
    least_load_share: Fact[Share] = Fact[Share]()
    charger_kw: Positive | None = None
    litre_per_kwh: Fact[Positive] = Fact[Positive]()
    idle_litre_per_h: Fact[NotNegative] = Fact[NotNegative]()
    sheet: SheetName = ""

    @property
    def usable_kw(self) -> float:
        """What may be taken of it: rating x power factor x usable share."""
        return self.rated_kva * self.power_factor * self.usable_share


class Transformer(Frozen):
    """A current transformer: on the conductors that feed these terminals, for a unit or a device.

    `watches` says what it is for: the whole site (a limit of export or import), the circuits of one unit, one
    source, or a car charger's supply. Turned the wrong way round it is `reversed`.
    """

    kind: Literal["ct"] = "ct"
    id: Identifier
    name: PartName
    on: Annotated[tuple[Feed, ...], Field(min_length=1, max_length=40)]
    serves: Identifier
    watches: Literal["whole site", "own circuits", "one source", "charger"]
    phases: Phases = ""  # '' for all that the conductors have
    proves_limit: bool = False
    reversed: bool = False
    obeyed_by: Annotated[
        tuple[Identifier, ...], Field(max_length=8)
    ] = ()  # units that keep its limit besides `serves`
    sheet: SheetName = ""  # of the meter that it belongs to


class Combiner(Frozen):
    """Outputs joined on one bus: paralleled units that feed one board."""

    kind: Literal["combiner"] = "combiner"
    id: Identifier
    name: PartName
    feeds: Annotated[tuple[Feed, ...], Field(min_length=1, max_length=8)]
    phases: Phases = ""


class Electrode(Frozen):
    """An earth electrode at a part."""

    kind: Literal["electrode"] = "electrode"
    id: Identifier
    name: PartName
    at: Feed
    ohm: Fact[Positive] = Fact[Positive]()


class Shutdown(Frozen):
    """Rapid shutdown: a transmitter fed from somewhere, the units whose arrays it holds on, one switch."""

    kind: Literal["shutdown"] = "shutdown"
    id: Identifier
    name: PartName
    fed_from: Feed
    units: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=8)]


class OwnSun(Frozen):
    """A load's own solar input beside its mains feed: modules straight into the appliance."""

    kind: Literal["own sun"] = "own sun"
    id: Identifier
    name: PartName
    circuit: Identifier
    modules: Annotated[int, Field(ge=1, le=20)]


Placed = Annotated[
    Board | Gateway | Throw | Contactor | Generator | Combiner | Transformer | Electrode | Shutdown | OwnSun,
    Field(discriminator="kind"),
]


class Insert(Frozen):
    """An isolator, meter, breaker or residual-current device put into the conductor that feeds a terminal."""

    kind: Literal["insert"] = "insert"
    id: Identifier
    name: PartName
    what: Literal["isolator", "meter", "breaker", "rcd"]
    into: Feed
    two_way: bool = True
    rate: Annotated[float, Field(ge=0, le=10)] | None = None  # of a meter, paid for each kWh of generation
    bidirectional: Fact[Literal["yes", "no"]] = Fact[Literal["yes", "no"]]()  # of a residual-current device
    sheet: SheetName = ""  # of a meter, or of a residual-current device


class MoveTransformer(Frozen):
    """A current transformer moved to the conductors that feed other terminals."""

    kind: Literal["move ct"] = "move ct"
    id: Identifier
    ct: Identifier
    on: Annotated[tuple[Feed, ...], Field(min_length=1, max_length=40)]


class AddBypass(Frozen):
    """A double-throw bypass put between a unit or gateway and what it feeds; the other side comes from
    `grid`."""

    kind: Literal["bypass"] = "bypass"
    id: Identifier
    name: PartName
    around: Feed
    grid: Feed
    rated_a: Positive
    automatic: bool = False
    sheet: SheetName = ""  # as of a throw


class Intercept(Frozen):
    """The feeder of a board intercepted: the board is fed from `by` now, and `by` from where the board
    was."""

    kind: Literal["intercept"] = "intercept"
    id: Identifier
    board: Identifier
    by: Feed


class AddBoard(Frozen):
    """A further board with the circuits that are moved to it."""

    kind: Literal["board"] = "board"
    id: Identifier
    name: PartName
    fed_from: Feed
    circuits: Annotated[tuple[Identifier, ...], Field(max_length=80)] = ()


Adjustment = Annotated[
    Insert | MoveTransformer | AddBypass | Intercept | AddBoard, Field(discriminator="kind")
]

Sheeted = Gateway | Throw | Generator | Transformer | Insert | AddBypass


def equipment_kind(part: Sheeted) -> str:
    """The kind of equipment whose sheet a part may have; '' for a breaker or isolator put into a
    conductor."""
    match part:
        case Throw() | AddBypass():
            return "gateway" if part.automatic else "transfer"
        case Insert():
            return {"meter": "meter", "rcd": "device"}.get(part.what, "")
        case Transformer():
            return "meter"
    return part.kind


SYSTEMS = ("single phase", "two of three phases", "three phases", "120/240 V", "120/208 V")
LEGS = {"single phase": 1, "two of three phases": 2, "three phases": 3, "120/240 V": 2, "120/208 V": 2}


def leg_names(names: tuple[str, ...], system: str) -> tuple[str, ...]:
    """Names of the phases or legs at the origin, of those that a pack has."""
    return names[: LEGS[system]]


class Mains(Frozen):
    """What kind of supply stands at the origin: `grid` is False where there is none, or none yet.

    `netting` is how the meter counts phases; unread, each is counted alone. Legs of 120/240 V are always one
    sum.
    """

    grid: bool = True
    system: Literal["single phase", "two of three phases", "three phases", "120/240 V", "120/208 V"] = (
        "single phase"
    )
    fault_ka: Fact[NotNegative] = Fact[NotNegative]()
    netting: Fact[Literal["sum of phases", "each phase"]] = Fact[Literal["sum of phases", "each phase"]]()


class Reordering(Frozen):
    """A step of shutting down that a person put elsewhere: `part` goes right before `before`, '' is last."""

    part: Identifier
    before: Annotated[str, Field(pattern=r"^([a-z0-9][a-z0-9-]*)?$", max_length=40)] = ""
    why: Annotated[str, Field(min_length=3, max_length=200)]
