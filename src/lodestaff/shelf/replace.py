"""A sheet of the shelf taken by what the job holds: a part replaced, or a place that gets its sheet; and what
on the shelf has changed since."""

from collections.abc import Mapping
from dataclasses import dataclass

from lodestaff.catalogue.families import unit_sheet
from lodestaff.job import Change, Job, edit
from lodestaff.job.holders import FAMILIES, Holder, holders, said
from lodestaff.quantities.errors import JobError
from lodestaff.shelf.model import Entry, Shelf

SHARED = (*FAMILIES, "battery", "module", "optimiser", "mounting")  # replaced wherever the job uses the sheet
TAKEN = ("optimiser", "mounting")  # that may be taken wherever none is named yet


@dataclass(frozen=True)
class Place:
    """What an entry may be put in place of: a sheet that the job uses, or a place by its id; '' is wherever
    none is named."""

    old: str
    words: str
    sheet: str  # that stands there now


def in_use(job: Job) -> tuple[tuple[str, str], ...]:
    """Kind and id of every sheet that the job's parts rest on."""
    return tuple(dict.fromkeys((holder.kind, holder.sheet) for holder in holders(job) if holder.sheet))


def places_for(job: Job, kind: str, names: Mapping[str, str] | None = None) -> tuple[Place, ...]:
    """What an entry of a kind may be put in place of; `names` are those of runs by id."""
    own = [holder for holder in holders(job) if holder.kind == kind]
    if kind not in SHARED:
        called = {
            holder.id: getattr(holder.thing, "name", (names or {}).get(holder.id, "")) for holder in own
        }
        return tuple(Place(holder.id, called[holder.id] or holder.id, holder.sheet) for holder in own)
    used = dict.fromkeys(holder.sheet for holder in own if holder.sheet)
    places = [Place(name, f"in place of {name}", name) for name in used]
    if kind in TAKEN and any(_bare(job, holder) for holder in own):
        places.append(Place("", "wherever none is named", ""))
    return tuple(places)


def replacing(job: Job, old: str, entry: Entry) -> tuple[Change, ...]:
    """The changes that put an entry in the place of a sheet the job uses, or into one place, as one undoable
    step.

    Fields of the job that the sheet speaks of follow it. An optimiser or a mounting in the place of none ("")
    goes wherever none is named yet. Raises JobError where the entry is incomplete or nothing takes it.
    """
    kind, sheet = entry.of, entry.sheet()
    own = [holder for holder in holders(job) if holder.kind == kind.id]
    if old:
        taking = [holder for holder in own if holder.sheet == old] or [h for h in own if h.id == old]
    else:
        taking = [holder for holder in own if kind.id in TAKEN and _bare(job, holder)]
    if not taking:
        choices = ", ".join(place.old or "none" for place in places_for(job, kind.id))
        raise JobError(
            f"the job uses no {kind.words} {old or 'that it names none for'!r}",
            job.id,
            f"choose from {choices}" if choices else f"nothing in this job takes a {kind.words}",
        )
    held = {name: told.model_dump(mode="json") for name, told in getattr(job.sheets, kind.in_jobs).items()}
    changes = [Change(f"sheets/{kind.in_jobs}", {**held, entry.id: sheet.model_dump(mode="json")})]
    for holder in taking:
        changes.append(Change(holder.path, entry.id))
        changes += [row.change for row in said(job, holder, sheet) if not row.agrees]
        if kind.id in FAMILIES:
            changes += _trackers(job, holder, tuple(t.name for t in unit_sheet(sheet).trackers))
    return tuple(changes)


def _bare(job: Job, holder: Holder) -> bool:
    """Whether a place names no sheet and has what the sheet is of."""
    fitted = holder.kind != "optimiser" or job.optimisers_on(holder.thing) != "none"
    return not holder.sheet and fitted


def _trackers(job: Job, holder: Holder, after: tuple[str, ...]) -> list[Change]:
    """Strings keep their tracker where the new unit has one of that name, else go to the one in its place."""
    before = [tracker.name for tracker in job.sheet_of(holder.thing).trackers]
    strings = [string for string in job.strings if string.unit == holder.id and string.tracker not in after]
    if strings and not after:
        raise JobError(
            f"strings hang on {holder.thing.name}, and the sheet has no input for them",
            holder.id,
            "take a unit with solar inputs, or move the strings first",
        )
    return [
        Change(f"strings/{string.id}/tracker", after[min(before.index(string.tracker), len(after) - 1)])
        for string in strings
    ]


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
