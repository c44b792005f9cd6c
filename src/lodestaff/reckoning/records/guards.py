"""Residual-current devices and meters that stand as parts of the graph."""

from collections.abc import Iterator
from typing import Any

from lodestaff.checks.finding import cure
from lodestaff.checks.guards import CountingMeter, FedBehind, RcdPairs
from lodestaff.job import Fact, Job
from lodestaff.job.plan import Insert
from lodestaff.reckoning.passing import flowing
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.records.runs import runs
from lodestaff.topology import Part, Topology
from lodestaff.topology.model import Terminal


@makes
def fed_behinds(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[FedBehind]:
    """Those through which any state lets something come back."""
    wiring = reckoner.wiring(job)
    topology = wiring.topology
    back: dict[str, float] = {}
    for _, flow in flowing(reckoner, job):
        for name, through in flow.parts.items():
            if topology.parts[name].kind == "rcd":
                back[name] = max(back.get(name, 0.0), through.source_a)
    cables, decided = {cable.id: cable for cable in job.cables}, dict[str, tuple[Fact[Any], str]]()
    for conductor in topology.conductors:  # a board's own device is that of its feed
        if conductor.b[0] in back and conductor.run in cables:
            path = f"cables/{conductor.run}/rcd_bidirectional"
            decided[conductor.b[0]] = cables[conductor.run].rcd_bidirectional, path
    for adjustment in job.adjustments:
        if isinstance(adjustment, Insert):
            decided[adjustment.id] = (adjustment.bidirectional, f"adjustments/{adjustment.id}/bidirectional")
    for name, amps in back.items():
        if amps <= 0:
            continue
        fact, path = decided.get(name, (Fact[Any](), ""))
        read = {"value": "yes", "known": "read on site"}
        words = f"{topology.parts[name].name}: bidirectional, as read off it"
        yield FedBehind(
            id=name,
            name=topology.parts[name].name,
            source_a=amps,
            sources=_beyond(reckoner, job, name),
            fact=fact,
            cures=cure(words, path, read) if path else (),
        )


def _beyond(reckoner: Reckoner, job: Job, name: str) -> tuple[str, ...]:
    """Units whose way to the supply leads through a part."""
    topology = reckoner.wiring(job).topology
    names = [unit.name for unit in job.units if any(part.id == name for part in _above(topology, unit.id))]
    return tuple(names) or ("sources",)


def _above(topology: Topology, unit: str) -> list[Part]:
    """Parts between a unit's grid side and the supply."""
    into = {conductor.b: conductor for conductor in reversed(topology.conductors)}
    parts: list[Part] = []
    at: Terminal | None = topology.unit(unit).grid
    while at in into and len(parts) < len(topology.parts):
        part = into[at].a[0]
        parts.append(topology.parts[part])
        at = next((terminal for port in ("line", "in", "first") if (terminal := (part, port)) in into), None)
    return parts


@makes
def rcd_pairs(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[RcdPairs]:
    """Devices of runs one behind the other."""
    before = reckoner.wiring(job).before
    fitted = {
        run.id: (run.name, run.cable.rcd_ma)
        for run in runs(reckoner, job, False)
        if run.cable is not None and run.cable.rcd_ma is not None
    }
    pairs = []
    for run, (name, own) in fitted.items():
        ahead = [other for other in before.get(run, ()) if other in fitted]
        if ahead and own is not None:
            other_name, other = fitted[ahead[-1]]
            pairs.append((run, name, own, other_name, other or 0.0))
    yield RcdPairs(tuple(pairs))


@makes
def counting_meters(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[CountingMeter]:
    """Meters that were put into the way of a unit."""
    topology = reckoner.wiring(job).topology
    banked = {bank.unit for bank in job.banks}
    for adjustment in job.adjustments:
        if not isinstance(adjustment, Insert) or adjustment.what != "meter":
            continue
        unit = next(
            (u for u in job.units if any(part.id == adjustment.id for part in _above(topology, u.id))), None
        )
        if unit is not None:
            yield CountingMeter(
                id=adjustment.id,
                name=adjustment.name,
                unit=unit.name,
                stores=unit.id in banked,
                two_way=adjustment.two_way,
                cures=cure(
                    f"{adjustment.name}: a two-way meter", f"adjustments/{adjustment.id}/two_way", True
                ),
            )
