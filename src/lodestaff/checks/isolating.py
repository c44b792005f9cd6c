"""Points of isolation: WIRE-ISO; rapid shutdown's supply: ARR-RSD; AC-coupled arrays on the island: ARR-ISLAND."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Finding, Remedy, Verdict
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

TWO_PLACES = Source("each source can be isolated and locked at the unit and at the board", Provenance.COMMON_PRACTICE)
SUPPLY = Source("the transmitter's supply lives in every state in which the sun is wanted", Provenance.COMMON_PRACTICE)
FOLLOWERS = Source("AC-coupled power no larger than what forms the island, curtailed by frequency on both sides",
                   Provenance.COMMON_PRACTICE)  # fmt: skip


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
    cure: tuple[Remedy, ...] = ()


@dataclass(frozen=True)
class Disconnects:
    """How many switches the array of a unit takes to be disconnected, against the pack's number."""

    unit: str
    count: int
    most: PackValue


@dataclass(frozen=True)
class ShutdownSupply:
    """A transmitter: states in which its units run, and whether it is fed in each."""

    id: str
    name: str
    fed_from: str
    states: tuple[tuple[str, bool], ...]
    dead_when_off: bool
    switches: int


@dataclass(frozen=True)
class NoShutdown:
    """Units whose arrays nothing shuts down, where the pack asks for it; `rack` where no array is close to a roof."""

    units: tuple[str, ...]
    rack: bool
    needed: PackValue | None
    cures: tuple[Remedy, ...] = ()


def no_shutdown(record: NoShutdown) -> list[Finding]:
    """Rapid shutdown that the pack demands and that isn't planned."""
    source = record.needed.cite() if record.needed is not None else SUPPLY
    figure = Figure("Arrays without rapid shutdown", float(len(record.units)), "", "units whose arrays no transmitter holds on",
                    tuple(Input(name, 1.0) for name in record.units), source)  # fmt: skip
    if record.needed is None:
        text = "This edition of the pack doesn't say whether arrays need rapid shutdown."
        return [Finding("ARR-RSD", Verdict.NOTES, text, figure, None, None, source, ("the pack's rule is unknown",), (),
                        "Take a newer edition of the pack.")]  # fmt: skip
    text = f"No rapid shutdown is planned for the array of {', '.join(record.units)}."
    because = ("whether the array stands on a building isn't known",) if record.rack else ()
    return [Finding("ARR-RSD", Verdict.NOTES if record.rack else Verdict.BLOCKS, text, figure, 0.0, -float(len(record.units)),
                    source, because, record.cures, "A device behind each module, a transmitter, one switch; or a listed array.")]  # fmt: skip


@dataclass(frozen=True)
class IslandArray:
    """Generation that follows an island: its power against what forms it, and who curtails by frequency."""

    forming: tuple[str, ...]
    forming_kw: float
    following: tuple[str, ...]
    following_kw: float
    signals: bool | None  # whether what forms the island raises its frequency
    listens: tuple[tuple[str, bool | None], ...]
    state: str = "island"


def wire_iso(record: Isolated | Disconnects) -> list[Finding]:
    """Every way into a unit can be opened by hand at the unit, and AC ways at the board as well."""
    if isinstance(record, Disconnects):
        return _disconnects(record)
    places = [place for place in (record.at_unit, record.at_board) if place]
    figure = Figure(
        f"{record.name}, {record.way}: points of isolation", len(places), "", "hand-worked devices on the way",
        tuple(Input(place, 1, "") for place in places), TWO_PLACES,
    )  # fmt: skip
    wanted = 2 if record.needs_board else 1

    def made(verdict: Verdict, text: str, advice: str = "", remedies: tuple[Remedy, ...] = ()) -> list[Finding]:
        return [Finding("WIRE-ISO", verdict, text, figure, wanted, len(places) - wanted, TWO_PLACES, (), remedies, advice,
                        (record.unit,))]  # fmt: skip

    if not places:
        return made(
            Verdict.BLOCKS,
            f"{record.name}, {record.way}: nothing isolates it.",
            "Put an isolator into it.",
            record.cure,
        )
    if not record.at_unit:
        return made(Verdict.WARNS, f"{record.name}, {record.way}: isolated at {record.at_board} only, not at the unit.",
                    "An isolator beside the unit, that locks.", record.cure)  # fmt: skip
    if record.needs_board and not record.at_board:
        return made(Verdict.WARNS, f"{record.name}, {record.way}: isolated at {record.at_unit} only, not at the board.",
                    "A device at the board's end, that locks.", record.cure)  # fmt: skip
    return made(Verdict.PASSED, f"{record.name}, {record.way}: isolated by {' and '.join(places)}.")


def _disconnects(record: Disconnects) -> list[Finding]:
    most = record.most.value
    source = record.most.cite()
    figure = Figure(
        f"Switches of the array of {record.unit}", record.count, "switches", "DC isolators of one system", (), source
    )
    fits = record.count <= most
    text = f"The array of {record.unit} is disconnected by {record.count} switches; {most:g} at most."
    return [Finding("WIRE-ISO", Verdict.PASSED if fits else Verdict.BLOCKS, text, figure, most, most - record.count, source,
                    (), (), "" if fits else "Group strings on fewer switches.", (record.unit,))]  # fmt: skip


def arr_rsd(record: ShutdownSupply) -> list[Finding]:
    """The transmitter is fed in every state in which its units run; opened, the conductors off the roof are dead."""
    found = []
    for state, fed in record.states:
        figure = Figure(f"Supply of {record.name}, {state}", float(fed), "", "1 where its terminals are live", (
            Input("fed from", record.fed_from),), SUPPLY)  # fmt: skip
        text = (
            f"{state}: {record.name} is fed from {record.fed_from}." if fed
            else f"{state}: {record.name} is dead, for {record.fed_from} is: the modules shut down, and the sun with them."
        )  # fmt: skip
        found.append(
            Finding("ARR-RSD", Verdict.PASSED if fed else Verdict.BLOCKS, text, figure, 1, float(fed) - 1, SUPPLY, (), (),
                    "" if fed else "Feed it from a board that the unit feeds in an outage.", (record.id,), state)
        )  # fmt: skip
    if not record.dead_when_off:
        figure = Figure(f"Switches of {record.name}", record.switches, "switches", "that open its supply", (), SUPPLY)
        text = f"With {record.name} switched off the array's conductors stay live off the roof."
        found.append(Finding("ARR-RSD", Verdict.BLOCKS, text, figure, 1, None, SUPPLY, (), (),
                             "Every string passes a device at its modules that the transmitter holds.", (record.id,)))  # fmt: skip
    return found


def arr_island(record: IslandArray) -> list[Finding]:
    """What follows on the island against what forms it, and frequency-shift curtailment on both sides."""
    figure = Figure(
        "AC-coupled power on the island", record.following_kw, "kW", "sum of ratings that follow",
        (Input(f"formed by {', '.join(record.forming)}", record.forming_kw, "kW"),
         *(Input(name, WORDS[word], "", "curtails by frequency") for name, word in record.listens)),
        FOLLOWERS, f"State: {record.state}.",
    )  # fmt: skip
    words = (record.signals, *(word for _, word in record.listens))
    unknown = tuple(
        f"{name} doesn't say whether it curtails by frequency" for name, word in record.listens if word is None
    )
    if record.signals is None:
        unknown = (f"{record.forming[0]} doesn't say whether it raises its frequency", *unknown)
    deaf = tuple(name for name, word in record.listens if word is False)
    margin = record.forming_kw - record.following_kw
    names = ", ".join(record.following)
    if margin < -1e-9:
        verdict = Verdict.BLOCKS
        text = f"{names}: {text_of(record.following_kw, 'kW')} follow an island that {text_of(record.forming_kw, 'kW')} form."
        advice = "Leave a part of the array on the grid's side, or form the island with more."
    elif False in words:
        verdict = Verdict.BLOCKS if margin < 0 or record.signals is False else Verdict.WARNS
        who = ", ".join(deaf) or ", ".join(record.forming)
        text = (
            f"{who}: no curtailment by frequency; with the battery full the island trips on over-voltage or frequency."
        )
        advice = "Leave it on the grid's side, or let a contactor drop it on a full battery."
    else:
        verdict, advice = Verdict.PASSED, ""
        text = f"{names}: {text_of(record.following_kw, 'kW')} follow {text_of(record.forming_kw, 'kW')}, held back by frequency."
    return [Finding("ARR-ISLAND", verdict, text, figure, record.forming_kw, margin, FOLLOWERS, unknown, (), advice,
                    record.following, record.state)]  # fmt: skip
