"""From decisions to graph: a supply, the old board, and for each hybrid its essential loads board."""

from dataclasses import replace

from lodestaff.job import Circuit, Job, Role, Unit
from lodestaff.topology.model import (
    ARRAY,
    BATTERY,
    DC,
    GRID,
    NEUTRAL,
    Bond,
    Conductor,
    Contact,
    Kind,
    Part,
    Source,
    Terminal,
    Topology,
    UnitPorts,
)

ON_OFF = ("closed", "open")
BYPASS_POSITIONS = ("unit", "off", "grid")


class _Builder:
    def __init__(self, job: Job) -> None:
        self.job = job
        self.words = job.pack.words
        self.parts: dict[str, Part] = {}
        self.conductors: list[Conductor] = []
        self.sources: list[Source] = []
        self.bonds: list[Bond] = []
        self.units: list[UnitPorts] = []
        self.circuits: dict[str, Terminal] = {}
        self.mains = (*job.site.phases, NEUTRAL)

    def add(self, part: Part) -> Part:
        self.parts[part.id] = part
        return part

    def through(self, id: str, kind: Kind, name: str, cores: tuple[str, ...], **more: str) -> Part:
        """A part with a line side and a load side that is always closed."""
        part = Part(id, kind, name, ("line", "load"), (Contact("line", "load", cores),))
        return self.add(replace(part, **more))  # type: ignore[arg-type]

    def switch(self, id: str, kind: Kind, name: str, cores: tuple[str, ...], **more: str) -> Part:
        """A part that a hand opens and closes, all its cores together."""
        part = Part(id, kind, name, ("line", "load"), (Contact("line", "load", cores, ("closed",)),), ON_OFF)
        return self.add(replace(part, **more))  # type: ignore[arg-type]

    def wire(self, a: Terminal, b: Terminal, cores: tuple[str, ...], run: str = "") -> None:
        self.conductors.append(Conductor(f"{a[0]}.{a[1]}>{b[0]}.{b[1]}", a, b, cores, run))

    def done(self) -> Topology:
        return Topology(
            self.parts, tuple(self.conductors), tuple(self.sources), tuple(self.bonds), tuple(self.units), self.circuits
        )


def build(job: Job) -> Topology:
    """The graph of a job's decisions."""
    b = _Builder(job)
    _supply(b)
    _old_board(b)
    for unit in job.units:
        _hybrid(b, unit)
    return b.done()


def _supply(b: _Builder) -> None:
    site = b.job.site
    rating = site.supply.rating_a.value
    earthing = site.supply.earthing.value or "earthing unknown"
    b.add(
        Part("supply", "supply", f"{b.words['operator']} supply", ("load",), rating=earthing, decided_by="site/supply")
    )
    b.through(
        "cutout",
        "fuse",
        b.words["cutout"],
        b.mains,
        rating=f"{rating:g} A" if rating else "rating unknown",
        decided_by="site/supply/rating_a",
        caution="cutout",
    )
    b.through("meter", "meter", "Supply meter", b.mains, decided_by="site/supply")
    b.switch("main-isolator", "isolator", f"Main {b.words['isolator']}", b.mains, decided_by="site/supply")
    b.add(Part("block", "block", "Distribution block", ("in", "out"), (Contact("in", "out", b.mains),)))
    b.wire(("supply", "load"), ("cutout", "line"), b.mains)
    b.wire(("cutout", "load"), ("meter", "line"), b.mains, "tails")
    b.wire(("meter", "load"), ("main-isolator", "line"), b.mains, "tails")
    b.wire(("main-isolator", "load"), ("block", "in"), b.mains, "tails")
    b.sources.append(Source(GRID, "supply", ("supply", "load")))
    # A TT supply is bonded at its transformer only; TN-C-S and TN-S at or before the service head.
    where = "at the transformer" if site.supply.earthing.value == "TT" else "of the supply"
    b.bonds.append(Bond("supply-bond", ("supply", "load"), f"{b.words['bond']} {where}"))


def _board_with(b: _Builder, board_id: str, name: str, circuits: tuple[Circuit, ...]) -> None:
    b.add(Part(board_id, "board", name, ("in", "out"), (Contact("in", "out", b.mains),)))
    for circuit in circuits:
        part_id = f"circuit-{circuit.id}"
        cores = (circuit.phase, NEUTRAL)
        b.add(
            Part(
                part_id, "circuit", circuit.name, ("in",), rating=str(circuit.role), decided_by=f"circuits/{circuit.id}"
            )
        )
        b.wire((board_id, "out"), (part_id, "in"), cores)
        b.circuits[circuit.id] = (part_id, "in")


def _old_board(b: _Builder) -> None:
    b.switch("board-switch", "isolator", f"{b.words['main_switch'].capitalize()}", b.mains)
    b.wire(("block", "out"), ("board-switch", "line"), b.mains)
    _board_with(b, "board", f"Old {b.words['board']}", b.job.with_role(Role.GRID, Role.LOCKED))
    b.wire(("board-switch", "load"), ("board", "in"), b.mains, "board-feed")


def _hybrid(b: _Builder, unit: Unit) -> None:
    job, sheet = b.job, b.job.hybrid_of(unit)
    pair = (unit.phase, NEUTRAL)
    u, origin = unit.id, f"units/{unit.id}"
    b.switch(f"{u}-feed", "breaker", f"Unit feed {b.words['protective_device']}", pair, decided_by=origin)
    b.wire(("block", "out"), (f"{u}-feed", "line"), pair)
    ports = ["grid", "backup"]
    poles = pair if sheet.neutral_switched else (unit.phase,)
    contacts = [Contact("grid", "backup", poles, ("closed",))]
    if not sheet.neutral_switched:
        contacts.append(Contact("grid", "backup", (NEUTRAL,)))
    bank = job.bank_of(unit)
    trackers = [t.name for t in sheet.trackers if any(job.modules_in(s.id) for s in job.strings_on(u, t.name))]
    ports += ["battery"] if bank else []
    ports += [f"array {tracker}" for tracker in trackers]
    b.add(
        Part(
            u,
            "unit",
            unit.name,
            tuple(ports),
            tuple(contacts),
            ("on", "off"),
            rating=f"{sheet.rated_kva:g} kVA",
            decided_by=origin,
            caution="prove_dead",
        )
    )
    b.wire((f"{u}-feed", "load"), (u, "grid"), pair, f"{u}-feed")
    _storage_and_array(b, unit, trackers)
    relay = _bonds(b, unit)
    _essential_board(b, unit)
    b.units.append(
        UnitPorts(
            u,
            unit.phase,
            u,
            relay,
            (u, "grid"),
            (u, "backup"),
            (u, "battery") if bank else None,
            tuple((u, f"array {tracker}") for tracker in trackers),
        )
    )


def _storage_and_array(b: _Builder, unit: Unit, trackers: list[str]) -> None:
    job, u = b.job, unit.id
    bank = job.bank_of(unit)
    if bank:
        name = f"Battery, {bank.modules} modules" if bank.modules > 1 else "Battery, 1 module"
        b.add(Part(bank.id, "battery", name, ("dc",), decided_by=f"banks/{bank.id}", caution="battery"))
        b.switch(f"{bank.id}-isolator", "isolator", f"Battery {b.words['isolator']}", DC, decided_by=f"banks/{bank.id}")
        b.wire((bank.id, "dc"), (f"{bank.id}-isolator", "line"), DC, f"{bank.id}-run")
        b.wire((f"{bank.id}-isolator", "load"), (u, "battery"), DC, f"{bank.id}-run")
        b.sources.append(Source(BATTERY, bank.id, (bank.id, "dc"), u))
    for tracker in trackers:
        faces = [part for string in job.strings_on(u, tracker) for part in job.modules_in(string.id)]
        part = f"{u}-array-{tracker.lower()}"
        places = dict.fromkeys(face.name for face, _ in faces)
        name = f"{' + '.join(places)}, {sum(count for _, count in faces)} modules"
        origin = f"strings/{job.strings_on(u, tracker)[0].id}"
        b.add(Part(part, "array", name, ("dc",), decided_by=origin, caution="live_in_daylight"))
        b.switch(f"{part}-isolator", "isolator", f"DC {b.words['isolator']} {tracker}", DC, decided_by=origin)
        b.wire((part, "dc"), (f"{part}-isolator", "line"), DC, part)
        b.wire((f"{part}-isolator", "load"), (u, f"array {tracker}"), DC, part)
        b.sources.append(Source(ARRAY, part, (part, "dc"), u))


def _bonds(b: _Builder, unit: Unit) -> str | None:
    """The bond that the unit or a hand makes; returns the id of the unit's bond relay if it has one."""
    u, word = unit.id, b.words["bond"]
    place = b.job.wiring.bond_place
    if place == "unit relay" and b.job.hybrid_of(unit).bond_relay:
        relay = f"{u}-bond-relay"
        b.add(Part(relay, "relay", "Bond relay", ("n",), (), ON_OFF, automatic=True, decided_by="wiring/bond_place"))
        b.bonds.append(Bond(f"{u}-bond", (u, "backup"), f"{word} by the unit's relay", relay))
        return relay
    if place == "essential board":
        b.bonds.append(
            Bond(f"{u}-bond", (f"{u}-essential", "in"), f"{word} linked in the {b.words['essential_board']}")
        )
    return None


def _essential_board(b: _Builder, unit: Unit) -> None:
    job, u = b.job, unit.id
    pair = (unit.phase, NEUTRAL)
    feed: Terminal = (u, "backup")
    if job.wiring.bypass:
        bypass = f"{u}-bypass"
        b.switch(
            f"{u}-bypass-feed", "breaker", f"Bypass {b.words['protective_device']}", pair, decided_by="wiring/bypass"
        )
        b.add(
            Part(
                bypass,
                "bypass",
                b.words["bypass"].capitalize(),
                ("unit", "grid", "out"),
                (Contact("unit", "out", pair, ("unit",)), Contact("grid", "out", pair, ("grid",))),
                BYPASS_POSITIONS,
                decided_by="wiring/bypass",
                caution="bypass",
            )
        )
        b.wire(("block", "out"), (f"{u}-bypass-feed", "line"), pair)
        b.wire((f"{u}-bypass-feed", "load"), (bypass, "grid"), pair, f"{u}-bypass-feed")
        b.wire(feed, (bypass, "unit"), pair, f"{u}-backup")
        feed = (bypass, "out")
    if job.wiring.essential_rcd:
        rcd = f"{u}-rcd"
        b.switch(rcd, "rcd", b.words["residual_current_device"], pair, decided_by="wiring/essential_rcd")
        b.wire(feed, (rcd, "line"), pair, f"{u}-backup")
        feed = (rcd, "load")
    circuits = tuple(c for c in job.with_role(Role.HELD, Role.SHED) if c.phase == unit.phase)
    _board_with(b, f"{u}-essential", b.words["essential_board"].capitalize(), circuits)
    b.wire(feed, (f"{u}-essential", "in"), pair, f"{u}-backup")
