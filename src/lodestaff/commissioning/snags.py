"""Snags: what was found wrong or left over, whose it is and by when; kept in the journal."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from lodestaff.job.journal import Entry, standing
from lodestaff.quantities.errors import JobError


@dataclass(frozen=True)
class Snag:
    """One snag, named by its journal entry. `due` is an ISO date; `step` the step that showed it, or "".

    `done` says how it was put right, "" while it is open.
    """

    id: str
    text: str
    owner: str
    due: str
    step: str = ""
    by: str = ""
    at: str = ""
    done: str = ""
    done_by: str = ""
    done_at: str = ""

    def late(self, today: date) -> bool:
        """Whether it is open after its day."""
        return not self.done and date.fromisoformat(self.due) < today


def snag_data(owner: str, due: str, step: str = "") -> dict[str, Any]:
    """What a snag's journal line holds. Raises JobError where nobody owns it or its day is none."""
    if not owner.strip():
        raise JobError("nobody owns it", "snag", "name who puts it right")
    try:
        day = date.fromisoformat(due.strip())
    except ValueError as trouble:
        raise JobError(f"{due.strip()!r} is no date", "snag", "write its day as 2026-06-18") from trouble
    return {"owner": owner.strip(), "due": day.isoformat(), "step": step}


def closing_data(snag: str, how: str) -> dict[str, Any]:
    """What the line holds that closes a snag. Raises JobError where it isn't said how."""
    if not how.strip():
        raise JobError("nothing says how it was put right", "snag", "say what was done")
    return {"closes": snag, "how": how.strip()}


def snags(entries: Sequence[Entry]) -> tuple[Snag, ...]:
    """All snags of a journal, in its order, each with its end where it has one."""
    by_id: dict[str, Snag] = {}
    for id, entry in standing(entries, "snag"):
        data = entry.data or {}
        closed = by_id.get(str(data.get("closes", "")))
        if closed is not None:
            by_id[closed.id] = _closed(closed, entry, str(data.get("how", "")))
        elif "owner" in data:
            owner, due, step = (str(data.get(key, "")) for key in ("owner", "due", "step"))
            by_id[id] = Snag(id, entry.text, owner, due, step=step, by=entry.by, at=entry.at)
    return tuple(by_id.values())


def open_snags(entries: Sequence[Entry]) -> tuple[Snag, ...]:
    """Those that are not put right, the soonest due first."""
    return tuple(sorted((snag for snag in snags(entries) if not snag.done), key=lambda snag: snag.due))


def snag_named(entries: Sequence[Entry], id: str) -> Snag:
    """The open snag of an id. Raises JobError where there is none."""
    still = {snag.id: snag for snag in open_snags(entries)}
    if id not in still:
        there = ", ".join(still) or "none is open"
        raise JobError(f"no open snag {id!r}", "snag", f"open: {there}")
    return still[id]


def _closed(snag: Snag, entry: Entry, how: str) -> Snag:
    return Snag(**{**vars(snag), "done": how, "done_by": entry.by, "done_at": entry.at})
