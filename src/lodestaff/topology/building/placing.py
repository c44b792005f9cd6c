"""Devices between sources, generators, electrodes, rapid shutdown, transformers: each kind of part placed
in its way."""

from collections.abc import Callable
from typing import Any

from lodestaff.job import Unit
from lodestaff.job.address import address
from lodestaff.job.plan import (
    Board,
    Combiner,
    Contactor,
    Electrode,
    Gateway,
    Generator,
    OwnSun,
    Shutdown,
    Throw,
)
from lodestaff.job.plan_fits import feeds_of
from lodestaff.quantities.convention import plain
from lodestaff.topology.building.builder import ON_OFF, OUTPUTS, Builder, Outlet, Wanted
from lodestaff.topology.building.distribution import place_board
from lodestaff.topology.model import (
    ARRAY,
    DC,
    EARTH,
    GENERATOR,
    NEUTRAL,
    Automatic,
    Bond,
    Contact,
    Kind,
    Orphan,
    Part,
    Source,
)


def place_gateway(b: Builder, gateway: Gateway) -> None:
    cores, g, origin = b.cores(gateway.id), gateway.id, f"parts/{gateway.id}"
    poles = cores if gateway.neutral_switched else tuple(core for core in cores if core != NEUTRAL)
    contacts = [Contact("line", "load", poles, ("closed",))]
    if not gateway.neutral_switched:
        contacts.append(Contact("line", "load", (NEUTRAL,)))
    b.add(
        Part(
            g,
            "gateway",
            name=gateway.name,
            ports=("line", "load", "earth"),
            contacts=tuple(contacts),
            positions=ON_OFF,
            automatic=True,
            rating=f"{plain(gateway.rated_a)} A",
            decided_by=origin,
            rated_a=gateway.rated_a,
        )
    )
    b.outlets[g] = Outlet((g, "load"), True)
    b.automatics.append(Automatic(g, "gateway", ((g, "line"),)))
    title = f"{gateway.name} {b.words['protective_device']}"
    b.feeds.append(
        Wanted(
            gateway.fed_from,
            (g, "line"),
            cores=cores,
            device=f"{g}-feed",
            device_name=title,
            run=b.run(f"{g}-feed", "feed", g),
            decided_by=origin,
        )
    )
    word = b.words["bond"]
    if gateway.bond == "relay":
        relay = f"{g}-bond-relay"
        b.add(
            Part(
                relay,
                "relay",
                name="Bond relay",
                ports=("n",),
                contacts=(),
                positions=ON_OFF,
                automatic=True,
                decided_by=origin,
            )
        )
        b.bonds.append(Bond(f"{g}-bond", (g, "load"), f"{word} by the relay of {gateway.name}", relay))
        b.automatics.append(Automatic(relay, "relay", ((g, "load"),), owner=g))
    elif gateway.bond == "link":
        b.bonds.append(Bond(f"{g}-bond", (g, "load"), f"{word} linked in {gateway.name}"))


def _position(b: Builder, feed: str) -> str:
    """What a throw's position is called: after what it takes its feed from."""
    id, port = address(feed)
    if port in OUTPUTS:
        return "unit"
    for _ in range(20):  # up to what feeds it
        part = b.placed(id)
        kind = getattr(part, "kind", "")
        if kind in ("generator", "gateway"):
            return "generator" if kind == "generator" else "unit"
        if isinstance(part, Unit):
            return "unit"
        feeds = feeds_of(part) if part is not None else ()  # type: ignore[arg-type]
        if not feeds:
            break
        id, port = address(feeds[0])
        if port in OUTPUTS:
            return "unit"
    return "grid" if b.job.mains.grid else "unit"


def place_throw(b: Builder, throw: Throw) -> None:
    cores, t, origin = b.cores(throw.id), throw.id, f"parts/{throw.id}"
    feeds = (throw.first, throw.second)
    first, other = (_position(b, feed) for feed in feeds)
    if first == other:
        first, other = "first", "second"
    poles = cores if throw.neutral == "with neutral" else tuple(core for core in cores if core != NEUTRAL)
    passed = tuple(core for core in cores if core not in poles)
    kept = [Contact(port, "out", passed) for port in (first, other)] if passed else []
    kinds: dict[str, Kind] = {"bypass": "bypass", "interlock": "interlock", "transfer": "throw"}
    kind = kinds[throw.use]
    caution = "interlock" if throw.use == "interlock" else "bypass"
    if throw.interlocked:
        contacts = [Contact(port, "out", poles, (port,)) for port in (first, other)]
        positions = (first, "off", other) if throw.middle_off else (first, other)
        b.add(
            Part(
                t,
                kind,
                name=throw.name,
                ports=(first, other, "out", "earth"),
                contacts=(*contacts, *kept),
                positions=positions,
                automatic=throw.automatic,
                rating=f"{plain(throw.rated_a)} A",
                decided_by=origin,
                caution=caution,
                rated_a=throw.rated_a,
            )
        )
    else:
        contacts = [Contact(port, "out", poles, ("closed",), f"{t}-{port}") for port in (first, other)]
        b.add(
            Part(
                t,
                kind,
                throw.name,
                (first, other, "out", "earth"),
                (*contacts, *kept),
                decided_by=origin,
                rating=f"{plain(throw.rated_a)} A, no interlock",
                caution=caution,
                rated_a=throw.rated_a,
            )
        )
        for port, positions in ((first, ("closed", "open")), (other, ("open", "closed"))):
            b.add(
                Part(
                    f"{t}-{port}",
                    "breaker",
                    name=f"{throw.name}, {port}",
                    ports=(),
                    contacts=(),
                    positions=positions,
                    decided_by=origin,
                )
            )
    if throw.automatic and throw.interlocked:
        b.automatics.append(Automatic(t, "first live", ((t, first), (t, other)), (first, other)))
    b.outlets[t] = Outlet((t, "out"), False)
    word = b.words["protective_device"]
    short = "Bypass" if throw.use == "bypass" else throw.name
    b.feeds.append(
        Wanted(
            throw.first,
            (t, first),
            cores=cores,
            device=f"{t}-first-feed",
            device_name=f"{throw.name} {word} {first}",
            run=b.run(f"{t}-first-feed", "first feed", t),
            decided_by=origin,
        )
    )
    b.feeds.append(
        Wanted(
            throw.second,
            (t, other),
            cores=cores,
            device=f"{t}-feed",
            device_name=f"{short} {word}",
            run=b.run(f"{t}-feed", "feed", t),
            decided_by=origin,
        )
    )


def place_contactor(b: Builder, contactor: Contactor) -> None:
    cores, c, origin = b.cores(contactor.id), contactor.id, f"parts/{contactor.id}"
    b.add(
        Part(
            c,
            "contactor",
            name=contactor.name,
            ports=("line", "load"),
            contacts=(Contact("line", "load", cores, ("closed",)),),
            positions=ON_OFF,
            automatic=True,
            rating=contactor.closes,
            decided_by=origin,
            rated_a=contactor.rated_a,
        )
    )
    b.automatics.append(Automatic(c, contactor.closes, ((c, "line"),)))
    b.outlets[c] = Outlet((c, "load"), False)
    title = f"{contactor.name} {b.words['protective_device']}"
    b.feeds.append(
        Wanted(
            contactor.fed_from,
            (c, "line"),
            cores=cores,
            device=f"{c}-feed",
            device_name=title,
            run=b.run(f"{c}-feed", "feed", c),
            decided_by=origin,
        )
    )


def place_generator(b: Builder, generator: Generator) -> None:
    cores, g, origin = b.cores(generator.id), generator.id, f"parts/{generator.id}"
    b.add(
        Part(
            g,
            "generator",
            name=generator.name,
            ports=("ac", "earth"),
            contacts=(),
            positions=("stopped", "running"),
            rating=f"{plain(generator.rated_kva)} kVA" + (", two-wire" if generator.started_by else ""),
            decided_by=origin,
            caution="generator",
        )
    )
    b.sources.append(Source(GENERATOR, g, (g, "ac")))
    isolator = f"{g}-isolator"
    b.switch(
        isolator,
        "isolator",
        f"{generator.name} {b.words['isolator']}",
        cores,
        decided_by=origin,
        way="generator",
    )
    b.wire((g, "ac"), (isolator, "line"), cores, b.run(f"{g}-run", "generator", g))
    b.outlets[g] = Outlet((isolator, "load"), False)
    for feed in generator.feeds:
        unit, port = address(feed)
        b.feeds.append(
            Wanted(
                g,
                (unit, port or "in"),
                b.cores(unit),
                run=b.run(f"{g}-run", "generator", g),
                decided_by=origin,
            )
        )
    if generator.bonded:
        b.bonds.append(
            Bond(
                f"{g}-bond",
                (g, "ac"),
                f"{b.words['bond']} in the {generator.name[0].lower()}{generator.name[1:]}",
            )
        )


def place_combiner(b: Builder, combiner: Combiner) -> None:
    """A bus that several outputs join."""
    cores, c, origin = b.cores(combiner.id), combiner.id, f"parts/{combiner.id}"
    ports = tuple(f"in {number}" for number in range(1, len(combiner.feeds) + 1))
    b.add(
        Part(
            c,
            "block",
            combiner.name,
            (*ports, "out"),
            tuple(Contact(port, "out", cores) for port in ports),
            decided_by=origin,
        )
    )
    b.outlets[c] = Outlet((c, "out"), True)
    for feed, port in zip(combiner.feeds, ports, strict=True):
        b.feeds.append(
            Wanted(
                feed,
                (c, port),
                cores=cores,
                device=f"{c}-{port[3:]}-feed",
                device_name=f"{combiner.name} {port}",
                run=b.run(f"{c}-feed", "feed", c),
                decided_by=origin,
            )
        )


def place_electrode(b: Builder, electrode: Electrode) -> None:
    part = address(electrode.at).part
    b.add(
        Part(
            electrode.id,
            "electrode",
            electrode.name,
            ("in",),
            decided_by=f"parts/{electrode.id}",
            rating=f"{plain(electrode.ohm.value)} Ω" if electrode.ohm.value else "",
        )
    )
    if part in b.parts or b.placed(part) is not None:
        b.wire((part, "earth"), (electrode.id, "in"), (EARTH,))
    else:
        b.orphans.append(Orphan(electrode.id, "electrode", f"{electrode.at} is not there"))


def place_shutdown(b: Builder, shutdown: Shutdown) -> None:
    """The transmitter behind the one switch of the system."""
    s, origin = shutdown.id, f"parts/{shutdown.id}"
    cores = b.cores(shutdown.fed_from)
    pair = (cores[0], NEUTRAL)
    switch = f"{s}-switch"
    b.switch(switch, "isolator", f"{shutdown.name} switch", pair, decided_by=origin)
    b.add(Part(s, "transmitter", shutdown.name, ("in",), decided_by=origin))
    b.wire((switch, "load"), (s, "in"), pair, b.run(f"{s}-feed", "feed", s))
    b.feeds.append(
        Wanted(
            shutdown.fed_from,
            (switch, "line"),
            cores=pair,
            device=f"{s}-feed",
            device_name=f"{shutdown.name} feed",
            run=b.run(f"{s}-feed", "feed", s),
            decided_by=origin,
        )
    )


def place_own_sun(b: Builder, own: OwnSun) -> None:
    b.add(
        Part(
            own.id,
            "array",
            f"{own.name}, {own.modules} modules",
            ("dc",),
            decided_by=f"parts/{own.id}",
            caution="live_in_daylight",
        )
    )
    isolator = f"{own.id}-isolator"
    b.switch(
        isolator,
        "isolator",
        f"DC {b.words['isolator']} {own.name}",
        DC,
        decided_by=f"parts/{own.id}",
        way="array",
    )
    b.wire((own.id, "dc"), (isolator, "line"), DC, b.run(own.id, "array", own.id))
    b.wire((isolator, "load"), (f"circuit-{own.circuit}", "sun"), DC, own.id)
    b.sources.append(Source(ARRAY, own.id, (own.id, "dc")))


PLACERS: dict[type, Callable[[Builder, Any], None]] = {
    Board: place_board,
    Gateway: place_gateway,
    Throw: place_throw,
    Contactor: place_contactor,
    Combiner: place_combiner,
    Generator: place_generator,
    Electrode: place_electrode,
    Shutdown: place_shutdown,
    OwnSun: place_own_sun,
}
