"""What was built against the plan that was agreed: every difference, and who stands for it."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from lodestaff.job import Change, Job
from lodestaff.job.file import job_text, parse_job
from lodestaff.job.handed import Confirmed, Planned
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.compare import differences

OF_THE_BUILD = (
    "circuits", "faces", "strings", "units", "banks", "mains", "wiring", "parts", "adjustments", "cables",
    "containments", "walls", "standing", "passages", "courses", "limits", "sheets",
)  # fmt: skip
MOST_WORDS = 400


@dataclass(frozen=True)
class Built:
    """One difference: where, as it was planned and as it was built, in words; who confirmed it (None: nobody,
    or another value than stands there now)."""

    path: str
    planned: str
    built: str
    confirmed: Confirmed | None


@dataclass(frozen=True)
class AsBuilt:
    """All differences from the plan of a day."""

    plan: Planned
    rows: tuple[Built, ...]

    @property
    def open(self) -> tuple[Built, ...]:
        return tuple(row for row in self.rows if row.confirmed is None)


def as_built(job: Job, attachment: Callable[[str], bytes]) -> AsBuilt | None:
    """The job against its plan; None where none was kept. Raises JobError where the plan can't be read."""
    plan = job.handed.plan
    if plan is None:
        return None
    agreed = parse_job(attachment(plan.sha256), "the plan that was kept")
    confirmed = {confirmation.path: confirmation for confirmation in job.handed.confirmed}
    rows = []
    for path, planned, built in differences(agreed, job):
        if not path.startswith(OF_THE_BUILD):
            continue  # papers and days, what is handed over or was only compared
        words = said(built)
        known = confirmed.get(path)
        rows.append(Built(path, said(planned), words, known if known and known.built == words else None))
    return AsBuilt(plan, tuple(rows))


def said(value: Any) -> str:
    """A value in words: its name where it has one, else as it is written."""
    if value is None:
        return "not there"
    if isinstance(value, dict) and value.get("name"):
        return str(value["name"])
    text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
    return text[: MOST_WORDS - 3] + "..." if len(text) > MOST_WORDS else text or "empty"


def confirming(job: Job, built: AsBuilt, paths: list[str], *, by: str, date: str, why: str = "") -> Change:
    """The edit that confirms differences, all open ones where none is named.

    Raises JobError for a path at which nothing differs, or where nobody stands for it.
    """
    if not by.strip():
        raise JobError("nobody stands for it", "as built", "say who confirms: a name")
    rows = {row.path: row for row in built.rows}
    strays = [path for path in paths if path not in rows]
    if strays:
        raise JobError(f"nothing differs at {strays[0]!r}", "as built", ", ".join(rows) or "nothing differs")
    wanted = paths or [row.path for row in built.open]
    made = {
        confirmation.path: confirmation for confirmation in job.handed.confirmed if confirmation.path in rows
    }
    for path in wanted:
        made[path] = Confirmed(path=path, built=rows[path].built, by=by.strip(), date=date, why=why.strip())
    return Change(
        "handed/confirmed", [confirmation.model_dump(mode="json") for confirmation in made.values()]
    )


def plan_text(job: Job) -> bytes:
    """The job as it is kept for its plan: what was confirmed against an older one isn't in it."""
    bare = job.model_copy(update={"handed": job.handed.model_copy(update={"plan": None, "confirmed": ()})})
    return job_text(bare).encode()


def planning(sha256: str, *, by: str, date: str) -> tuple[Change, ...]:
    """The edit that makes an attached job the plan; what was confirmed against another goes."""
    plan = Planned(sha256=sha256, date=date, by=by)
    return Change("handed/confirmed", []), Change("handed/plan", plan.model_dump(mode="json"))
