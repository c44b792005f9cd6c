"""Every part brings its work, and nothing is asked for what isn't there. Hours against sums by hand."""

import pytest

from lodestaff.catalogue.families import sealed
from lodestaff.job import Change, edit
from lodestaff.reckoning.visiting import tasks_of
from lodestaff.samples import sample_names
from lodestaff.topology.questions import asked
from lodestaff.visits import Library, OwnHours
from lodestaff.visits.library import learnt
from lodestaff.visits.news import new_parts

EVERY = sample_names()


@pytest.mark.parametrize("name", EVERY)
def test_what_stands_there_and_nothing_else_brings_work(name, jobs, tasks, reckoner):
    job, kinds = jobs[name], [task.kind for task in tasks[name]]
    topology = reckoner.wiring(job).topology
    ids = {task.id for task in tasks[name]}
    fresh = [unit for unit in job.units if not unit.existing]
    plain = [unit for unit in fresh if not job.sheet_of(unit).module_level]
    assert kinds.count("unit") == kinds.count("connect") == len(plain)
    assert kinds.count("start") == len(fresh)
    open_banks = [
        b for b in job.banks if job.unit(b.unit) in fresh and not sealed(job.sheet_of(job.unit(b.unit)))
    ]
    assert kinds.count("battery") == len(open_banks)
    old = {string.id for string in job.strings if job.unit(string.unit).existing}
    faces = [face for face in job.faces if any(one.string not in old for one in face.modules)]
    assert kinds.count("brackets") == len(faces)
    found = asked(topology)
    assert ("outage-test" in ids) == (found.has_backup and job.mains.grid)
    assert kinds.count("generator") == sum(part.kind == "generator" for part in new_parts(job, topology))
    words = " ".join(task.name for task in tasks[name]).lower()
    assert ("trench" in words) == any(passage.way == "trench" for passage in job.passages)
    assert ("electrode" in words) == any(part.kind == "electrode" for part in topology.parts.values())
    assert ("into the supply" in words) == job.mains.grid


@pytest.mark.parametrize("name", EVERY)
def test_the_order_can_be_kept_and_ends_with_handing_over(name, tasks):
    ids = [task.id for task in tasks[name]]
    assert len(set(ids)) == len(ids)
    done: set[str] = set()
    waiting = list(tasks[name])
    while waiting:
        ready = [task for task in waiting if set(task.after) <= done]
        assert ready, [task.id for task in waiting]
        done |= {task.id for task in ready}
        waiting = [task for task in waiting if task.id not in done]
    by_id = {task.id: task for task in tasks[name]}

    def before(task):
        every = set(task.after)
        for one in task.after:
            every |= before(by_id[one])
        return every

    last = before(by_id["hand-over"])
    assert {task.id for task in tasks[name] if task.kind in ("start", "prove", "cut-in", "modules")} <= last


@pytest.mark.parametrize("name", EVERY)
def test_every_part_that_is_bought_is_taken_along_once(name, jobs, tasks, reckoner):
    job, items = jobs[name], [item for task in tasks[name] for item in task.items]

    def count(key):
        return sum(item.count for item in items if item.key == key)

    fresh = [unit for unit in job.units if not unit.existing]
    for sheet in {unit.sheet for unit in fresh}:
        assert count(sheet) == sum(unit.count for unit in fresh if unit.sheet == sheet)
    old = {string.id for string in job.strings if job.unit(string.unit).existing}
    for module in {face.module for face in job.faces}:
        placed = [one for face in job.faces if face.module == module for one in face.modules]
        assert count(module) == sum(one.string not in old for one in placed)
    metres = sum(item.count for item in items if item.unit == "m of run")
    assert metres == pytest.approx(
        sum(cable.length_m for cable in job.cables if not cable.existing), abs=0.05
    )
    switches = [part for part in new_parts(job, reckoner.wiring(job).topology) if part.kind == "breaker"]
    assert sum(item.count for item in items if item.words.startswith("Breaker")) == len(switches)


def test_hours_are_the_librarys_and_can_be_followed(jobs, tasks, reckoner):
    """By hand, of the shipped library: 1 h and 0.22 h for each of ten modules; 0.7 h and 0.4 h for each of
    four battery modules. The lifting rule is common practice: 25 kg a person."""
    found = {task.id: task for task in tasks["larkmoor"]}
    rails = found["brackets-south-east"]
    assert rails.hours == pytest.approx(1 + 0.22 * 10)
    assert rails.formula == "1 h + 0.22 h × 10 modules"
    assert (rails.people, rails.alone, rails.daylight) == (2, False, True)
    battery = found["battery-battery"]
    assert battery.hours == pytest.approx(0.7 + 0.4 * 4)
    assert jobs["larkmoor"].sheets.batteries[jobs["larkmoor"].banks[0].sheet].weight_kg == 48
    assert (battery.people, battery.lift) == (2, "48 kg: 2 people lift it.")
    heavy = edit(jobs["larkmoor"], Change("sheets/batteries/battery-48/weight_kg", 130))
    lifted = {task.id: task for task in tasks_of(reckoner, heavy)}["battery-battery"]
    assert "lifting aid for 130 kg" in lifted.tools  # six would lift it: above four an aid
    assert not any("lifting aid" in tool for tool in battery.tools)
    assert found["cut-in"].building
    assert len(found["move-hybrid-essential"].dark) == 11


def test_what_a_person_says_goes_before_the_library(jobs, reckoner):
    said = [
        {"task": "prove", "hours": 6.0, "why": "a trainee comes along"},
        {"task": "unit-hybrid", "people": 3},
        {"task": "electrodes", "by_others": True},
    ]
    own = {"id": "tidy", "name": "Tidy the loft", "hours": 1.5, "after": ["modules-south-east"]}
    job = edit(jobs["larkmoor"], Change("visits/said", said), Change("visits/own", [own]))
    found = {task.id: task for task in tasks_of(reckoner, job)}
    assert (found["prove"].hours, found["prove"].why_hours) == (6.0, "typed: a trainee comes along")
    assert found["unit-hybrid"].people == 3
    assert "electrodes" not in found
    assert "electrodes" not in {name for task in found.values() for name in task.after}
    assert found["tidy"].after == ("modules-south-east",)


def test_what_was_booked_corrects_the_hours_once(jobs, reckoner):
    """By hand: planned 2 h and 3 h, booked 3 h and 4.5 h: a factor of 7.5 / 5."""
    rows = [("e1", "brackets", 2.0, 3.0), ("e2", "brackets", 3.0, 4.5)]
    own = learnt(learnt(OwnHours(), rows), rows)
    assert own.factor("brackets") == pytest.approx(1.5)
    assert own.factor("modules") == 1.0
    found = {task.id: task for task in tasks_of(reckoner, jobs["larkmoor"], Library(own))}
    assert found["brackets-south-east"].hours == pytest.approx(3.2 * 1.5)
    assert found["brackets-south-east"].plain_h == pytest.approx(3.2)
    assert found["brackets-south-east"].why_hours == "as shipped, times 1.50 as booked"


def test_an_array_on_the_ground_is_no_work_on_a_roof(jobs, reckoner):
    job = jobs["larkmoor"]
    ground = [
        Change(f"faces/{face.id}/covering", {"value": "ground", "known": "read on site"})
        for face in job.faces
    ]
    found = tasks_of(reckoner, edit(job, *ground))
    assert not any(task.roof or task.wind_m_s for task in found)
    assert "roof" not in " ".join(task.name for task in found).lower().split()
    assert {task.skill for task in found if task.kind in ("brackets", "modules")} == {"general"}


def test_both_orders_of_the_roof(jobs, reckoner):
    """Two schools (common practice): cables first and dead, or modules first and the last link open."""
    job = jobs["larkmoor"]
    cables = {task.id: task for task in tasks_of(reckoner, job)}
    assert "roof-runs-hybrid" in cables["modules-south-east"].after
    modules = {
        task.id: task for task in tasks_of(reckoner, edit(job, Change("visits/order", "modules first")))
    }
    assert "modules-south-east" in modules["roof-runs-hybrid"].after
    assert "live in daylight" in modules["roof-runs-hybrid"].name
    assert cables["roof-runs-hybrid"].name.endswith("dead")
