"""What was built against the plan, and photos of what was built."""

from collections.abc import Iterable, Mapping

from lodestaff.handover.model import Block, Page, Picture, Table, Text
from lodestaff.job import Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.built import Built, as_built
from lodestaff.reckoning.records.runs import runs

MOST_CELL = 90


def built_page(reckoner: Reckoner, job: Job) -> Page:
    """Every difference from the plan with who stands for it; what nobody confirmed is missing."""
    try:
        built = as_built(job, reckoner.attachment)
    except JobError as trouble:
        return Page("built", "As built", (), (f"the plan can't be read: {trouble}",))
    assert built is not None
    when = " ".join(part for part in (built.plan.date, built.plan.by) if part)
    names = _names(reckoner, job)
    rows = tuple((_place(names, row), _cut(row.planned), _cut(row.built), _whose(row)) for row in built.rows)
    blocks: list[Block] = [Text(f"Against the plan{f' of {when}' if when else ''}.", "small")]
    if rows:
        heads = ("Where", "As planned", "As built", "Confirmed by")
        blocks.append(Table(heads, rows, (28, 26, 26, 20), name="As built"))
    else:
        blocks.append(Text("It was built as it was planned."))
    missing = (f"differences that nobody confirmed: {len(built.open)}",) if built.open else ()
    return Page("built", "As built", tuple(blocks), missing)


def _place(names: Mapping[str, str], row: Built) -> str:
    """Where a difference is, by the name of what it is in."""
    owner, path = next(
        ((name, path) for path, name in names.items() if f"{row.path}/".startswith(f"{path}/")), ("", "")
    )
    field = row.path[len(path) :].strip("/").replace("/", ", ").replace("_", " ")
    return ": ".join(part for part in (owner, field) if part) if owner else row.path


def _names(reckoner: Reckoner, job: Job) -> dict[str, str]:
    """What the parts of a job are called, by their paths."""
    named = {
        f"{field}/{item.id}": item.name
        for field in ("units", "circuits", "faces", "strings", "parts", "walls", "containments")
        for item in getattr(job, field)
        if getattr(item, "name", "")
    }
    wiring = reckoner.wiring(job).topology
    named |= {
        f"{field}/{id}": part.name for id, part in wiring.parts.items() for field in ("banks", "standing")
    }
    return named | {f"cables/{run.id}": run.name for run in runs(reckoner, job, False)}


def _cut(words: str) -> str:
    return words if len(words) <= MOST_CELL else words[: MOST_CELL - 3] + "..."


def _whose(row: Built) -> str:
    confirmation = row.confirmed
    return (
        " ".join(part for part in (confirmation.by, confirmation.date, confirmation.why) if part)
        if confirmation is not None
        else "nobody yet"
    )


def photos_of(job: Job, parts: Iterable[str]) -> tuple[Picture, ...]:
    """The photos of some parts, in the order of the parts; '' is the whole."""
    wanted = dict.fromkeys(parts)
    return tuple(
        Picture(photo.sha256, " ".join(part for part in (photo.what, photo.date) if part))
        for part in wanted
        for photo in job.handed.photos
        if photo.of == part
    )
