"""Two copies of a job that went apart, put together part by part; what both changed is a clash."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from lodestaff.job.edit import validated
from lodestaff.job.model import Job
from lodestaff.quantities.errors import JobError

Side = Literal["ours", "theirs"]
MISSING = object()  # a part that one copy doesn't have
KEYS: tuple[Callable[[dict[str, Any]], Any], ...] = (
    lambda row: row["id"],
    lambda row: (row["task"], row["piece"]),
    lambda row: row["task"],
)  # by what the rows of a list are told apart


@dataclass(frozen=True)
class Clash:
    """A place that both copies changed, each otherwise; None for a part that one of them took out."""

    path: str
    base: Any
    ours: Any
    theirs: Any


@dataclass(frozen=True)
class Merged:
    """The job put together, what was taken from the other copy, and what clashes."""

    job: Job
    taken: tuple[str, ...]
    clashes: tuple[Clash, ...]


def merge(
    base: Job | None, ours: Job, theirs: Job, side: Side = "ours", sides: Mapping[str, Side] | None = None
) -> Merged:
    """Put two copies together. What one of them alone changed since `base` is taken; without a base only
    parts that one copy lacks are. `side` decides what clashes, `sides` what clashes at a path.

    Raises JobError where they aren't copies of one job, or what comes out is no sound job.
    """
    if ours.id != theirs.id or (base is not None and base.id != ours.id):
        raise JobError("these are different jobs", f"{ours.id}, {theirs.id}", "merge copies of one job")
    work = _Merge(side, sides or {})
    dumps = [job.model_dump(mode="json") if job is not None else MISSING for job in (base, ours, theirs)]
    data = work.put("", *dumps)
    return Merged(validated(data, "merged"), tuple(work.taken), tuple(work.clashes))


class _Merge:
    """Walks through the three side by side."""

    def __init__(self, side: Side, sides: Mapping[str, Side]) -> None:
        self.side, self.sides = side, sides
        self.taken: list[str] = []
        self.clashes: list[Clash] = []

    def put(self, path: str, base: Any, ours: Any, theirs: Any) -> Any:
        """What stands at a path of the merged job."""
        if ours == theirs:
            return ours
        if isinstance(ours, dict) and isinstance(theirs, dict):
            return self._fields(path, base if isinstance(base, dict) else {}, ours, theirs)
        if isinstance(ours, list) and isinstance(theirs, list):
            key = _key_of(ours, theirs)
            if key is not None:
                return self._rows(path, key, base if isinstance(base, list) else None, (ours, theirs))
        return self._one(path, base, ours, theirs)

    def _one(self, path: str, base: Any, ours: Any, theirs: Any) -> Any:
        if base is not MISSING and ours == base:
            self.taken.append(path)
            return theirs
        if base is not MISSING and theirs == base:
            return ours
        self.clashes.append(
            Clash(path, *(None if version is MISSING else version for version in (base, ours, theirs)))
        )
        return ours if self.sides.get(path, self.side) == "ours" else theirs

    def _fields(self, path: str, base: dict[str, Any], ours: dict[str, Any], theirs: dict[str, Any]) -> Any:
        fields = {}
        for name in dict.fromkeys((*ours, *theirs)):
            three = [version.get(name, MISSING) for version in (base, ours, theirs)]
            made = self.put(f"{path}/{name}".lstrip("/"), *three)
            if made is not MISSING:
                fields[name] = made
        return fields

    def _rows(
        self, path: str, key: Callable[[dict[str, Any]], Any], base: list[Any] | None, both: tuple[Any, Any]
    ) -> list[Any]:
        """Rows by what names them, ours in their order, then what the other has besides."""
        ours, theirs = ({key(row): row for row in rows} for rows in both)
        before = {key(row): row for row in base} if base is not None else None
        rows_of_all = []
        for name in dict.fromkeys((*ours, *theirs)):
            words = "/".join(map(str, name)) if isinstance(name, tuple) else str(name)
            where = f"{path}/{words}"
            mine, other = ours.get(name, MISSING), theirs.get(name, MISSING)
            if before is None and MISSING in (mine, other):  # no base: what one has alone is kept
                if mine is MISSING:
                    self.taken.append(where)
                rows_of_all.append(other if mine is MISSING else mine)
                continue
            was = before.get(name, MISSING) if before is not None else MISSING
            made = self._added(where, was, mine, other)
            if made is not MISSING:
                rows_of_all.append(made)
        return rows_of_all

    def _added(self, path: str, was: Any, mine: Any, other: Any) -> Any:
        """A row that may be new in one copy, or taken out of it."""
        if was is MISSING and MISSING in (mine, other):
            if mine is MISSING:
                self.taken.append(path)
            return other if mine is MISSING else mine
        return self.put(path, was, mine, other)


def _key_of(*lists: list[Any]) -> Callable[[dict[str, Any]], Any] | None:
    """What tells the rows of lists apart; None for plain values."""
    rows = [row for rows in lists for row in rows]
    if not rows or not all(isinstance(row, dict) for row in rows):
        return None
    for key in KEYS:
        try:
            names = [[key(row) for row in listed] for listed in lists]
        except KeyError:
            continue
        if all(len(set(listed)) == len(listed) for listed in names):
            return key
    return None
