"""What the trade asks of an installation: what lives in an outage and who carries it, and who keeps which
limit."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache

from lodestaff.topology.flows import flows
from lodestaff.topology.graph import Holder
from lodestaff.topology.islands import Island, islands
from lodestaff.topology.model import GENERATOR, GRID, QUIET, Ct, Terminal, Topology
from lodestaff.topology.settle import State
from lodestaff.topology.states import Answer, answer, standard_states

NOTHING_KVA: Mapping[str, float] = {}


@dataclass(frozen=True)
class Led:
    """Units that keep a limit together: the transformer that they obey (None: none does), and the phases it
    counts.

    `whole` says that it is on the supply, so that its limit is the site's.
    """

    ct: Ct | None
    units: tuple[str, ...]
    phases: tuple[str, ...]
    whole: bool


@dataclass(frozen=True)
class Asked:
    """The answers. `grid` is None where there is no grid; `islands` are those that carry circuits."""

    grid: Answer | None
    dark: Answer
    islands: tuple[Island, ...]
    seen: dict[
        str, dict[str, int]
    ]  # by transformer: circuits and units that it sees with the grid, with the sign

    @property
    def has_backup(self) -> bool:
        """Whether anything lives in an outage by a unit."""
        return bool(self.islands)

    def lives(self) -> tuple[str, ...]:
        """Circuits that units carry in an outage, as the graph has it, those with a second supply among
        them."""
        return tuple(name for name, sources in self.dark.fed.items() if sources)

    def dead(self) -> tuple[str, ...]:
        """Circuits that are without voltage in an outage."""
        return tuple(name for name, sources in self.dark.fed.items() if not sources)


@lru_cache(maxsize=32)
def _asked(holder: Holder) -> Asked:
    topology = holder.topology
    grid = (
        answer(topology, State("grid")) if any(source.kind == GRID for source in topology.sources) else None
    )
    dark = answer(topology, State("island", grid_present=False))
    with_circuits = tuple(island for island in islands(topology, dark) if island.circuits)
    seen = flows(topology, grid, NOTHING_KVA, 1.0).seen if grid is not None else {}
    return Asked(grid, dark, with_circuits, seen)


def asked(topology: Topology) -> Asked:
    """The answers for a topology, found once."""
    return _asked(Holder(topology))


def state_words(topology: Topology, name: str) -> str:
    """A state's name; what is an island elsewhere is only an outage where nothing forms one."""
    return "outage" if name == "island" and not asked(topology).has_backup else name


def shown_states(topology: Topology) -> tuple[State, ...]:
    """The standard states that say something here: what a failure in an outage leaves only where something
    lives."""
    backup = asked(topology).has_backup
    return tuple(
        state
        for state in standard_states(topology)
        if backup or not state.name.endswith("failed in an outage")
    )


def ct_phases(topology: Topology, ct: Ct) -> tuple[str, ...]:
    """The phases or legs that a transformer counts."""
    cores = [core for name in ct.conductors for core in topology.conductor(name).cores if core not in QUIET]
    return tuple(core for core in dict.fromkeys(cores) if not ct.phases or core in ct.phases)


def whole_site(ct: Ct) -> bool:
    """Whether a transformer is meant to see the whole supply."""
    return ct.proves_limit or ct.watches == "whole site"


def led(topology: Topology) -> tuple[Led, ...]:
    """Every unit in the one group whose limit it keeps; units that know of no other are groups of their
    own."""
    units = {unit.unit: unit for unit in topology.units}
    groups: list[Led] = []
    placed: set[str] = set()
    for ct in sorted(
        (ct for ct in topology.cts if ct.watches != "charger"), key=lambda ct: not whole_site(ct)
    ):
        first = units.get(ct.serves)
        if first is None:
            continue
        together = [name for name, unit in units.items() if unit.group and unit.group == first.group]
        members = tuple(
            dict.fromkeys((ct.serves, *together, *(name for name in ct.obeyed_by if name in units)))
        )
        mine = tuple(name for name in members if name not in placed)
        if mine:
            groups.append(Led(ct, mine, ct_phases(topology, ct), whole_site(ct)))
            placed |= set(mine)
    for name, unit in units.items():
        if name not in placed:
            same = tuple(
                other
                for other, ports in units.items()
                if other == name or (unit.group and ports.group == unit.group and other not in placed)
            )
            groups.append(Led(None, same, unit.legs, False))
            placed |= set(same)
    return tuple(groups)


def board_with_most(topology: Topology, circuits: Iterable[str]) -> str:
    """The board that most of some circuits hang on; '' where none does. One that is fed only with surplus
    comes after all others."""
    ends = {f"circuit-{name}" for name in circuits}
    spare = {automatic.part for automatic in topology.automatics if automatic.rule == "with surplus"}
    boards = [
        conductor.a[0]
        for conductor in topology.conductors
        if conductor.b[0] in ends and topology.parts[conductor.a[0]].kind == "board"
    ]
    late = {c.b[0] for c in topology.conductors if c.a[0] in spare}
    return max(dict.fromkeys(boards), key=lambda board: (board not in late, boards.count(board)), default="")


def parts_island(topology: Topology, island: Island) -> Terminal | None:
    """Where what parts an island from the grid may make a bond of its own: its gateway's load side, else its
    unit's output; None where neither parts it."""
    gateway = next((part.id for part in topology.parts.values() if part.kind == "gateway"), None)
    if gateway is not None:
        return gateway, "load"
    first = topology.unit(island.forming[0])
    return first.out if first.transfer else None


def inside_cases(topology: Topology) -> frozenset[str]:
    """Conductors inside sealed cases: nothing that a hand reaches."""
    ports = {unit.battery for unit in topology.units if unit.sealed and unit.battery}
    return frozenset(conductor.id for conductor in topology.conductors if conductor.b in ports)


def has_generator(topology: Topology) -> bool:
    return any(source.kind == GENERATOR for source in topology.sources)


def has_grid(topology: Topology) -> bool:
    return any(source.kind == GRID for source in topology.sources)
