"""What tasks wait for and what came: labels that say otherwise, dates, permissions."""

from lodestaff.job import Change, edit
from lodestaff.reckoning.visiting import tasks_of
from lodestaff.visits import stock_of


def delivery(item, count, labelled=None, **more):
    return {"id": f"line-{item}-{count}", "item": item, "count": count, "date": "2027-03-01", "note": "N 7",
            "labelled": labelled, **more}  # fmt: skip


def found(reckoner, job, *changes):
    job = edit(job, *changes)
    return {task.id: task for task in tasks_of(reckoner, job)}, job


def test_a_wrong_label_does_not_count_and_holds_its_task(jobs, reckoner):
    """Ten 405 W modules came where 440 W are planned: a common slip (common practice, no source)."""
    job = jobs["larkmoor"]
    rows = [delivery("module-440", 10, 405), delivery("module-440", 12, 440), delivery("hybrid-6", 1, 6)]
    tasks, job = found(reckoner, job, Change("visits/deliveries", rows))
    stock = {(one.task, one.item.key): one for one in stock_of(job, tuple(tasks.values()))}
    south_east = stock["modules-south-east", "module-440"]
    south_west = stock["modules-face-2", "module-440"] if "modules-face-2" in tasks else None
    rest = next(one for (task, key), one in stock.items() if key == "module-440" and one is not south_east)
    assert south_west is None or south_west is rest
    assert (south_east.came, rest.came, rest.missing) == (10, 2, 6)
    assert rest.wrong == ("10 labelled 405 W, 440 W ordered (note N 7, 2027-03-01)",)
    assert [hold.what for hold in tasks[rest.task].holds] == ["delivery"]
    assert tasks[rest.task].stuck
    assert tasks["modules-south-east"].holds == ()
    assert stock["unit-hybrid", "hybrid-6"].missing == 0


def test_parts_that_are_only_missing_hold_nobody_up(jobs, reckoner):
    tasks, _ = found(reckoner, jobs["larkmoor"], Change("visits/deliveries", [delivery("hybrid-6", 1, 6)]))
    assert not any(task.holds for task in tasks.values())


def test_what_is_waited_for_holds_the_tasks_of_its_kind_until_it_came(jobs, reckoner):
    rows = [
        {"id": "s", "what": "scaffold", "name": "Scaffold", "due": "2027-03-04"},
        {"id": "d", "what": "drying", "name": "New plaster", "tasks": ["board-hybrid-essential"]},
    ]
    tasks, job = found(reckoner, jobs["larkmoor"], Change("visits/waits", rows))
    roof = [task for task in tasks.values() if task.roof]
    assert roof
    assert all(task.due == "2027-03-04" for task in roof)
    assert tasks["board-hybrid-essential"].stuck[0].words == "New plaster"
    assert not tasks["unit-hybrid"].holds
    there, _ = found(reckoner, job, Change("visits/waits/s/came", "2027-03-03"))
    assert all(task.due == "" for task in there.values())


def test_nothing_is_closed_onto_the_grid_before_it_is_permitted(jobs, reckoner):
    held = (
        Change("site/permission/parallel_state", "applied for"),
        Change("site/permission/parallel_kva", {"value": None, "known": "assumed"}),
    )
    tasks, job = found(reckoner, jobs["larkmoor"], *held)
    assert "applied for" in tasks["start-hybrid"].stuck[0].words
    dated = [{"id": "p", "what": "permission", "name": "Letter", "due": "2027-04-01"}]
    tasks, _ = found(reckoner, job, Change("visits/waits", dated))
    assert (tasks["start-hybrid"].due, tasks["start-hybrid"].stuck) == ("2027-04-01", ())
    off_grid, _ = found(reckoner, jobs["skerry-light-cottage"], *held)
    assert not off_grid["start-hybrid"].holds


def test_a_fuse_that_must_be_raised_and_the_inspection(jobs, reckoner):
    permits = [
        {"id": "fuse", "kind": "main fuse", "state": "applied for", "date": "2027-03-09", "value": 100},
        {"id": "look", "kind": "inspection", "state": "not asked"},
    ]
    tasks, _ = found(reckoner, jobs["larkmoor"], Change("site/permits", permits))
    assert tasks["cut-in"].due == "2027-03-09"
    assert tasks["inspection"].stuck[0].words == "Inspection: not asked"
