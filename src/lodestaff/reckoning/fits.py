"""What fits the decision at hand: each entry of the shelf tried in the place of the job's part."""

from dataclasses import dataclass

from lodestaff.job import Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.shelf.model import Entry
from lodestaff.shelf.replace import replaced


@dataclass(frozen=True)
class Fit:
    """Whether an entry can take the part's place, and why not."""

    entry: str
    fits: bool
    because: tuple[str, ...]


def fit(reckoner: Reckoner, job: Job, old: str, entry: Entry) -> Fit:
    """Try an entry. It fits where the job stays one and nothing blocks that did not block before."""
    if entry.id == old:
        return Fit(entry.id, True, ())
    try:
        made = replaced(job, old, entry)
    except JobError as trouble:
        return Fit(entry.id, False, (str(trouble),))
    before = {(one.code, one.subjects) for one in findings(reckoner, job, False) if one.blocks}
    worse = [
        f"{one.code}: {one.text}"
        for one in findings(reckoner, made, False)
        if one.blocks and (one.code, one.subjects) not in before
    ]
    return Fit(entry.id, not worse, tuple(worse))
