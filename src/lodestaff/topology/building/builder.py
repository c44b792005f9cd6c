"""The growing graph: parts, the terminals that they give out, and feeds that wait until every part is
there."""

from dataclasses import dataclass, replace

from lodestaff.job import Job
from lodestaff.job.address import address
from lodestaff.job.plan import Throw
from lodestaff.job.plan_fits import BLOCK, feeds_of
from lodestaff.topology.building.normalised import Plan
from lodestaff.topology.model import (
    NEUTRAL,
    Automatic,
    Bond,
    Conductor,
    Contact,
    Ct,
    Kind,
    Orphan,
    Part,
    Run,
    RunKind,
    Source,
    Terminal,
    Topology,
    UnitPorts,
)

OUTPUTS = ("backup", "outlet")  # ports by which a unit gives out on its island
ON_OFF = ("closed", "open")


@dataclass(frozen=True)
class Outlet:
    """What a part gives out: its terminal, and whether it is a bus that takes protective devices."""

    at: Terminal
    bus: bool


@dataclass(frozen=True)
class Wanted:
    """A feed to be wired: from an outlet to a terminal, with a device at its head if the outlet is a bus.

    `run` names the cable after that device.
    """

    feed: str
    to: Terminal
    cores: tuple[str, ...]
    device: str = ""
    device_name: str = ""
    run: str = ""
    decided_by: str = ""
    of: str = ""  # the unit in whose way to the grid the device stands


class Builder:
    """Collects the graph. Names of feeds are resolved when every part has been placed."""

    def __init__(self, job: Job, plan: Plan) -> None:
        self.job, self.plan = job, plan
        self.words = job.pack.all_words
        self.parts: dict[str, Part] = {}
        self.conductors: list[Conductor] = []
        self.sources: list[Source] = []
        self.bonds: list[Bond] = []
        self.units: list[UnitPorts] = []
        self.circuits: dict[str, Terminal] = {}
        self.automatics: list[Automatic] = []
        self.cts: list[Ct] = []
        self.orphans: list[Orphan] = []
        self.unwired: list[str] = []
        self.outlets: dict[str, Outlet] = {}
        self.feeds: list[Wanted] = []
        self.runs: dict[str, Run] = {}
        self.mains = (*job.site.phases, NEUTRAL)
        value = job.pack.values.get("isolators_open_neutral")
        self.opens_neutral = value is None or value.value > 0
        self._by_id = {thing.id: thing for thing in (*plan.units, *plan.parts)}

    def placed(self, id: str) -> object | None:
        """The unit or part that was decided, by its id."""
        return self._by_id.get(id)

    # --- cores -----------------------------------------------------------------------------------------
    def cores(self, name: str) -> tuple[str, ...]:
        """The AC cores of a placed part: its own phases, else those of what feeds it."""
        id = address(name).part
        part = self._by_id.get(id)
        if part is None or id == BLOCK:
            return self.mains
        phases = getattr(part, "phase", "") or getattr(part, "phases", "")
        if phases:
            return (*phases.split("+"), NEUTRAL)
        feeds = feeds_of(part)
        return self.cores(feeds[0]) if feeds else self.mains

    def switched(self, cores: tuple[str, ...]) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Cores that a hand-worked device opens, and those that pass it."""
        if self.opens_neutral:
            return cores, ()
        return tuple(core for core in cores if core != NEUTRAL), tuple(
            core for core in cores if core == NEUTRAL
        )

    # --- parts -----------------------------------------------------------------------------------------
    def add(self, part: Part) -> Part:
        self.parts[part.id] = part
        return part

    def through(self, id: str, kind: Kind, name: str, cores: tuple[str, ...], **more: str) -> Part:
        """A part with a line side and a load side that is always closed."""
        part = Part(id, kind, name, ("line", "load"), (Contact("line", "load", cores),))
        return self.add(replace(part, **more))  # type: ignore[arg-type]

    def switch(self, id: str, kind: Kind, name: str, cores: tuple[str, ...], **more: str) -> Part:
        """A part that a hand opens and closes, all the cores that it opens together."""
        opened, passed = (cores, ()) if kind == "rcd" or "DC+" in cores else self.switched(cores)
        contacts = [Contact("line", "load", opened, ("closed",))]
        if passed:
            contacts.append(Contact("line", "load", passed))
        part = Part(id, kind, name=name, ports=("line", "load"), contacts=tuple(contacts), positions=ON_OFF)
        return self.add(replace(part, **more))  # type: ignore[arg-type]

    def wire(self, a: Terminal, b: Terminal, cores: tuple[str, ...], run: str = "", mark: str = "") -> None:
        self.conductors.append(Conductor(f"{a[0]}.{a[1]}>{b[0]}.{b[1]}{mark}", a, b, cores, run))

    def run(self, id: str, kind: RunKind, of: str) -> str:
        """A run of cable by its name: what it carries, and whose it is."""
        self.runs.setdefault(id, Run(id, kind, of))
        return id

    # --- feeds -----------------------------------------------------------------------------------------
    def wire_feeds(self) -> None:
        """Wire every feed, now that all parts stand."""
        for wanted in self.feeds:
            self._wire_feed(wanted)

    def run_from(self, feed: str) -> str:
        """The run that a feed carries on: a unit's backup port's, through a bypass; '' where a run begins
        anew."""
        for _ in range(8):
            unit, port = address(feed)
            if port in OUTPUTS:
                return self.run(f"{unit}-backup", "output", unit)
            part = self._by_id.get(feed)
            if not isinstance(part, Throw):
                return ""
            feed = part.first
        return ""

    def _wire_feed(self, wanted: Wanted) -> None:
        outlet = self.outlets.get(wanted.feed)
        if outlet is None:
            known = ", ".join(sorted(self.outlets))
            self.orphans.append(
                Orphan(wanted.to[0], "feed", f"{wanted.feed} gives nothing out (there are {known})")
            )
        elif outlet.bus and wanted.device:
            self.switch(
                wanted.device,
                "breaker",
                wanted.device_name,
                wanted.cores,
                decided_by=wanted.decided_by,
                of=wanted.of,
                way="grid" if wanted.of else "",
            )
            self.wire(outlet.at, (wanted.device, "line"), wanted.cores)
            self.wire((wanted.device, "load"), wanted.to, wanted.cores, wanted.run)
        else:
            run = "" if outlet.bus else self.run_from(wanted.feed) or wanted.run
            self.wire(outlet.at, wanted.to, wanted.cores, run)

    def done(self) -> Topology:
        return Topology(
            self.parts,
            tuple(self.conductors),
            sources=tuple(self.sources),
            bonds=tuple(self.bonds),
            units=tuple(self.units),
            circuits=self.circuits,
            automatics=tuple(self.automatics),
            cts=tuple(self.cts),
            orphans=tuple(self.orphans),
            unwired=tuple(self.unwired),
            symbols=self.job.pack.symbols,
            runs=self.runs,
        )
