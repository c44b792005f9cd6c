"""How a site is left in the evening: what stays live or open, and what of the building has power, by the
graph."""

from collections.abc import Iterable
from dataclasses import dataclass

from lodestaff.catalogue.families import sealed
from lodestaff.job import Job, Role
from lodestaff.topology import Part, State, Topology, answer
from lodestaff.topology.model import ARRAY, DC, Source
from lodestaff.topology.states import Answer, off_position
from lodestaff.visits.names import CUT_IN, battery_stands, modules_on, moved_to, runs_of, started, unit_stands
from lodestaff.visits.news import new_parts

AS_BEFORE = "The building is fed as before: nothing new is joined to it."
NO_GRID_YET = "The building is as it was found: nothing new is joined to it."
NEW = "The building is fed by the new installation as it will stay."
PAST = "The building is fed from the grid; what isn't started is off and locked."
ROUND = "The building is fed round what isn't started, by {names}: put so and locked."
BY_ENGINE = "The building is fed by the generator, round what isn't started."
AT_ARRAY = "live in daylight at its open ends at the array"
RESTING = "at its safe voltage until its unit is started"
PLUGGED = "plugged into its units: dead on AC until they are fed, live between module and unit in daylight"
LANDED = "live in daylight up to {ends}"
CHARGED = "charged, live up to its isolator"
SEALED = "charged inside the case: nothing is reached from outside"
CAP = "Close each connector with its cap, no bare ends; sign beside them."
LOCK = "Isolator open and locked, sign on it."


@dataclass(frozen=True)
class Left:
    """One thing that is left live or open: what it is, how it stands, what makes it safe for the night."""

    part: str
    name: str
    words: str
    safe: str = ""


@dataclass(frozen=True)
class Evening:
    """A site in the evening. `dark` are circuits without power that have it otherwise; `feeds` says what
    feeds the building."""

    feeds: str
    dark: tuple[str, ...]
    left: tuple[Left, ...]


def evening(
    job: Job, topology: Topology, done: Iterable[str], tasks: Iterable[str], begun: Iterable[str] = ()
) -> Evening:
    """How it is with these tasks done, out of those that the job has. Modules and cells that are only `begun`
    count as there: half an array is as live as a whole one."""
    to_do = frozenset(tasks) - frozenset(done)
    return _Site(job, topology, to_do, to_do - frozenset(begun)).evening()


WAYS_ROUND = ("bypass", "throw", "interlock")
WAYS_OFF = ("array", "battery", "grid")  # of a unit that isn't started: open and locked


class _Site:
    """A site on which some tasks are still to do."""

    def __init__(
        self, job: Job, topology: Topology, to_do: frozenset[str], untouched: frozenset[str]
    ) -> None:
        self.job, self.topology, self.to_do, self.untouched = job, topology, to_do, untouched
        self.new = {part.id for part in new_parts(job, topology)}
        units = {unit.unit for unit in topology.units}
        self.joined = CUT_IN not in to_do
        self.running = {unit for unit in units if unit not in self.new or not self.waits(started(unit))}
        self.resting = units - self.running
        self.state = self._state()
        self.answer: Answer = answer(topology, self.state)

    def waits(self, task: str) -> bool:
        return task in self.to_do

    def evening(self) -> Evening:
        left = (*self._arrays(), *self._batteries())
        return Evening(self._feeds(), self._dark() if self.joined else (), left)

    def _state(self) -> State:
        """Where hands stand: what isn't started is off and locked, a way round it carries the building."""
        hands: dict[str, str] = {}
        for part in self.topology.switches():
            if part.id in self.resting or (part.of in self.resting and part.way in WAYS_OFF):
                hands[part.id] = off_position(part.positions)
            elif part.kind in WAYS_ROUND and self._rests_behind(part):
                hands.update(self._round(part))
            elif part.kind == "generator" and not self.job.mains.grid and not self.running:
                hands[part.id] = "running"
        return State("evening", tuple(sorted(hands.items())), grid_present=self.job.mains.grid)

    def _rests_behind(self, part: Part) -> bool:
        """Whether all units that a two-way switch can take its power from aren't started; where several are
        joined before it, all of the site's."""
        behind = {other.id for other in self.topology.ahead((part.id, "unit")) if other.kind == "unit"}
        units = behind or (self.resting | self.running)
        return bool(units) and units <= self.resting

    def _round(self, part: Part) -> dict[str, str]:
        """The position of a two-way switch that goes round the units."""
        other = next((source for source in ("grid", "generator") if source in part.positions), None)
        return {part.id: other} if other is not None else {}

    def _feeds(self) -> str:
        if not self.joined:
            return AS_BEFORE if self.job.mains.grid else NO_GRID_YET
        if not self.resting:
            return NEW
        hands = dict(self.state.hands)
        ways = [part for part in self.topology.switches() if part.kind in WAYS_ROUND and part.id in hands]
        if not self.job.mains.grid:
            return BY_ENGINE if ways else AS_BEFORE
        return ROUND.format(names=", ".join(part.name for part in ways)) if ways else PAST

    def _dark(self) -> tuple[str, ...]:
        """Circuits that hang on the new installation and aren't fed by it."""
        return tuple(
            circuit
            for circuit, by in self.answer.fed.items()
            if not by
            and self.job.circuit(circuit).role is not Role.SURPLUS
            and not any(self.waits(moved_to(part)) for part in self._upstream(circuit))
        )

    def _upstream(self, circuit: str) -> set[str]:
        """The parts that a circuit is fed through; until its board is moved it hangs where it hung."""
        into: dict[str, list[str]] = {}
        for conductor in self.topology.conductors:
            into.setdefault(conductor.b[0], []).append(conductor.a[0])
        names: set[str] = set()
        ahead = [self.topology.circuits[circuit][0]]
        while ahead:
            part = ahead.pop()
            if part not in names and self.topology.parts[part].kind != "unit":
                names.add(part)
                ahead += into.get(part, [])
        return names

    def _arrays(self) -> list[Left]:
        rows = []
        for source in self.topology.sources:
            part = self.topology.parts[source.part]
            if source.kind != ARRAY or part.id not in self.new:
                continue
            if all(modules_on(face) in self.untouched for face in faces_of(self.job, part) or (part.id,)):
                continue
            if source.unit not in self.running and not (self.joined and not source.unit):
                rows.append(Left(part.id, part.name, *self._array(source)))
        return rows

    def _array(self, source: Source) -> tuple[str, str]:
        if source.unit and self.topology.unit(source.unit).module_level:
            return PLUGGED, ""
        if self.waits(runs_of(source.unit or source.part)):
            return AT_ARRAY, CAP
        if source.rests:
            return RESTING, LOCK
        return LANDED.format(ends=", ".join(self._ends(source)) or "its first isolator"), LOCK

    def _ends(self, source: Source) -> tuple[str, ...]:
        """Up to where an array is live: the switches, else the parts, at which its live conductors end."""
        fed = self.answer.sources
        live = [
            conductor
            for conductor in self.topology.conductors
            if source.part in fed[conductor.id] and any(core in DC for core in conductor.cores)
        ]
        ends = [self.topology.parts[end[0]] for conductor in live for end in (conductor.a, conductor.b)]
        switches = [part.name for part in ends if part.kind in ("isolator", "shutdown")]
        return tuple(dict.fromkeys(switches or [part.name for part in ends if part.id != source.part]))

    def _batteries(self) -> list[Left]:
        rows = []
        for bank in self.job.banks:
            unit = self.job.unit(bank.unit)
            inside = sealed(self.job.sheet_of(unit))
            stands = unit_stands(unit.id) if inside else battery_stands(bank.id)
            if unit.id not in self.new or stands in self.untouched:
                continue
            name = self.topology.parts[bank.id].name if bank.id in self.topology.parts else unit.name
            if unit.id in self.running:
                continue
            if inside:
                rows.append(Left(bank.id, unit.name, SEALED))
            else:
                rows.append(Left(bank.id, name, CHARGED, LOCK))
        return rows


def faces_of(job: Job, part: Part) -> tuple[str, ...]:
    """The faces that the modules of an array's strings lie on."""
    first = next((string for string in job.strings if part.decided_by == f"strings/{string.id}"), None)
    if first is None:
        return ()
    together = job.strings_on(first.unit, first.tracker)
    return tuple(dict.fromkeys(face.id for string in together for face, _ in job.modules_in(string.id)))
