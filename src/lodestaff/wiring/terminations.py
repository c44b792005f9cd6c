"""Conductor by conductor: where each core ends, its colour and size; and the cables that carry signals."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

from lodestaff.job import Cable, Job
from lodestaff.job.plan import Generator
from lodestaff.topology import Topology
from lodestaff.topology.model import EARTH, NEUTRAL, Conductor
from lodestaff.topology.questions import inside_cases

AT = ("gateway", "board", "unit", "throw", "bypass", "interlock", "combiner")  # what is opened to wire it
PORTS = {
    "in": "incoming", "out": "outgoing", "line": "supply side", "load": "load side", "first": "first feed",
    "second": "second feed", "ac": "AC", "backup": "backup", "grid": "grid", "battery": "battery",
    "generator": "generator", "earth": "earth bar",
}  # fmt: skip
LUG_FROM_MM2 = 16.0  # above it fine-stranded conductors end in a lug; common practice
READ = "on the device"


@dataclass(frozen=True)
class Termination:
    """One end of one core. `torque_nm` is None where no sheet gives one: it is read on the device."""

    part: str
    at: str
    terminal: str
    core: str
    colour: str
    size: str
    end: str
    torque_nm: float | None
    to: str
    run: str

    @property
    def key(self) -> str:
        """What names this end alone."""
        return "/".join((self.part, self.run, self.to, self.terminal, self.core))


def terminations(job: Job, topology: Topology) -> tuple[Termination, ...]:
    """Every core that a hand ends in a gateway, a board, a changeover or a unit, part by part: none inside a
    sealed case, and no plugs of modules."""
    plugged = {port for unit in topology.units if unit.module_level for port in unit.arrays}
    apart = inside_cases(topology)
    return tuple(
        termination
        for part in topology.parts.values()
        if part.kind in AT
        for conductor in topology.conductors
        if conductor.id not in apart and conductor.b not in plugged
        for termination in _ends(job, topology, conductor, part.id)
    )


def _ends(job: Job, topology: Topology, conductor: Conductor, part: str) -> Iterator[Termination]:
    cable = next((cable for cable in job.cables if cable.id == conductor.run), None)
    for here, there in ((conductor.a, conductor.b), (conductor.b, conductor.a)):
        if here[0] != part:
            continue
        earthed = cable is not None and cable.cpc_mm2 is not None and EARTH not in conductor.cores
        for core in (*conductor.cores, *((EARTH,) if earthed else ())):
            yield Termination(
                part=part,
                at=topology.parts[part].name,
                terminal=f"{PORTS.get(here[1], here[1])} {core}",
                core=core,
                colour=colour_of(job, conductor, core),
                size=size_of(job, cable, core) if conductor.run else _without_run(topology, conductor),
                end=_end(job, cable),
                torque_nm=terminal_nm(job, part),
                to=topology.parts[there[0]].name,
                run=conductor.run,
            )


def colour_of(job: Job, conductor: Conductor, core: str) -> str:
    """The colour of a core in the pack's way; one that has none there is marked by hand."""
    colours = {**job.pack.shipped.conductor_colours, **job.pack.conductor_colours}
    if conductor.pen and core == NEUTRAL:
        return f"{colours.get(EARTH, '')}, {colours.get(NEUTRAL, '')} at its ends"
    return colours.get(core, "marked by hand")


def _without_run(topology: Topology, conductor: Conductor) -> str:
    """Of a conductor that is no run of cable: a final circuit's own, an earth's, or a link inside a case."""
    kinds = {topology.parts[conductor.a[0]].kind, topology.parts[conductor.b[0]].kind}
    return "as it lies" if "circuit" in kinds else "by the pack" if "electrode" in kinds else "inside"


def size_of(job: Job, cable: Cable | None, core: str) -> str:
    """The size of a core of a run, protective conductors by their own."""
    if cable is None:
        return "not chosen"
    mm2 = cable.cpc_mm2 if core == EARTH else cable.size_mm2
    return job.pack.size_words(mm2) if mm2 is not None else "not chosen"


def _end(job: Job, cable: Cable | None) -> str:
    """What is crimped to a core: fine strands need a ferrule or a lug. Common practice."""
    if cable is None or job.pack.methods[-1] != cable.table:
        return ""
    return "lug" if cable.size_mm2 >= LUG_FROM_MM2 else "ferrule"


def terminal_nm(job: Job, part: str) -> float | None:
    """The torque of a unit's terminals by its sheet; None where that gives none."""
    unit = next((unit for unit in job.units if unit.id == part), None)
    sheet = job.sheets.units().get(unit.sheet) if unit is not None else None
    torque: float | None = getattr(sheet, "terminal_nm", None)
    return torque


@dataclass(frozen=True)
class Link:
    """A cable that carries signals: what is read off the equipment stays to be read."""

    start: str
    end: str
    carries: str
    cable: str
    longest_m: float | None
    ports: str
    protocol: str
    address: str
    terminator: str = ""


PINS = (
    "Pins of a network plug: 1-2 orange, 3-6 green, 4-5 blue, 7-8 brown; of each pair the white core first "
    "(T568B)."
)
LONGEST_NETWORK_M = 100.0  # TIA-568, from memory


def links(job: Job, topology: Topology) -> tuple[Link, ...]:
    """Batteries to units, units that keep in step, transformers, generators' starts, gateways, shutdown."""
    return tuple(_links(job, topology))


def _links(job: Job, topology: Topology) -> Iterator[Link]:
    names = {unit.id: unit.name for unit in job.units}
    yield from _battery_links(job, topology, names)
    groups: dict[str, list[str]] = {}
    for unit in job.units:
        if unit.group:
            groups.setdefault(unit.group, []).append(unit.name)
    for members in groups.values():
        for first, other in pairwise(members):
            yield _signal(first, other, "keeping in step", "parallel ports", "at the first and the last unit")
    for ct in topology.cts:
        yield Link(
            ct.name,
            names.get(ct.serves, ct.serves),
            "measured current",
            cable="twisted pair, apart from power",
            longest_m=None,
            ports="transformer input",
            protocol="current",
            address=", ".join(ct.phases) if ct.phases else "all phases",
        )
    yield from _device_links(job, topology, names)


def _battery_links(job: Job, topology: Topology, names: dict[str, str]) -> Iterator[Link]:
    sealed = {unit.unit for unit in topology.units if unit.sealed}
    for bank in job.banks:
        if bank.unit in sealed:
            continue
        several = bank.modules > 1
        stack = Link(
            job.sheets.batteries[bank.sheet].name,
            names[bank.unit],
            "battery data",
            cable="the battery's own lead",
            longest_m=None,
            ports="battery port of the unit",
            protocol=READ,
            address="1",
            terminator="at the last module" if several else "at the module",
        )
        yield stack
        if several:
            yield replace(
                stack,
                start="each module",
                end="the next module",
                ports="out to in",
                address=f"1 to {bank.modules}",
            )


def _device_links(job: Job, topology: Topology, names: dict[str, str]) -> Iterator[Link]:
    """Gateways, shutdown, meters of units, starts of generators."""
    for part in topology.parts.values():
        if part.kind == "gateway":
            for unit in topology.units:
                if unit.forms:
                    yield _signal(part.name, names[unit.unit], "island and grid", "gateway ports", READ)
        elif part.kind == "transmitter":
            yield Link(
                part.name,
                "devices at the modules",
                "leave to run",
                cable="the strings themselves",
                longest_m=None,
                ports="every roof conductor through it",
                protocol=READ,
                address="",
            )
        elif part.kind == "meter" and part.way != "supply" and part.of in names:
            yield _signal(part.name, names[part.of], "counted energy", "meter port", READ)
    for started in (part for part in job.parts if isinstance(part, Generator) and part.started_by):
        yield Link(
            started.name,
            names.get(started.started_by, started.started_by),
            "two-wire start",
            cable="two cores, a lock-out in them",
            longest_m=None,
            ports="dry contact",
            protocol="contact",
            address="",
        )


def _signal(start: str, other: str, carries: str, ports: str, terminator: str) -> Link:
    return Link(
        start,
        other,
        carries,
        cable="network cable",
        longest_m=LONGEST_NETWORK_M,
        ports=ports,
        protocol=READ,
        address=READ,
        terminator=terminator,
    )
