"""How long work takes: a library of hours that is the person's own, corrected by what was booked."""

from collections.abc import Iterable
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.documents import load_document, parse_document, save_document
from lodestaff.catalogue.frozen import Frozen
from lodestaff.job.types import NotNegative
from lodestaff.job.visits import People, Skill, TaskId

By = Literal["fact", "m", "module", "string", "piece", "step", "circuit", "label"]
MOST_FACTOR = 5.0


class Work(Frozen):
    """A kind of work: `fixed_h` once, `each_h` for each of what it goes by; for one pair of hands at a time,
    `people` of them together.

    `company` wants a second person on site; `daylight` is work by the sun; `wind_m_s`, `dry` and
    `frost_free` are its weather; `lifts` asks the sheet's weight how many hands it takes.
    """

    id: TaskId
    name: str
    by: By
    fixed_h: NotNegative
    each_h: NotNegative
    people: People = 1
    skill: Skill = "general"
    tools: tuple[str, ...] = ()
    roof: bool = False
    company: bool = False
    daylight: bool = False
    wind_m_s: NotNegative | None = None
    dry: bool = False
    frost_free: bool = False
    lifts: bool = False


class WorkKinds(Frozen):
    """The kinds that ship, with where their hours come from."""

    source: str
    kinds: tuple[Work, ...]


class Booked(Frozen):
    """What a kind of work was planned to take and what was booked, hours, over all jobs taken in."""

    planned_h: NotNegative = 0.0
    booked_h: NotNegative = 0.0


class OwnHours(Frozen):
    """The person's own: hours typed by kind, what was booked by kind, and which entries were taken in."""

    version: Literal[1] = 1
    fixed_h: dict[TaskId, NotNegative] = {}
    each_h: dict[TaskId, NotNegative] = {}
    booked: dict[TaskId, Booked] = {}
    entries: Annotated[tuple[str, ...], Field(max_length=100_000)] = ()

    def factor(self, kind: str) -> float:
        """Booked over planned hours of a kind; 1 where nothing was booked."""
        known = self.booked.get(kind)
        if known is None or known.planned_h <= 0 or known.booked_h <= 0:
            return 1.0
        return min(MOST_FACTOR, max(1 / MOST_FACTOR, known.booked_h / known.planned_h))


NO_OWN = OwnHours()


@cache
def shipped() -> WorkKinds:
    """The kinds of work that ship with the program."""
    raw = (resources.files("lodestaff.visits") / "work.json").read_bytes()
    return parse_document(WorkKinds, raw, "work.json", "hours")


def own_path() -> Path:
    """Where the person's hours lie."""
    from platformdirs import user_data_dir

    return Path(user_data_dir("lodestaff", appauthor=False)) / "hours.json"


def load_own(path: Path | None = None) -> OwnHours:
    """The person's hours; none where none were kept. Raises JobError for a damaged file."""
    where = path or own_path()
    if path is None and not where.exists():
        return OwnHours()
    return load_document(OwnHours, where, "hours")


def save_own(own: OwnHours, path: Path | None = None) -> None:
    """Write the person's hours. Raises JobError where the disk refuses."""
    save_document(own.model_dump_json(indent=1, exclude_defaults=True) + "\n", path or own_path())


class Library:
    """Hours of any kind: those that ship, the person's own before them, times what was booked."""

    def __init__(self, own: OwnHours | None = None) -> None:
        self.own = own or NO_OWN
        self.kinds = {work.id: work for work in shipped().kinds}

    def hours(self, kind: str, count: float) -> float:
        """Hours of a kind for so many, as they are planned with."""
        return self.plain_hours(kind, count) * self.own.factor(kind)

    def plain_hours(self, kind: str, count: float) -> float:
        """The same before it is corrected by what was booked."""
        fixed, each = self.rates(kind)
        return fixed + each * count

    def rates(self, kind: str) -> tuple[float, float]:
        """Hours once and hours for each, of a kind."""
        work = self.kinds[kind]
        return self.own.fixed_h.get(kind, work.fixed_h), self.own.each_h.get(kind, work.each_h)

    def whence(self, kind: str) -> str:
        """Where the hours of a kind come from, in words."""
        typed = kind in self.own.fixed_h or kind in self.own.each_h
        words = "typed by you" if typed else "as shipped"
        factor = self.own.factor(kind)
        return words if factor == 1.0 else f"{words}, times {factor:.2f} as booked"


def learnt(own: OwnHours, bookings: Iterable[tuple[str, str, float, float]]) -> OwnHours:
    """The hours with bookings taken in, each once: (entry id, kind, planned hours, booked hours)."""
    taken, booked = set(own.entries), dict(own.booked)
    for entry, kind, planned_h, booked_h in bookings:
        if entry in taken or planned_h <= 0:
            continue
        taken.add(entry)
        old = booked.get(kind, Booked())
        booked[kind] = Booked(planned_h=old.planned_h + planned_h, booked_h=old.booked_h + booked_h)
    return own.model_copy(update={"booked": booked, "entries": tuple(sorted(taken))})
