"""Days, hands, tasks, waits, deliveries and numbers put in: one named step each, their own typed in the
tables."""

from collections.abc import Callable, Mapping
from datetime import date, timedelta
from functools import partial
from typing import get_args

from PySide6.QtWidgets import QMenu

from lodestaff.desktop.stations.place.adding import free_id
from lodestaff.desktop.store import Store
from lodestaff.job import Change, Job
from lodestaff.job.visits import Waiting
from lodestaff.reckoning.visiting import Programme


def fill_menu(menu: QMenu, store: Store, programme: Callable[[], Programme | None]) -> None:
    """What can be put in."""
    menu.clear()
    if store.job is None:
        return
    menu.addAction("Day", partial(add_day, store))
    menu.addAction("Hand", partial(add_hand, store))
    menu.addAction("Task of your own", partial(add_task, store))
    waits = menu.addMenu("What is waited for")
    for what in get_args(Waiting):
        waits.addAction(what, partial(add_wait, store, what))
    menu.addAction("Number to ring", partial(add_contact, store))
    schedule = programme()
    missing = [stock for stock in schedule.stock if stock.missing > 0] if schedule is not None else []
    came = menu.addMenu("What was delivered")
    for key in dict.fromkeys(stock.item.key for stock in missing):
        item = next(stock.item for stock in missing if stock.item.key == key)
        count = sum(stock.missing for stock in missing if stock.item.key == key)
        came.addAction(f"{item.words}, {item.amount(count)}", partial(add_delivery, store, key, count))


def _put(store: Store, field: str, words: str, row: Mapping[str, object]) -> bool:
    job = store.job
    if job is None:
        return False
    rows = [item.model_dump(mode="json") for item in getattr(job.visits, field)]
    return store.edit(words, Change(f"visits/{field}", [*rows, row]))


def _ids(job: Job, field: str) -> set[str]:
    return {item.id for item in getattr(job.visits, field)}


def add_day(store: Store) -> bool:
    """The working day after the last one, with everybody there."""
    job = store.job
    if job is None:
        return False
    last = max((day.date for day in job.visits.days), default="")
    day = date.fromisoformat(last) + timedelta(days=1) if last else date.today() + timedelta(days=1)
    while day.weekday() > 4:
        day += timedelta(days=1)
    row = {"id": f"day-{day.isoformat()}", "date": day.isoformat(),
           "hands": [hand.id for hand in job.visits.hands]}  # fmt: skip
    if row["id"] in _ids(job, "days"):
        row["id"] = free_id(_ids(job, "days"), "day")
    return _put(store, "days", f"Add {day.isoformat()}", row)


def add_hand(store: Store) -> bool:
    """One more who comes; name, number and skills are typed."""
    job = store.job
    if job is None:
        return False
    row = {"id": free_id(_ids(job, "hands"), "hand"), "name": f"Hand {len(job.visits.hands) + 1}"}
    return _put(store, "hands", "Add a hand", row)


def add_task(store: Store) -> bool:
    """A task of one's own, an hour long."""
    job = store.job
    if job is None:
        return False
    row = {"id": free_id(_ids(job, "own"), "own"), "name": "Task of our own", "hours": 1.0}
    return _put(store, "own", "Add a task", row)


def add_wait(store: Store, what: str) -> bool:
    """Something that must be there first."""
    job = store.job
    if job is None:
        return False
    stem = what.replace(" ", "-")
    row = {"id": free_id(_ids(job, "waits"), stem), "what": what, "name": f"{what[0].upper()}{what[1:]}"}
    return _put(store, "waits", f"Wait for {what}", row)


def add_contact(store: Store) -> bool:
    """A person to ring."""
    job = store.job
    if job is None:
        return False
    row = {"id": free_id(_ids(job, "contacts"), "number"), "name": "Whom to ring"}
    return _put(store, "contacts", "Add a number to ring", row)


def add_delivery(store: Store, item: str, count: float) -> bool:
    """All of an item that is missing came today; count, note and label are typed."""
    job = store.job
    if job is None:
        return False
    row = {"id": free_id(_ids(job, "deliveries"), "line"), "item": item, "count": count,
           "date": date.today().isoformat()}  # fmt: skip
    return _put(store, "deliveries", f"{count:g} of {item} came", row)
