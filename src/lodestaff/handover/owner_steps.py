"""What the owner does by hand: in an outage, when a unit fails, everything off and on; the board's door."""

from collections.abc import Iterable, Iterator

from lodestaff.handover.built_page import photos_of
from lodestaff.handover.model import Block, Caution, Diagram, Page, Table, Text
from lodestaff.job import Job
from lodestaff.register import Register
from lodestaff.topology import Topology
from lodestaff.topology.questions import asked, has_generator
from lodestaff.visits.calls import calls
from lodestaff.wiring.isolation import isolation

BY_HAND = ("throw", "interlock")
GENERATOR = "never run it indoors; fuel only when it is cold. It may start by itself."
STOPS = (
    "Your installation stops with the grid: that is for the safety of those who work on the lines. It starts "
    "again by itself some minutes after the grid is back."
)


def doing_page(job: Job, topology: Topology) -> Page:
    """What to do, step by step, with this site's own switches and their photos."""
    steps = isolation(job, topology)
    blocks: list[Block] = [*_outage(job, topology, True)]
    if has_generator(topology):
        names = ", ".join(part.name for part in topology.parts.values() if part.kind == "generator")
        blocks += [Text("The generator", "head"), Text(f"{names}: {GENERATOR}")]
    blocks += [
        *_bypass(job, topology, True),
        Text("Everything off, in an emergency", "head"),
        _numbered(step.words for step in steps.shutdown),
        *photos_of(job, (step.part for step in steps.shutdown)),
        Text("Start again, only when we have told you to", "head"),
        _numbered(step.words for step in steps.restart),
    ]
    return Page("owner-doing", "What to do", tuple(blocks), part="owner")


def _outage(job: Job, topology: Topology, photos: bool) -> Iterator[Block]:
    """When the grid fails; nothing where there is none."""
    if not job.mains.grid:
        return
    yield Text("In an outage", "head")
    if not asked(topology).has_backup:
        yield Text(STOPS)
        return
    yield _numbered(_in_an_outage(topology))
    if photos:
        yield from photos_of(job, (part.id for part in topology.switches() if part.kind in BY_HAND))


def _bypass(job: Job, topology: Topology, photos: bool) -> Iterator[Block]:
    """When a unit fails; nothing without a bypass."""
    bypass = [part for part in topology.switches() if part.kind == "bypass"]
    if not bypass:
        return
    other = "grid" if job.mains.grid else "generator"
    names = ", ".join(part.name for part in bypass)
    yield Text("If a unit fails and circuits are dark", "head")
    yield _numbered(
        (
            f"Switch the unit off at its own switch, put {names} to off, wait, then to {other}.",
            "Call us. Bypass is not isolation: the unit stays live inside.",
            "Back: the same way, to off, wait, then to unit.",
        )
    )
    if photos:
        yield from photos_of(job, (part.id for part in bypass))


def _in_an_outage(topology: Topology) -> tuple[str, ...]:
    """By itself, or by the switches that a hand must put."""
    hand = [part.name for part in topology.switches() if part.kind in BY_HAND]
    less = "Switch off what you don't need; the battery lasts longer."
    if not hand:
        return (
            "Wait a minute: the installation changes over by itself.",
            less,
            "When the grid is back, do nothing: it goes back by itself.",
        )
    names = ", ".join(hand)
    return (
        f"Put {names} to the unit, only when the grid is really gone.",
        less,
        f"When the grid is back, put {names} back to the grid.",
    )


def _numbered(steps: Iterable[str]) -> Table:
    rows = tuple((str(number), words) for number, words in enumerate(steps, start=1))
    return Table(("", "Step"), rows, (6, 94))


def door_pages(job: Job, topology: Topology, register: Register) -> tuple[Page, ...]:
    """Two pages for the board's door: everything off with whom to call; what to do and how to start again."""
    steps, firm = isolation(job, topology), register.firm
    numbers = [(firm.name, firm.phone)] if firm.name else []
    numbers += [(call.name, call.phone) for call in calls(job) if call.what == "faults"]
    blocks: list[Block] = [
        Diagram(simple=True),
        Text("Everything off", "head"),
        _numbered(step.words for step in steps.shutdown),
    ]
    stays = sorted({words for words, _ in steps.stays_live})
    if stays:
        blocks.append(Caution(f"Still live with everything off: {', '.join(stays)}."))
    blocks.append(Text("Whom to call", "head"))
    if numbers:
        rows = tuple((name, phone or "no number") for name, phone in numbers)
        blocks.append(Table(("Whom", "Number"), rows, (60, 40)))
    missing = () if numbers else ("whom to call: the firm isn't in the register",)
    second: tuple[Block, ...] = (
        *_outage(job, topology, False),
        *_bypass(job, topology, False),
        Text("Start again, only when we have told you to", "head"),
        _numbered(step.words for step in steps.restart),
    )
    return (
        Page("owner-door", "For the board's door: everything off", tuple(blocks), missing, part="owner"),
        Page("owner-door-again", "For the board's door: what to do", second, part="owner"),
    )
