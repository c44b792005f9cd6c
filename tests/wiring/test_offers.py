"""What can be adjusted at each place of each kind: every offer that is made can be taken, and does what it
says."""

import pytest

from lodestaff.job import edit
from lodestaff.templates import KINDS, compose
from lodestaff.topology import answer, build, standard_states
from lodestaff.topology.settle import State
from lodestaff.wiring import offers


@pytest.fixture(scope="module", params=["A", "E", "F", "K", "P"])
def job(request):
    return compose(KINDS[request.param].wanted)


def test_every_offer_can_be_taken_and_finds_its_place(job):
    topology = build(job)
    tried = 0
    for name in [*topology.parts, *(one.id for one in topology.conductors)]:
        for one in offers(job, topology, name):
            changed = edit(job, *one.changes)
            made = build(changed)
            assert made.orphans == (), one.words
            assert all(answer(made, state).settled.at_rest for state in standard_states(made)[:2])
            tried += 1
    assert tried > 20


def test_an_insertion_stands_in_the_conductor_it_was_put_into(job):
    topology = build(job)
    conductor = next(one for one in topology.conductors if one.run and "DC+" not in one.cores)
    offer = next(one for one in offers(job, topology, conductor.id) if "an isolator" in one.words)
    made = build(edit(job, *offer.changes))
    new = next(name for name in made.parts if name not in topology.parts)
    assert {one.a for one in made.conductors if one.b == (new, "line")} == {conductor.a}
    assert {one.b for one in made.conductors if one.a == (new, "load")} == {conductor.b}
    opened = answer(made, State("opened").with_hand(new, "open"))
    assert opened.positions[new] == "open"


def test_an_adjustment_can_be_taken_out_where_it_stands(job):
    topology = build(job)
    for adjustment in job.adjustments:
        if adjustment.kind == "insert":
            found = [one for one in offers(job, topology, adjustment.id) if one.words.startswith("Take out")]
            assert len(found) == 1
            assert adjustment.id not in build(edit(job, *found[0].changes)).parts


def test_direct_current_takes_isolators_only(job):
    topology = build(job)
    dc = [one for one in topology.conductors if "DC+" in one.cores]
    for one in dc:
        words = [offer.words for offer in offers(job, topology, one.id)]
        assert all("isolator" in word for word in words), words


def test_an_earth_conductor_takes_nothing():
    job = compose(KINDS["C"].wanted)
    topology = build(job)
    earth = next(one for one in topology.conductors if "PE" in one.cores)
    assert offers(job, topology, earth.id) == ()
