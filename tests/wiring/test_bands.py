"""Three bands: what brings sun stands above, what stores below, and the supply leads to the loads between."""

import pytest

from lodestaff.job import load_job
from lodestaff.reckoning import Reckoner
from lodestaff.samples import sample_names, sample_path
from lodestaff.topology.model import DC
from lodestaff.wiring import lay_out
from lodestaff.wiring.bands import banded


def leads(topology, kind):
    """Parts that lead from what is of this kind to one unit on DC, by unit; themselves included."""
    found = {}
    for part in (part for part in topology.parts.values() if part.kind == kind):
        way, after = [part.id], [c for c in topology.conductors if c.a[0] == part.id]
        while after and topology.parts[after[0].b[0]].kind != "unit":
            way.append(after[0].b[0])
            after = [c for c in topology.conductors if c.a[0] == way[-1]]
        if len(after) == 1 and topology.parts[after[0].b[0]].contacts is not None:
            found.setdefault(after[0].b[0], []).extend(way)
    return found


@pytest.fixture(scope="module", params=sample_names())
def topology(request):
    job = load_job(sample_path(request.param))
    return Reckoner().wiring(job).topology


def test_sun_stands_above_and_storage_below(topology):
    """Of each unit; of a single one above and below all else in their columns as well."""
    boxes = lay_out(topology).boxes
    sun, stored = leads(topology, "array"), leads(topology, "battery")
    units = {part.id for part in topology.parts.values() if part.kind == "unit"}
    for unit in units & set(sun) & set(stored):
        for name in sun[unit]:
            beside = [other for other in stored[unit] if boxes[other].layer == boxes[name].layer]
            assert all(boxes[name].middle < boxes[other].middle for other in beside)
    if len(units) == 1:
        aside = {name for ways in (*sun.values(), *stored.values()) for name in ways}
        for way, sign in ((sun, 1), (stored, -1)):
            for name in (name for names in way.values() for name in names):
                here = [box for box in boxes.values() if box.layer == boxes[name].layer]
                others = [box for box in here if box.part.id not in aside]
                assert all(sign * (box.middle - boxes[name].middle) > 0 for box in others)


def test_nothing_is_lost_and_the_rest_keeps_its_order(topology):
    """Every part is placed once, and what isn't a lead stands in the order that it had."""

    class Node:
        def __init__(self, kind):
            self.kind, self.above, self.below = kind, [], []

    nodes = {part.id: Node(part.kind) for part in topology.parts.values()}
    for conductor in topology.conductors:
        nodes[conductor.a[0]].below.append(conductor.b[0])
        nodes[conductor.b[0]].above.append(conductor.a[0])
    before = {0: list(nodes)}
    after = banded(before, nodes)
    assert sorted(after[0]) == sorted(before[0])
    aside = {name for kind in ("array", "battery") for way in leads(topology, kind).values() for name in way}
    assert [n for n in after[0] if n not in aside] == [n for n in before[0] if n not in aside]


def test_leads_are_on_direct_current(topology):
    """What the drawing sets aside carries no AC: a lead to a unit begins at an array or at a battery."""
    aside = {name for kind in ("array", "battery") for way in leads(topology, kind).values() for name in way}
    for conductor in topology.conductors:
        if conductor.a[0] in aside:
            assert set(conductor.cores) <= set(DC) | {"PE"}
