"""An outage with a switch put over by hand, so that more hangs on the units: an interlock on their side."""

from dataclasses import dataclass, replace

from lodestaff.energy.outage import Outage
from lodestaff.energy.records import OutageArrays
from lodestaff.job import Circuit, Job, Role, Unit
from lodestaff.quantities.recent import Recent
from lodestaff.reckoning.moment import Moment
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.sunlit import Sunlit
from lodestaff.reckoning.wired import Backed, Wiring, backed_of

BY_HAND = ("interlock", "throw")  # switches that a person puts over


@dataclass(frozen=True)
class Hand:
    """A switch put over: its part and position, circuits that then hang on a unit besides, and those of them
    that a person keeps off."""

    part: str
    name: str
    position: str
    more: tuple[Circuit, ...]
    kept_off: tuple[Circuit, ...]

    @property
    def words(self) -> str:
        return f"{self.name} put to the {self.position}"


def hands(reckoner: Reckoner, job: Job) -> tuple[Hand, ...]:
    """Every switch of a job that feeds more circuits from its units when the grid is away."""
    return reckoner.of_job("hands", job, lambda: _hands(reckoner, job))


def _hands(reckoner: Reckoner, job: Job) -> tuple[Hand, ...]:
    topology = reckoner.wiring(job).topology
    usual = {name for island in reckoner.wiring(job).islands for name in island.circuits}
    made = []
    for part in topology.switches() if job.mains.grid else ():
        for position in part.positions if part.kind in BY_HAND else ():
            there = Wiring(topology, ((part.id, position),))
            more = {name for island in there.islands for name in island.circuits} - usual
            if more and there.dark is not None and not there.dark.hazards:
                circuits = tuple(c for c in job.circuits if c.id in more)
                kept = tuple(c for c in circuits if not _left_on(c))
                made.append(Hand(part.id, part.name, position, circuits, kept))
    return tuple(made)


def _left_on(circuit: Circuit) -> bool:
    """Whether a person leaves a circuit on that isn't backed up otherwise."""
    return circuit.role in (Role.HELD, Role.SHED, Role.GRID) and circuit.kind != "car charger"


class PutOver(Reckoner):
    """A job in an outage with a switch put over: all that then hangs on its units, but for what is kept off.

    The year before it is that of the job as it stands.
    """

    def __init__(self, reckoner: Reckoner, hand: Hand) -> None:
        self.attachment, self.memo = reckoner.attachment, reckoner.memo
        self._of_job = Recent()
        self.sunlit = Sunlit(self, self._of_job)
        self.usual, self.hand = reckoner, hand

    def wiring(self, job: Job) -> Wiring:
        """The graph, its islands with the switch put over."""
        put = ((self.hand.part, self.hand.position),)
        return self.of_job("put over", job, lambda: Wiring(self.usual.wiring(job).topology, put))

    def backed(self, job: Job, unit: Unit) -> Backed:
        """What a unit carries then: what is backed up, and what more is left on."""
        backup = backed_of(self.wiring(job), job, unit)
        mine = [island for island in self.wiring(job).islands if unit.id in island.forming]
        inside = {name for island in mine for name in island.circuits}
        on = tuple(c for c in job.circuits if c.id in inside and _left_on(c))
        return replace(backup, circuits=on)

    def island(self, job: Job, unit: Unit) -> OutageArrays:
        """What the units of a unit's island meet together in each step."""
        on = self.backed(job, unit).circuits
        held = tuple(c for c in on if c.role is not Role.SHED)
        return self.memo.get(
            ("put over", self.island_key(job, unit)),
            lambda: self.island_with(job, unit, held, tuple(c for c in on if c.role is Role.SHED)),
        )


@dataclass(frozen=True)
class HandOutage:
    """How long an island lasts from a moment on with a switch put over."""

    hand: Hand
    unit: str
    outage: Outage
    start_kwh: float


def outages_by_hand(reckoner: Reckoner, job: Job, moment: Moment) -> tuple[HandOutage, ...]:
    """Outages from a moment on with each switch put over that feeds more; none where no switch does."""
    made = []
    for hand in hands(reckoner, job):
        then = PutOver(reckoner, hand)
        more = {c.id for c in hand.more}
        for unit in then.leads(job):
            if more & {c.id for c in then.backed(job, unit).circuits}:
                outage, start = then.outage(job, unit, moment), then.island_energy(job, unit, moment)
                made.append(HandOutage(hand, then.island_name(job, unit), outage, start))
    return tuple(made)
