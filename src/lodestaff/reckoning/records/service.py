"""Records of what must be there besides: outside, at each generator, for the largest load without a grid."""

from collections.abc import Iterator

from lodestaff.checks.finding import soft
from lodestaff.checks.service import GeneratorApart, LargestLoad, OutsideDisconnect, StorageShutdown
from lodestaff.checks.site import planned
from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.topology import Topology

BY_HAND = ("isolator", "breaker", "throw", "bypass", "interlock", "fuse")
CARRIED_ON = ("breaker", "isolator", "fuse", "rcd", "contactor")  # a way goes on through these


@makes
def outside_disconnects(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[OutsideDisconnect]:
    rule = job.pack.values.get("outside_disconnect")
    if rule is not None and rule.value > 0 and job.mains.grid:
        path, words = "site/supply/outside_disconnect", "Plan a disconnect outside"
        fact = job.site.supply.outside_disconnect
        yield OutsideDisconnect(rule, fact, planned(path, "yes", words, "to be fitted"))


@makes
def storage_shutdowns(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[StorageShutdown]:
    rule = job.pack.values.get("storage_shutdown")
    if rule is not None and rule.value > 0 and job.mains.grid and job.banks:
        path, words = "site/supply/storage_shutdown", "Plan a shutdown outside"
        fact = job.site.supply.storage_shutdown
        yield StorageShutdown(rule, fact, planned(path, "yes", words, "to be fitted"))


@makes
def generators_apart(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[GeneratorApart]:
    topology = reckoner.wiring(job).topology
    for part in topology.parts.values():
        if part.kind == "generator":
            rule = job.pack.values.get("generator_disconnect")
            yield GeneratorApart(part.id, part.name, _on_its_way(topology, part.id), rule)


def _on_its_way(topology: Topology, generator: str) -> tuple[str, ...]:
    """The hand-worked devices from a generator on, to the first thing that isn't one."""
    names, seen, waiting = [], {generator}, [generator]
    while waiting:
        here = waiting.pop(0)
        for conductor in topology.conductors:
            ends = (conductor.a[0], conductor.b[0])
            if here not in ends or not set(conductor.cores) & {"L", "L1", "L2", "L3", "A", "B"}:
                continue
            there = topology.parts[ends[1] if ends[0] == here else ends[0]]
            if there.id in seen:
                continue
            seen.add(there.id)
            if there.kind in BY_HAND and there.positions and not there.automatic:
                names.append(there.name)
            if there.kind in CARRIED_ON:
                waiting.append(there.id)
    return tuple(names)


@makes
def largest_loads(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[LargestLoad]:
    rule = job.pack.values.get("standalone_largest_load")
    if rule is None or rule.value <= 0 or job.mains.grid or not job.circuits:
        return
    forming = tuple(
        dict.fromkeys(unit for lead in reckoner.leads(job) for unit in reckoner.backed(job, lead).forming)
    )
    largest = max(job.circuits, key=lambda circuit: circuit.running_w)
    yield LargestLoad(
        rule=rule,
        sources=tuple((unit.name, job.sheet_of(unit).rated_kw) for unit in forming),
        load=largest.name,
        load_kw=largest.running_w / 1000,
        because=soft(**{"the largest load": largest.known}),
    )
