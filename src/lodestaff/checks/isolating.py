"""Points of isolation: WIRE-ISO; rapid shutdown's supply: ARR-RSD; AC-coupled arrays on the island:
ARR-ISLAND."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Findings, Remedy, Verdict
from lodestaff.checks.makers import Words, at_least, at_most, noted, open_
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

TWO_PLACES = Source(
    "each source can be isolated and locked at the unit and at the board", Provenance.COMMON_PRACTICE
)
SUPPLY = Source(
    "the transmitter's supply lives in every state in which the sun is wanted", Provenance.COMMON_PRACTICE
)
UNLOADED = Source("units off before their DC isolators are opened", Provenance.COMMON_PRACTICE)
FOLLOWERS = Source(
    "AC-coupled power no larger than what forms the island, curtailed by frequency on both sides",
    Provenance.COMMON_PRACTICE,
)
WORDS = {True: "yes", False: "no", None: "not stated"}


@dataclass(frozen=True)
class Isolated:
    """One way into a unit: the hand-worked devices on it, at the unit and at the board's end."""

    unit: str
    name: str
    way: str  # AC feed, battery, array A ...
    at_unit: str
    at_board: str
    needs_board: bool
    cures: tuple[Remedy, ...] = ()


@check("WIRE-ISO", "ways", station="wire", rests_on="common practice")
def wire_iso(record: Isolated) -> Findings:
    """Can every way into a unit be isolated at the unit and at the board?"""
    places = [place for place in (record.at_unit, record.at_board) if place]
    missing = not record.at_unit or (record.needs_board and not record.at_board)
    words, advice = f"isolated by {' and '.join(places)}.", ""
    if not places:
        words, advice = "nothing isolates it.", "Put an isolator into it."
    elif not record.at_unit:
        words = f"isolated at {record.at_board} only, not at the unit."
        advice = "An isolator beside the unit, that locks."
    elif missing:
        words = f"isolated at {record.at_unit} only, not at the board."
        advice = "A device at the board's end, that locks."
    yield at_least(
        value=len(places),
        limit=2 if record.needs_board else 1,
        kept=not missing,
        worse=Verdict.WARNS if places else Verdict.BLOCKS,
        text=f"{record.name}, {record.way}: {words}",
        name=f"{record.name}, {record.way}: points of isolation",
        formula="hand-worked devices on the way",
        inputs=tuple(Input(place, 1, "") for place in places),
        source=TWO_PLACES,
        cures=record.cures,
        advice=advice,
        subjects=(record.unit,),
        quantity=record.way,
    )


@dataclass(frozen=True)
class Disconnects:
    """How many switches the array of a unit takes to be disconnected, against the pack's number."""

    unit: str
    count: int
    most: PackValue


@check("WIRE-ISO", "array", station="wire", rests_on="pack")
def array_switches(record: Disconnects) -> Findings:
    """Is the array disconnected by few enough switches?"""
    count, most = record.count, record.most.value
    yield at_most(
        value=count,
        limit=most,
        unit="switches",
        text=f"The array of {record.unit} is disconnected by {count} switches; {plain(most)} at most.",
        name=f"Switches of the array of {record.unit}",
        formula="DC isolators of one system",
        source=record.most.cite(),
        advice="Group strings on fewer switches.",
        subjects=(record.unit,),
    )


@dataclass(frozen=True)
class ShutdownOrder:
    """Steps of shutting down that a person moved: how many, isolators of DC that would then be opened while
    their unit runs, and moves that name a switch that isn't there."""

    moved: tuple[str, ...]
    loaded: tuple[str, ...]
    gone: tuple[str, ...]


@check("WIRE-ISO", "order", station="wire", rests_on="common practice")
def shutdown_order(record: ShutdownOrder) -> Findings:
    """Does an order of a person's own break no DC under load?"""
    count = len(record.loaded)
    text = f"Steps of shutting down put elsewhere by hand: {', '.join(record.moved) or 'none'}"
    text += f"; opened under load: {', '.join(record.loaded)}." if count else "; none breaks DC under load."
    yield at_most(
        value=float(count),
        limit=0.0,
        unit="switches",
        worse=Verdict.WARNS,
        text=text,
        name="Switches of DC opened while their unit runs",
        formula="isolators of arrays and batteries before their unit is off",
        inputs=tuple(Input(name, "put elsewhere") for name in record.moved),
        source=UNLOADED,
        because=tuple(f"the step of {name} names a switch that isn't there" for name in record.gone),
        quantity="order",
        advice="Put it after its unit, or make sure that it may break its load." if count else "",
    )


@dataclass(frozen=True)
class NoShutdown:
    """Units whose arrays nothing shuts down, where the pack asks for it; `rack` where no array is close to
    a roof."""

    units: tuple[str, ...]
    rack: bool
    needed: PackValue | None
    cures: tuple[Remedy, ...] = ()


@check("ARR-RSD", "planned", station="array", rests_on="pack")
def no_shutdown(record: NoShutdown) -> Findings:
    """Is rapid shutdown planned where the pack demands it?"""
    count, source = float(len(record.units)), record.needed.cite() if record.needed is not None else SUPPLY
    figure = Words(
        name="Arrays without rapid shutdown",
        formula="units whose arrays no transmitter holds on",
        inputs=tuple(Input(name, 1.0) for name in record.units),
        source=source,
    )
    if record.needed is None:
        yield open_(
            text="This edition of the pack doesn't say whether arrays need rapid shutdown.",
            value=count,
            **figure,
            because=("the pack's rule is unknown",),
            advice="Take a newer edition of the pack.",
        )
        return
    yield at_most(
        value=count,
        limit=0.0,
        worse=Verdict.NOTES if record.rack else Verdict.BLOCKS,
        **figure,
        text=f"No rapid shutdown is planned for the array of {', '.join(record.units)}.",
        because=("whether the array stands on a building isn't known",) if record.rack else (),
        cures=record.cures,
        advice="A device behind each module, a transmitter, one switch; or a listed array.",
    )


@dataclass(frozen=True)
class ShutdownSupply:
    """A transmitter: states in which its units run, and whether it is fed in each."""

    id: str
    name: str
    fed_from: str
    states: tuple[tuple[str, bool], ...]
    dead_when_off: bool
    switches: int
    alone: bool | None = None  # in an outage fed by the units that it holds alone; None without an outage


@check("ARR-RSD", "fed", station="array", rests_on="common practice")
def arr_rsd(record: ShutdownSupply) -> Findings:
    """Is the shutdown's transmitter fed in every state in which the sun is wanted?"""
    name, feed = record.name, record.fed_from
    for state, fed in record.states:
        dead = f"{state}: {name} is dead, for {feed} is: the modules shut down, and the sun with them."
        yield at_least(
            value=float(fed),
            limit=1,
            text=f"{state}: {name} is fed from {feed}." if fed else dead,
            name=f"Supply of {name}, {state}",
            formula="1 where its terminals are live",
            inputs=(Input("fed from", feed),),
            source=SUPPLY,
            state=state,
            advice="" if fed else "Feed it from a board that the unit feeds in an outage.",
        )
    if record.alone is not None:
        stuck = (
            f"With the battery flat in an outage {name} is dead, and the sun with it: nothing starts again"
        )
        yield noted(
            verdict=Verdict.NOTES if record.alone else Verdict.PASSED,
            text=f"{stuck} before the grid is back, or {feed} is fed by hand."
            if record.alone
            else f"With the battery flat in an outage {name} is fed from elsewhere: the sun can start again.",
            name=f"Supply of {name} with the battery flat",
            formula="what makes its terminals live, without its own units",
            source=SUPPLY,
            quantity="flat battery",
            advice="Keep a reserve, or feed it from what starts by itself." if record.alone else "",
        )
    if not record.dead_when_off:
        yield noted(
            verdict=Verdict.BLOCKS,
            text=f"With {name} switched off the array's conductors stay live off the roof.",
            value=record.switches,
            unit="switches",
            limit=1,
            name=f"Switches of {name}",
            formula="that open its supply",
            source=SUPPLY,
            quantity="switched off",
            advice="Every string passes a device at its modules that the transmitter holds.",
        )


@dataclass(frozen=True)
class IslandArray:
    """Generation that follows an island: its power against what forms it, and who curtails by frequency."""

    forming: tuple[str, ...]
    forming_kw: float
    following: tuple[str, ...]
    following_kw: float
    signals: bool | None  # whether what forms the island raises its frequency
    listens: tuple[tuple[str, bool | None], ...]

    @property
    def subjects(self) -> tuple[str, ...]:
        return self.following

    @property
    def unknown(self) -> tuple[str, ...]:
        raises = (
            (f"{self.forming[0]} doesn't say whether it raises its frequency",)
            if self.signals is None
            else ()
        )
        silent = [name for name, word in self.listens if word is None]
        return (*raises, *(f"{name} doesn't say whether it curtails by frequency" for name in silent))


@check("ARR-ISLAND", station="array", rests_on="sheets")
def arr_island(record: IslandArray) -> Findings:
    """Can the island hold back what follows it on AC?"""
    forming, following = record.forming_kw, record.following_kw
    small = following > forming + 1e-9
    deaf = tuple(name for name, word in record.listens if word is False)
    text = f"{', '.join(record.following)}: {text_of(following, 'kW')} follow "
    verdict, advice = Verdict.PASSED, ""
    if small:
        text += f"an island that {text_of(forming, 'kW')} form."
        verdict = Verdict.BLOCKS
        advice = "Leave a part of the array on the grid's side, or form the island with more."
    elif deaf or record.signals is False:
        text = (
            f"{', '.join(deaf or record.forming)}: no curtailment by frequency; with the battery full "
            "the island trips "
        )
        text += "on over-voltage or frequency."
        verdict = Verdict.BLOCKS if record.signals is False else Verdict.WARNS
        advice = "Leave it on the grid's side, or let a contactor drop it on a full battery."
    else:
        text += f"{text_of(forming, 'kW')}, held back by frequency."
    yield noted(
        verdict=verdict,
        text=text,
        value=following,
        unit="kW",
        limit=forming,
        margin=forming - following,
        name="AC-coupled power on the island",
        formula="sum of ratings that follow",
        inputs=(
            Input(f"formed by {', '.join(record.forming)}", forming, "kW"),
            *(Input(name, WORDS[word], "", "curtails by frequency") for name, word in record.listens),
        ),
        source=FOLLOWERS,
        note="State: island.",
        because=record.unknown,
        advice=advice,
        state="island",
    )
