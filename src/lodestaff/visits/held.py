"""What tasks wait for: permission, the fuse, what a person typed, parts that aren't there; and what came."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from lodestaff.electrical.permission import held_back
from lodestaff.job import Job
from lodestaff.job.visits import Wait, Waiting
from lodestaff.visits.task import Hold, Item, Task

BEFORE_GRID = ("start",)  # what closes onto the grid
KINDS: dict[Waiting, tuple[str, ...]] = {
    "scaffold": ("brackets", "modules", "modules-smart", "roof-runs"),
    "permission": BEFORE_GRID,
    "fuse change": ("cut-in",),
    "inspection": ("hand-over",),
    "drying": ("unit", "battery"),
    "delivery": ("modules", "modules-smart", "unit", "battery"),
    "other trade": ("cut-in",),
}  # tasks of which kinds wait where the person names none
NEAR = 0.02  # of a rating: a label that differs by more says something else


@dataclass(frozen=True)
class Stock:
    """An item of the parts list against what came; what is labelled wrong doesn't count as there."""

    item: Item
    task: str
    came: float
    wrong: tuple[str, ...]

    @property
    def missing(self) -> float:
        return max(0.0, self.item.count - self.came)


def with_holds(job: Job, tasks: tuple[Task, ...], stock: tuple[Stock, ...]) -> tuple[Task, ...]:
    """The tasks with what each waits for."""
    return tuple(replace(task, holds=(*task.holds, *_holds(job, task, stock))) for task in tasks)


def _holds(job: Job, task: Task, stock: tuple[Stock, ...]) -> Iterable[Hold]:
    permits = job.site.permits
    if task.kind in BEFORE_GRID and (why := held_back(job)):
        dates = [wait.due for wait in job.visits.waits if wait.what == "permission" and wait.due]
        yield Hold("permission", why, due=max(dates, default=""))
    for permit in permits:
        if permit.kind == "main fuse" and permit.needed and task.kind == "cut-in" and _hinders(permit.state):
            yield Hold("fuse change", f"Main fuse: {permit.state}", due=permit.date)
        if permit.kind == "inspection" and permit.needed and task.kind == "inspection":
            dates = [wait.due for wait in job.visits.waits if wait.what == "inspection" and wait.due]
            due = permit.date or max(dates, default="")
            yield Hold("inspection", f"Inspection: {permit.state}", due, there=permit.state == "granted")
    for wait in job.visits.waits:
        if _meant(wait, task) and not (
            wait.what == "permission" and task.kind in BEFORE_GRID and held_back(job)
        ):
            yield Hold(wait.what, wait.name, due=wait.due, there=bool(wait.came))
    for other in stock:
        if (
            other.task == task.id and other.missing > 0 and other.wrong
        ):  # the rest is bought, or taken from the van
            waits = [wait.due for wait in job.visits.waits if wait.what == "delivery" and _meant(wait, task)]
            words = f"{other.item.words}: {other.item.amount(other.missing)} with the right label"
            yield Hold("delivery", words, due=max(waits, default=""))


def _hinders(state: str) -> bool:
    return state not in ("granted", "refused")


def _meant(wait: Wait, task: Task) -> bool:
    return task.id in wait.tasks if wait.tasks else task.kind in KINDS[wait.what]


def stock_of(job: Job, tasks: tuple[Task, ...]) -> tuple[Stock, ...]:
    """Every item of the tasks against the deliveries; one that several take is filled in their order."""
    came: dict[str, float] = {}
    wrong: dict[str, list[str]] = {}
    rated = {item.key: item for task in tasks for item in task.items}
    for delivery in job.visits.deliveries:
        item = rated.get(delivery.item)
        if (
            item is not None
            and item.rated
            and delivery.labelled
            and abs(delivery.labelled / item.rated - 1) > NEAR
        ):
            unit = item.rated_in
            words = f"{delivery.count:g} labelled {delivery.labelled:g} {unit}, {item.rated:g} {unit} ordered"
            wrong.setdefault(delivery.item, []).append(
                f"{words} (note {delivery.note or 'without number'}, {delivery.date})"
            )
            continue
        came[delivery.item] = came.get(delivery.item, 0.0) + delivery.count
    stocks = []
    for task in tasks:
        for item in task.items:
            taken = min(item.count, came.get(item.key, 0.0))
            came[item.key] = came.get(item.key, 0.0) - taken
            stocks.append(Stock(item, task.id, taken, tuple(wrong.get(item.key, ()))))
    return tuple(stocks)
