"""Units of every family: what the sheet can do decides which ports, contacts and relays there are."""

from lodestaff.catalogue.families import sealed
from lodestaff.job import Job, Unit
from lodestaff.job.array import array_run
from lodestaff.job.plan import Generator, Shutdown
from lodestaff.job.plan_fits import feeds_of
from lodestaff.quantities.convention import plain
from lodestaff.topology.building.builder import ON_OFF, Builder, Outlet, Wanted
from lodestaff.topology.model import (
    ARRAY,
    BATTERY,
    DC,
    NEUTRAL,
    Automatic,
    Bond,
    Contact,
    Part,
    Source,
    Terminal,
    UnitPorts,
    mode_key,
)


def place_unit(b: Builder, unit: Unit) -> None:
    job, sheet, u = b.job, b.job.sheet_of(unit), unit.id
    cores = (*unit.legs, NEUTRAL)
    grid: Terminal = (u, "grid" if sheet.transfer else "ac")
    out: Terminal = (u, "backup") if sheet.transfer else grid
    ports = [grid[1]] + (["backup"] if sheet.transfer else [])
    contacts: list[Contact] = []
    if sheet.transfer:
        poles = cores if sheet.neutral_switched else unit.legs
        contacts.append(Contact("grid", "backup", poles, ("grid",), mode_key(u)))
        if not sheet.neutral_switched:
            contacts.append(Contact("grid", "backup", (NEUTRAL,)))
    generator = _generator_port(b, u)
    if generator:
        poles = cores if sheet.neutral_switched else unit.legs
        ports.append("generator")
        contacts.append(Contact("generator", "backup", poles, ("generator",), mode_key(u)))
        if not sheet.neutral_switched:
            contacts.append(Contact("generator", "backup", (NEUTRAL,)))
    bank = job.bank_of(unit)
    trackers = [
        t.name for t in sheet.trackers if any(job.modules_in(s.id) for s in job.strings_on(u, t.name))
    ]
    ports += ["battery"] if bank else []
    ports += [f"array {tracker}" for tracker in trackers]
    b.add(
        Part(
            u,
            "unit",
            name=unit.name,
            ports=(*ports, "earth"),
            contacts=tuple(contacts),
            positions=("on", "off"),
            rating=f"{plain(sheet.rated_kva)} kVA",
            decided_by=f"units/{u}",
            caution="prove_dead",
            rated_a=sheet.pass_through_a if sheet.transfer else None,
        )
    )
    if sheet.transfer:
        b.outlets[f"{u}:backup"] = Outlet(out, False)
    title = f"Unit feed {b.words['protective_device']}" if len(job.units) == 1 else f"{unit.name} feed"
    if unit.fed_from:
        b.feeds.append(
            Wanted(
                unit.fed_from,
                grid,
                cores=cores,
                device=f"{u}-feed",
                device_name=title,
                run=b.run(f"{u}-feed", "feed", u),
                decided_by=f"units/{u}",
                of=u,
            )
        )
    _battery(b, unit)
    _arrays(b, unit, trackers)
    b.units.append(
        UnitPorts(
            u,
            unit.legs,
            grid=grid,
            out=out,
            transfer=sheet.transfer,
            forms=sheet.forms_island,
            group=unit.group,
            bond_relay=_bond(b, unit, out),
            battery=(u, "battery") if bank else None,
            arrays=tuple((u, f"array {tracker}") for tracker in trackers),
            generator=(u, "generator") if generator else None,
            rated_kw=sheet.rated_kw,
            rated_kva=sheet.rated_kva,
            serves=not sheet.transfer or _serves(b, f"{u}:backup"),
            module_level=sheet.module_level,
            sealed=sealed(sheet),
        )
    )


def _generator_port(b: Builder, unit: str) -> bool:
    return any(isinstance(part, Generator) and f"{unit}:generator" in part.feeds for part in b.plan.parts)


def _serves(b: Builder, feed: str) -> bool:
    """Whether anything is fed from an outlet."""
    return any(feed in feeds_of(thing) for thing in (*b.plan.parts, *b.plan.units))


def _bond(b: Builder, unit: Unit, out: Terminal) -> str | None:
    """The bond that the unit makes; the id of its relay where it has one that works."""
    word, u = b.words["bond"], unit.id
    if unit.bond == "relay" and b.job.sheet_of(unit).bond_relay:
        relay = f"{u}-bond-relay"
        b.add(
            Part(
                relay,
                "relay",
                name=_of(b, "Bond relay", unit),
                ports=("n",),
                contacts=(),
                positions=ON_OFF,
                automatic=True,
                decided_by="wiring/bond_place",
            )
        )
        b.bonds.append(
            Bond(
                f"{u}-bond",
                out,
                f"{word} by the unit's relay"
                if len(b.job.units) == 1
                else f"{word} by the relay of {unit.name}",
                relay,
            )
        )
        b.automatics.append(Automatic(relay, "relay", (), owner=u))
        return relay
    if unit.bond == "link":
        b.bonds.append(Bond(f"{u}-bond", out, f"{word} linked in {unit.name}"))
    return None


def _of(b: Builder, name: str, unit: Unit, always: bool = False) -> str:
    """A part's name, with its unit where several units have such a part."""
    return f"{name} of {unit.name}" if always or len(b.job.units) > 1 else name


def _battery(b: Builder, unit: Unit) -> None:
    bank, u = b.job.bank_of(unit), unit.id
    if bank is None:
        return
    count = f"{bank.modules} modules" if bank.modules > 1 else "1 module"
    origin, word = f"banks/{bank.id}", b.words["isolator"]
    if sealed(b.job.sheet_of(unit)):  # inside the case: nothing that a hand reaches
        b.add(
            Part(
                bank.id,
                "battery",
                _of(b, "Cells", unit, True),
                ("dc",),
                decided_by=origin,
                caution="sealed_battery",
                way="battery",
                of=u,
            )
        )
        b.wire((bank.id, "dc"), (u, "battery"), DC)
    else:
        name = f"{_of(b, 'Battery', unit)}, {count}"
        b.add(
            Part(bank.id, "battery", name, ("dc",), decided_by=origin, caution="battery", way="battery", of=u)
        )
        b.switch(
            f"{bank.id}-isolator",
            "isolator",
            _of(b, f"Battery {word}", unit),
            DC,
            decided_by=origin,
            way="battery",
            of=u,
        )
        run = b.run(f"{bank.id}-run", "battery", u)
        b.wire((bank.id, "dc"), (f"{bank.id}-isolator", "line"), DC, run)
        b.wire((f"{bank.id}-isolator", "load"), (u, "battery"), DC, run)
    b.sources.append(Source(BATTERY, bank.id, (bank.id, "dc"), u))


def _arrays(b: Builder, unit: Unit, trackers: list[str]) -> None:
    """The array of each tracker down to the unit, past its shutdown and its isolator."""
    job, u, sheet = b.job, unit.id, b.job.sheet_of(unit)
    for tracker in trackers:
        strings = job.strings_on(u, tracker)
        faces = [part for string in strings for part in job.modules_in(string.id)]
        part = array_run(u, tracker)
        places = dict.fromkeys(face.name for face, _ in faces)
        name = f"{' + '.join(places)}, {sum(count for _, count in faces)} modules"
        origin, word = f"strings/{strings[0].id}", f"DC {b.words['isolator']}"
        caution = "module_units" if sheet.module_level else "live_in_daylight"
        b.add(Part(part, "array", name, ("dc",), decided_by=origin, caution=caution, way="array", of=u))
        run = b.run(part, "array", u)
        rests = sheet.module_level or all(
            job.optimisers_on(string) == "all" for string in strings if job.modules_in(string.id)
        )
        b.sources.append(Source(ARRAY, part, (part, "dc"), u, rests))
        head: Terminal = (part, "dc")
        if transmitter := _shutdown_of(job, u, b):
            stop = f"{part}-shutdown"
            b.add(
                Part(
                    stop,
                    "shutdown",
                    name=_of(b, f"Module shutdown {tracker}", unit),
                    ports=("line", "load"),
                    contacts=(Contact("line", "load", DC, ("closed",)),),
                    positions=ON_OFF,
                    automatic=True,
                    decided_by=f"parts/{transmitter}",
                    way="array",
                    of=u,
                )
            )
            b.automatics.append(Automatic(stop, "while transmitting", ((transmitter, "in"),)))
            b.wire(head, (stop, "line"), DC, run)
            head = (stop, "load")
        if not sheet.module_level:
            isolator = f"{part}-isolator"
            b.switch(
                isolator,
                "isolator",
                _of(b, f"{word} {tracker}", unit),
                DC,
                decided_by=origin,
                way="array",
                of=u,
            )
            b.wire(head, (isolator, "line"), DC, run)
            head = (isolator, "load")
        b.wire(head, (u, f"array {tracker}"), DC, run)


def _shutdown_of(job: Job, unit: str, b: Builder) -> str | None:
    return next((part.id for part in b.plan.parts if isinstance(part, Shutdown) and unit in part.units), None)
