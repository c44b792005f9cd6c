"""A part of a job replaced by one of the shelf; and what on the shelf has changed since a job took its
sheet."""

from dataclasses import dataclass

from lodestaff.job import Change, Job, edit
from lodestaff.quantities.errors import JobError
from lodestaff.shelf.model import Entry, Shelf

TAKEN = ("optimiser", "mounting")  # kinds that a job may have none of yet


def in_use(job: Job) -> tuple[tuple[str, str], ...]:
    """Kind and id of every sheet that the job's parts rest on."""
    used = [("hybrid", unit.sheet) for unit in job.units]
    used += [("battery", bank.sheet) for bank in job.banks]
    used += [("module", face.module) for face in job.faces]
    used += [("optimiser", string.optimiser) for string in job.strings if string.optimiser]
    used += [("mounting", face.mounting_sheet) for face in job.faces if face.mounting_sheet]
    return tuple(dict.fromkeys(used))


def replacing(job: Job, old: str, entry: Entry) -> tuple[Change, ...]:
    """The changes that put an entry in the place of a sheet the job uses, as one undoable step.

    An optimiser or a mounting in the place of none ("") goes wherever none is named yet.

    Raises JobError where the entry is incomplete, of a kind that no job uses, or the job has no such sheet.
    """
    kind = entry.of
    if not kind.in_jobs:
        raise JobError(
            f"a {kind.words} is in no job yet",
            entry.id,
            "replace a module, hybrid, battery, optimiser or mounting",
        )
    if not (old == "" and kind.id in TAKEN) and (kind.id, old) not in in_use(job):
        choices = ", ".join(name for used_kind, name in in_use(job) if used_kind == kind.id)
        raise JobError(f"the job uses no {kind.words} {old!r}", job.id, f"choose from {choices or 'none'}")
    sheet = entry.sheet().model_dump(mode="json")
    held = {name: told.model_dump(mode="json") for name, told in getattr(job.sheets, kind.in_jobs).items()}
    changes = [Change(f"sheets/{kind.in_jobs}", {**held, entry.id: sheet})]
    if kind.id == "hybrid":
        changes += [Change(f"units/{unit.id}/sheet", entry.id) for unit in job.units if unit.sheet == old]
        changes += _trackers(job, old, sheet)
    elif kind.id == "battery":
        changes += [Change(f"banks/{bank.id}/sheet", entry.id) for bank in job.banks if bank.sheet == old]
    elif kind.id == "optimiser":
        fitted = [s for s in job.strings if s.optimiser == old and (old or job.optimisers_on(s) != "none")]
        changes += [Change(f"strings/{string.id}/optimiser", entry.id) for string in fitted]
    elif kind.id == "mounting":
        standing = [face for face in job.faces if face.mounting_sheet == old]
        changes += [Change(f"faces/{face.id}/mounting_sheet", entry.id) for face in standing]
    else:
        changes += [Change(f"faces/{face.id}/module", entry.id) for face in job.faces if face.module == old]
    return tuple(changes)


def _trackers(job: Job, old: str, sheet: dict[str, object]) -> list[Change]:
    """Strings keep their tracker where the new unit has one of that name, else go to the one in its place."""
    before = [tracker.name for tracker in job.sheets.hybrids[old].trackers]
    rows = sheet["trackers"]
    assert isinstance(rows, list)
    after = [str(row["name"]) for row in rows]
    units = {unit.id for unit in job.units if unit.sheet == old}
    changes = []
    for string in job.strings:
        if string.unit in units and string.tracker not in after:
            place = min(before.index(string.tracker), len(after) - 1)
            changes.append(Change(f"strings/{string.id}/tracker", after[place]))
    return changes


def replaced(job: Job, old: str, entry: Entry) -> Job:
    """The job with the part replaced. Raises JobError where it can't be."""
    return edit(job, *replacing(job, old, entry))


@dataclass(frozen=True)
class Offer:
    """A sheet that reads otherwise on the shelf than in the job: offered, never pushed."""

    kind: str
    id: str
    fields: tuple[tuple[str, object, object], ...]  # words, in the job, on the shelf


def offers(job: Job, shelf: Shelf) -> tuple[Offer, ...]:
    """Of the sheets that the job uses, those of which the shelf holds another reading."""
    held = {(entry.kind, entry.id): entry for entry in shelf.entries}
    all_offers = []
    for kind, name in in_use(job):
        entry = held.get((kind, name))
        if entry is None or entry.missing:
            continue
        mine = getattr(job.sheets, entry.of.in_jobs)[name].model_dump(mode="json")
        try:
            theirs = entry.sheet().model_dump(mode="json")
        except JobError:
            continue
        fields = tuple(
            (row.words, mine.get(row.key), theirs.get(row.key))
            for row in entry.of.rows
            if mine.get(row.key) != theirs.get(row.key)
        )
        if fields:
            all_offers.append(Offer(kind, name, fields))
    return tuple(all_offers)
