"""What fits the decision at hand: each entry of the shelf tried in the place of the job's part."""

from dataclasses import dataclass

from lodestaff.job import Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.shelf.model import Entry
from lodestaff.shelf.replace import Place, replaced


@dataclass(frozen=True)
class Fit:
    """Whether an entry can take the part's place, and why not."""

    entry: str
    fits: bool
    because: tuple[str, ...]


def fit(reckoner: Reckoner, job: Job, place: Place, entry: Entry) -> Fit:
    """Try an entry. It fits where the job stays one and nothing blocks that did not block before."""
    if entry.id == place.sheet:
        return Fit(entry.id, True, ())
    try:
        made = replaced(job, place.old, entry)
    except JobError as trouble:
        return Fit(entry.id, False, (str(trouble),))
    before = {
        (finding.code, finding.subjects) for finding in findings(reckoner, job, False) if finding.blocks
    }
    worse = [
        f"{finding.code}: {finding.text}"
        for finding in findings(reckoner, made, False)
        if finding.blocks and (finding.code, finding.subjects) not in before
    ]
    return Fit(entry.id, not worse, tuple(worse))
