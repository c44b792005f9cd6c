"""Ways to stand it all, side by side: cable, drop, money, hours, and what the checks say of each."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from lodestaff.checks import Finding
from lodestaff.job import Change, Job, edit
from lodestaff.job.found import Choice
from lodestaff.job.walls import Arrangement
from lodestaff.places import bodies
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.going import may_go_on
from lodestaff.reckoning.cabling import with_cables
from lodestaff.reckoning.containing import contained
from lodestaff.reckoning.costing import design_cost
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.lengths import Length, lengths
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.visiting import tasks_of
from lodestaff.shelf.prices import PriceBook
from lodestaff.visits import Library

ABOUT = "Where things stand"
AS_IT_IS = ""  # the id of what stands now
OF_PLACE = ("STO-PLACE", "STO-TEMP", "WIRE-ISO", "WIRE-DROP", "WIRE-AMP", "WIRE-FILL", "WIRE-RCD", "STO-DC")
STATIONS = frozenset(("storage", "place", "wire"))


@dataclass(frozen=True)
class Stands:
    """One way to stand it all with what it comes to; `left` are parts without a place, `apart` runs whose
    ends have places that nothing joins."""

    id: str
    name: str
    cable_m: float
    ways: tuple[Length, ...]
    drop_pct: float | None
    drop_of: str
    money: float
    currency: str
    open_prices: tuple[str, ...]
    hours: float  # hours of hands
    dark_h: float  # without power for the building
    findings: tuple[Finding, ...]
    left: tuple[str, ...]

    def told(self, status: str) -> tuple[Finding, ...]:
        """Findings of places and cables by their status."""
        return tuple(finding for finding in self.findings if finding.status == status)


@dataclass(frozen=True)
class Compared:
    """All of them; the first is how it stands now, where that is none of those that were kept."""

    ways: tuple[Stands, ...]
    now: str  # the id of the way that stands now


def keep(job: Job, name: str) -> Change:
    """How things stand now, kept under a name; one of that name is replaced."""
    taken = {arrangement.id for arrangement in job.arrangements}
    before = next((arrangement for arrangement in job.arrangements if arrangement.name == name), None)
    id = before.id if before else next(n for k in range(1, 99) if (n := f"places-{k}") not in taken)
    made = Arrangement(id=id, name=name, standing=job.standing, courses=job.courses)
    rows = [made if arrangement is before else arrangement for arrangement in job.arrangements]
    rows += [] if before is not None else [made]
    return Change("arrangements", [arrangement.model_dump(mode="json") for arrangement in rows])


def stood(arrangement: Arrangement) -> tuple[Change, ...]:
    """The edit that puts everything as an arrangement has it."""
    return (
        Change("standing", [each.model_dump(mode="json") for each in arrangement.standing]),
        Change("courses", [each.model_dump(mode="json") for each in arrangement.courses]),
    )


def compared(reckoner: Reckoner, job: Job, book: PriceBook, library: Library | None = None) -> Compared:
    """Everything that was kept, and how it stands now, each with the cables that its ways ask for."""
    now = next(
        (
            arrangement.id
            for arrangement in job.arrangements
            if (arrangement.standing, arrangement.courses) == (job.standing, job.courses)
        ),
        AS_IT_IS,
    )
    here = Arrangement(id="now", name="As it stands now", standing=job.standing, courses=job.courses)
    rows: list[tuple[str, Arrangement]] = [(arrangement.id, arrangement) for arrangement in job.arrangements]
    if now == AS_IT_IS:
        rows.insert(0, (AS_IT_IS, here))
    ways = []
    for id, arrangement in rows:
        may_go_on()
        ways.append(_stands(reckoner, job, arrangement, id=id, book=book, library=library))
    return Compared(tuple(ways), now)


def _stands(
    reckoner: Reckoner,
    job: Job,
    arrangement: Arrangement,
    *,
    id: str,
    book: PriceBook,
    library: Library | None,
) -> Stands:
    there = cabled(reckoner, edit(job, *stood(arrangement)))
    may_go_on()
    topology = reckoner.wiring(there).topology
    ways = lengths(reckoner, there)
    tasks = tasks_of(reckoner, there, library)
    cost = design_cost(reckoner, there, book)
    may_go_on()
    said = findings(reckoner, there, deep=False, stations=STATIONS)
    drop = max(_drops(said), key=lambda each: each[0], default=(None, ""))
    return Stands(
        id=id,
        name=arrangement.name,
        cable_m=round(sum(way.length_m for way in ways), 2),
        ways=ways,
        drop_pct=drop[0],
        drop_of=drop[1],
        money=cost.net,
        currency=cost.currency,
        open_prices=cost.open,
        hours=round(sum(task.hours * task.people for task in tasks), 2),
        dark_h=round(sum(task.hours for task in tasks if task.building), 2),
        findings=tuple(each for each in said if each.code in OF_PLACE),
        left=tuple(body.name for body in bodies(there, topology) if body.standing is None),
    )


def cabled(reckoner: Reckoner, job: Job) -> Job:
    """The job with the cables that its ways ask for: those that were only assumed are proposed anew, typed
    ones stay; then the conduits that they lie in."""
    follow = {way.run for way in lengths(reckoner, job) if not way.typed}
    kept = [cable.model_dump(mode="json") for cable in job.cables if cable.id not in follow]
    there = with_cables(reckoner, edit(job, Change("cables", kept)))
    changes = contained(reckoner, there)
    return edit(there, *changes) if changes else there


def _drops(said: Iterable[Finding]) -> Iterable[tuple[float, str]]:
    """What is dropped from the origin, percent, and of what."""
    for finding in said:
        if (
            finding.code == "WIRE-DROP"
            and finding.figure is not None
            and finding.quantity.endswith("from the origin")
        ):
            value = finding.figure.value
            if isinstance(value, float):
                yield value, finding.figure.name


def as_chosen(job: Job, comparison: Compared, chosen: str, *, why: str, by: str, date: str) -> Choice:
    """A record of what was offered and which of it the customer chose."""
    taken = {choice.id for choice in job.choices}
    number = next(n for n in range(1, 1000) if f"places-{n}" not in taken)
    best = _advised(comparison.ways)
    return Choice(
        id=f"places-{number}",
        about=ABOUT,
        offered="; ".join(_offer(way) for way in comparison.ways)[:400],
        advised=best.name if best is not None else "",
        chosen=next(way.name for way in comparison.ways if way.id == chosen),
        why=why,
        by=by,
        date=date,
    )


def _offer(way: Stands) -> str:
    blocks = len(way.told("blocks"))
    bad = f", {blocks} that block" if blocks else ""
    return f"{way.name}: {text_of(way.cable_m, 'm')} of cable, {plain(way.hours, 1)} h of hands{bad}"


def _advised(ways: Sequence[Stands]) -> Stands | None:
    """The one with the fewest findings that block, then warn, then the least cable; none where all leave
    parts without a place."""
    whole = [way for way in ways if not way.left]
    return min(
        whole, key=lambda way: (len(way.told("blocks")), len(way.told("warns")), way.cable_m), default=None
    )
