"""How a site is left, by its graph: nothing is said of what isn't there, nobody is left without power.

What stays live where is a fact of the trade (modules in daylight, a battery at its terminals): common
practice, no source.
"""

import pytest

from lodestaff.catalogue.families import sealed
from lodestaff.job import Change, edit
from lodestaff.reckoning.visiting import tasks_of
from lodestaff.samples import sample_names
from lodestaff.topology import State, answer
from lodestaff.visits import evening, same_day
from lodestaff.visits.evening import AS_BEFORE, NEW, NO_GRID_YET, _Site

EVERY = sample_names()


@pytest.mark.parametrize("name", EVERY)
def test_with_all_done_nothing_is_left_and_everybody_has_power(name, jobs, tasks, reckoner):
    job, ids = jobs[name], [task.id for task in tasks[name]]
    found = evening(job, reckoner.wiring(job).topology, ids, ids)
    assert (found.feeds, found.dark, found.left) == (NEW, (), ())


@pytest.mark.parametrize("name", EVERY)
def test_with_nothing_done_nothing_is_said_to_be_live(name, jobs, tasks, reckoner):
    job, ids = jobs[name], [task.id for task in tasks[name]]
    found = evening(job, reckoner.wiring(job).topology, (), ids)
    assert (found.feeds, found.left) == (AS_BEFORE if job.mains.grid else NO_GRID_YET, ())


@pytest.mark.parametrize("name", EVERY)
def test_the_night_before_the_supply_says_what_is_live(name, jobs, tasks, reckoner):
    job, ids = jobs[name], [task.id for task in tasks[name]]
    topology = reckoner.wiring(job).topology
    kinds = ("cut-in", "move", "start", "prove", "outage-test", "labels", "hand-over", "dead-tests")
    done = [task.id for task in tasks[name] if task.kind not in kinds]
    found = evening(job, topology, done, ids)
    words = {one.part: one for one in found.left}
    old = {unit.id for unit in job.units if unit.existing}
    for source in topology.sources:
        if source.kind == "array" and source.unit and source.unit not in old:
            said = words[source.part]
            if topology.unit(source.unit).module_level:
                assert "dead on AC" in said.words
            elif source.rests:
                assert "safe voltage" in said.words
            else:
                assert said.words.startswith("live in daylight up to ")
                assert said.safe.startswith("Isolator open and locked")
    for bank in job.banks:
        inside = sealed(job.sheet_of(job.unit(bank.unit)))
        assert ("inside the case" in words[bank.id].words) == inside


def test_modules_first_leaves_open_ends(jobs, reckoner):
    job = edit(jobs["larkmoor"], Change("visits/order", "modules first"))
    ids = [task.id for task in tasks_of(reckoner, job)]
    done = [name for name in ids if name.startswith(("brackets", "modules"))]
    found = evening(job, reckoner.wiring(job).topology, done, ids)
    assert [one.words for one in found.left] == ["live in daylight at its open ends at the array"] * 2
    assert all("cap" in one.safe for one in found.left)


def test_half_an_array_is_live_and_so_is_half_a_battery(jobs, tasks, reckoner):
    """Modules of which a part is on, a stack of which a part stands: a fact of the trade."""
    job, ids = jobs["juniper-draw-ranch"], [task.id for task in tasks["juniper-draw-ranch"]]
    topology = reckoner.wiring(job).topology
    done = [name for name in ids if name.startswith(("brackets", "roof-runs", "unit"))]
    assert evening(job, topology, done, ids).left == ()
    begun = [name for name in ids if name.startswith(("modules", "battery"))]
    left = {one.part: one for one in evening(job, topology, done, ids, begun).left}
    assert {one.kind for one in map(topology.parts.get, left)} == {"array", "battery"}
    assert all("live" in one.words and one.safe for one in left.values())


def test_what_is_not_started_is_open_on_its_ac_side_too(jobs, tasks, reckoner):
    """Branches of microinverters: their feed is open, so that no roof cable is fed by the grid."""
    job, ids = jobs["gannet-point-lodge"], [task.id for task in tasks["gannet-point-lodge"]]
    topology = reckoner.wiring(job).topology
    late = [task.id for task in tasks["gannet-point-lodge"] if task.kind in ("start", "prove", "hand-over")]
    site = _Site(job, topology, frozenset(late), frozenset(late))
    run = next(one for one in topology.conductors if one.b == topology.unit("branch-1").grid)
    assert site.answer.live[run.id] == frozenset()
    assert site.evening().dark == ()
    assert "from the grid" in evening(job, topology, set(ids) - set(late), ids).feeds


def test_a_way_round_carries_the_building_until_the_first_start(jobs, tasks, reckoner):
    """A building behind a unit with a bypass: the bypass is named; the isolators of what isn't started are
    open."""
    job = jobs["old-tannery-house"]
    ids = [task.id for task in tasks["old-tannery-house"]]
    done = [
        task.id for task in tasks["old-tannery-house"] if task.kind not in ("start", "prove", "hand-over")
    ]
    found = evening(job, reckoner.wiring(job).topology, done, ids)
    assert "Manual changeover (bypass)" in found.feeds
    assert found.dark == ()


@pytest.mark.parametrize("name", EVERY)
def test_what_must_be_on_one_day_by_an_answer_of_its_own(name, jobs, tasks, reckoner):
    """Derived: with every unit off and every bypass round it, circuits of a new board that no source reaches
    are those whose move belongs on the day of the first start."""
    job, topology = jobs[name], reckoner.wiring(jobs[name]).topology
    groups = same_day(job, topology, tasks[name])
    hands = {part.id: "off" for part in topology.switches() if part.kind == "unit"
             and not job.unit(part.id).existing}  # fmt: skip
    all_off = len(hands) == len(job.units)
    for part in topology.switches():
        if part.kind in ("bypass", "throw") and all_off:
            hands.update((part.id, one) for one in ("grid", "generator") if one in part.positions)
        if part.kind == "generator" and not job.mains.grid:
            hands[part.id] = "running"
    fed = answer(topology, State("apart", tuple(sorted(hands.items())), grid_present=job.mains.grid)).fed
    for task in tasks[name]:
        if task.kind == "move":
            dark = [c for c in task.dark if not fed[c] and job.circuit(c).role != "surplus only"]
            assert bool(dark) == any(group[0] == task.id for group in groups), (task.id, dark)
    assert all(any(name.startswith("start-") for name in group) for group in groups)
