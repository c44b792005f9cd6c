"""Days, hands and parts: the tasks that follow from the design, laid over days, and how evenings are left."""

from lodestaff.visits.bench import Counts
from lodestaff.visits.conflicts import Conflict, Span, conflicts, spans, unlaid
from lodestaff.visits.days import Daylight, proposed_days
from lodestaff.visits.evening import Evening, evening
from lodestaff.visits.held import Stock, stock_of, with_holds
from lodestaff.visits.items import with_items
from lodestaff.visits.laying import Layout, Wanted, lay
from lodestaff.visits.library import Library, OwnHours, load_own, save_own
from lodestaff.visits.making import Maker, same_day
from lodestaff.visits.task import Hold, Item, Task

__all__ = [
    "Conflict",
    "Counts",
    "Daylight",
    "Evening",
    "Hold",
    "Item",
    "Layout",
    "Library",
    "Maker",
    "OwnHours",
    "Span",
    "Stock",
    "Task",
    "Wanted",
    "conflicts",
    "evening",
    "lay",
    "load_own",
    "proposed_days",
    "same_day",
    "save_own",
    "spans",
    "stock_of",
    "unlaid",
    "with_holds",
    "with_items",
]
