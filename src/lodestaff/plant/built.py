"""What was really built: the installation as drawn, changed by what is wrong with it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from lodestaff.job import Job, Role
from lodestaff.plant.network import Wires
from lodestaff.topology import Topology
from lodestaff.topology.flows import flows
from lodestaff.topology.model import NEUTRAL, QUIET, Bond, Conductor, Ct
from lodestaff.topology.questions import asked, board_with_most, ct_phases, parts_island


@dataclass(frozen=True)
class Channel:
    """One input of a meter: the leg whose volts it knows, and the conductor and core that its transformer
    sits on, with the sign."""

    leg: str
    conductor: str
    core: str
    sign: float = 1.0


@dataclass(frozen=True)
class Built:
    """The wiring, the channels of each transformer, and the wires that lie elsewhere than drawn."""

    topology: Topology
    channels: dict[str, tuple[Channel, ...]] = field(default_factory=dict)
    wires: Wires = field(default_factory=Wires)


def as_drawn(topology: Topology) -> Built:
    """Everything where it belongs."""
    return Built(topology, {ct.id: channels_of(topology, ct) for ct in topology.cts})


def channels_of(topology: Topology, ct: Ct) -> tuple[Channel, ...]:
    """The channels of a transformer as drawn: one for each leg and conductor that it counts."""
    legs, sign = ct_phases(topology, ct), -1.0 if ct.reversed else 1.0
    return tuple(
        Channel(core, name, core, sign)
        for name in ct.conductors
        for core in topology.conductor(name).cores
        if core in legs
    )


# --- transformers ----------------------------------------------------------------------------------------
def grid_cts(topology: Topology) -> tuple[Ct, ...]:
    """Transformers that a unit obeys."""
    return tuple(ct for ct in topology.cts if ct.watches in ("whole site", "own circuits"))


def with_channels(built: Built, ct: str, channels: Iterable[Channel]) -> Built:
    return replace(built, channels={**built.channels, ct: tuple(channels)})


def turned(built: Built) -> Built:
    """The first transformer the wrong way round."""
    first = grid_cts(built.topology)[0].id
    return with_channels(
        built, first, (replace(channel, sign=-channel.sign) for channel in built.channels[first])
    )


def on_next_leg(built: Built) -> Built:
    """The first transformer's first channel on the leg beside its own."""
    first = grid_cts(built.topology)[0].id
    channel, *rest = built.channels[first]
    cores = [core for core in built.topology.conductor(channel.conductor).cores if core not in QUIET]
    other = next(core for core in cores if core != channel.core)
    return with_channels(built, first, (replace(channel, core=other), *rest))


def swapped(built: Built) -> Built:
    """Two channels of one transformer, or two transformers, exchanged."""
    first = grid_cts(built.topology)[0].id
    channels = built.channels[first]
    if len({channel.leg for channel in channels}) > 1:
        channel, two, *rest = channels
        turned_over = (
            replace(channel, conductor=two.conductor, core=two.core),
            replace(two, conductor=channel.conductor, core=channel.core),
        )
        return with_channels(built, first, (*turned_over, *rest))
    second = grid_cts(built.topology)[1].id
    return with_channels(with_channels(built, first, built.channels[second]), second, channels)


def elsewhere(built: Built) -> Built:
    """The first transformer on the feed of a unit in place of its own conductor."""
    first = grid_cts(built.topology)[0]
    place = feed_of_a_unit(built.topology, first)
    assert place is not None
    return with_channels(
        built,
        first.id,
        (
            replace(channel, conductor=place.id)
            for channel in built.channels[first.id]
            if channel.core in place.cores
        ),
    )


def feed_of_a_unit(topology: Topology, ct: Ct) -> Conductor | None:
    """A conductor into a unit's grid side that sees other circuits than the transformer ought to; none where
    there is no such."""
    grid = asked(topology).grid
    if grid is None:
        return None
    ends = {unit.grid for unit in topology.units}
    ought = set(asked(topology).seen.get(ct.id, {})) & set(topology.circuits)
    for conductor in topology.conductors:
        if conductor.b in ends and conductor.id not in ct.conductors:
            there = replace(topology, cts=(replace(ct, conductors=(conductor.id,), phases=()),))
            sees = set(flows(there, grid, {}, 1.0).seen[ct.id]) & set(topology.circuits)
            if ought - sees:
                return conductor
    return None


# --- bonds -----------------------------------------------------------------------------------------------
def relay_bonds(topology: Topology) -> tuple[Bond, ...]:
    return tuple(bond for bond in topology.bonds if bond.relay is not None)


def bond_open(topology: Topology) -> Topology:
    """No relay makes its bond."""
    return replace(topology, bonds=tuple(bond for bond in topology.bonds if bond.relay is None))


def bond_closed(topology: Topology) -> Topology:
    """Every relay's bond stays made."""
    return replace(topology, bonds=tuple(replace(bond, relay=None) for bond in topology.bonds))


def held_board(topology: Topology) -> str:
    """The board that most circuits live on in an outage; '' where none does."""
    return board_with_most(topology, asked(topology).lives())


def second_bond(topology: Topology) -> Topology:
    """A link left in the board that lives in an outage."""
    board = held_board(topology)
    more = Bond("second-bond", (board, "out"), "link left in the board")
    return replace(topology, bonds=(*topology.bonds, more))


def device_with_a_link(topology: Topology) -> tuple[str, str] | None:
    """The gateway or unit in which a link that came with it may have been left, and the port; None where one
    belongs there, or none makes an island beside a grid."""
    questions = asked(topology)
    if questions.grid is None or not questions.islands:
        return None
    place = parts_island(topology, questions.islands[0])
    if place is None or any(bond.at[0] == place[0] and bond.relay is None for bond in topology.bonds):
        return None
    return place


def link_left(topology: Topology) -> Topology:
    """The link that came with a gateway or unit, not taken out."""
    place = device_with_a_link(topology)
    assert place is not None
    more = Bond("factory-link", place, "link that came with the device")
    return replace(topology, bonds=(*topology.bonds, more))


# --- circuits and feeds ----------------------------------------------------------------------------------
def _moved(topology: Topology) -> tuple[Conductor, str] | None:
    """A circuit of one leg that lives in an outage and a board that is dead in one, whose cores it finds
    there."""
    questions = asked(topology)
    if questions.grid is None or not questions.has_backup:
        return None
    lives = {f"circuit-{name}" for name in questions.lives()}
    into = {c.b[0]: c for c in topology.conductors if c.b[1] == "in" and not c.a[0].startswith("circuit-")}
    boards = {
        part.id: set(feed.cores)
        for part in topology.parts.values()
        if part.kind == "board" and (feed := into.get(part.id)) is not None
        and not questions.dark.live[feed.id] and questions.grid.live[feed.id]
    }  # fmt: skip
    twice = {c.b[0] for c in topology.conductors if c.b[1] == "in 2"}
    for name, conductor in into.items():
        legs = [core for core in conductor.cores if core not in QUIET]
        if name in lives - twice and len(legs) == 1 and NEUTRAL in conductor.cores:
            for board, cores in boards.items():
                if set(conductor.cores) <= cores:
                    return conductor, board
    return None


def can_move(topology: Topology) -> bool:
    return _moved(topology) is not None


def circuit_elsewhere(topology: Topology) -> Topology:
    """A circuit that should live in an outage left on the board that dies."""
    moved = _moved(topology)
    assert moved is not None
    conductor, board = moved
    there = replace(conductor, a=(board, "out"))
    return replace(topology, conductors=tuple(there if c is conductor else c for c in topology.conductors))


def neutral_elsewhere(topology: Topology) -> Topology:
    """A circuit's neutral borrowed from the other board."""
    moved = _moved(topology)
    assert moved is not None
    conductor, board = moved
    line = replace(conductor, cores=tuple(core for core in conductor.cores if core != NEUTRAL))
    neutral = replace(conductor, id=f"{conductor.id} neutral", a=(board, "out"), cores=(NEUTRAL,))
    kept = tuple(line if c is conductor else c for c in topology.conductors)
    return replace(topology, conductors=(*kept, neutral))


def crossed_feed(topology: Topology) -> Conductor | None:
    """The feed of a unit with several legs, or of one on one of several."""
    legs = {core for c in topology.conductors for core in c.cores if core not in QUIET and core[:2] != "DC"}
    if len(legs) < 2:
        return None
    ends = {unit.grid: unit for unit in topology.units}
    for conductor in topology.conductors:
        if conductor.b in ends and len([core for core in conductor.cores if core not in QUIET]) > 1:
            return conductor
    return None


def legs_crossed(built: Built) -> Built:
    """Two legs of a unit's feed exchanged."""
    conductor = crossed_feed(built.topology)
    assert conductor is not None
    first, two = [core for core in conductor.cores if core not in QUIET][:2]
    return replace(built, wires=Wires({conductor.id: {first: two, two: first}}))


def lock_out(job: Job, topology: Topology) -> str | None:
    """The contactor that takes a car charger off in an outage; none where there is none."""
    chargers = {f"circuit-{c.id}" for c in job.circuits if c.role is Role.LOCKED}
    into = {c.b[0]: c.a[0] for c in topology.conductors if "DC+" not in c.cores}
    for charger in sorted(chargers):
        at = into.get(charger)
        for _ in range(len(topology.parts)):
            if at is None:
                break
            if any(a.part == at and a.rule == "with the grid" for a in topology.automatics):
                return at
            at = into.get(at)
    return None


def lock_out_welded(job: Job, topology: Topology) -> Topology:
    """Its contacts stay closed whatever it is told."""
    name = lock_out(job, topology)
    assert name is not None
    part = topology.parts[name]
    welded = replace(part, contacts=tuple(replace(each, positions=None) for each in part.contacts))
    return replace(topology, parts={**topology.parts, name: welded})


def transmitter_feed(topology: Topology) -> Conductor | None:
    """What feeds a rapid shutdown's transmitter."""
    return next((c for c in topology.conductors if topology.parts[c.b[0]].kind == "transmitter"), None)


def transmitter_unfed(topology: Topology) -> Topology:
    feed = transmitter_feed(topology)
    return replace(topology, conductors=tuple(c for c in topology.conductors if c is not feed))
