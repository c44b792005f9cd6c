"""From decisions to graph: what stands in the job is spelled out, adjusted by hand, then wired part by
part."""

from lodestaff.job import Job
from lodestaff.topology.building.adjust import adjusted, inserted
from lodestaff.topology.building.builder import Builder
from lodestaff.topology.building.converters import place_unit
from lodestaff.topology.building.distribution import place_circuits, place_supply
from lodestaff.topology.building.naming import tell_apart
from lodestaff.topology.building.normalised import Plan, normalised
from lodestaff.topology.building.placing import PLACERS
from lodestaff.topology.building.transforming import place_transformers
from lodestaff.topology.model import Topology

__all__ = ["Plan", "build", "normalised"]


def build(job: Job) -> Topology:
    """The graph of a job's decisions, adjustments replayed; what has lost its place is an orphan."""
    plan, orphans = adjusted(job, normalised(job))
    b = Builder(job, plan)
    b.orphans += orphans
    place_supply(b)
    for unit in plan.units:
        place_unit(b, unit)
    for part in plan.parts:
        PLACERS.get(type(part), _nothing)(b, part)
    b.wire_feeds()
    place_circuits(b)
    inserted(b, job)
    place_transformers(b)
    tell_apart(b)
    return b.done()


def _nothing(b: Builder, part: object) -> None:
    """Parts that are placed later."""
