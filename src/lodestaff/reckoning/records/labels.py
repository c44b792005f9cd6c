"""The record for the check of labels."""

from collections.abc import Iterator

from lodestaff.checks.labels import LabelSchedule
from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.label_ratings import label_ratings
from lodestaff.reckoning.records.making import makes
from lodestaff.wiring.labels import labels


@makes
def label_schedules(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[LabelSchedule]:
    """Units and the isolators of arrays and batteries say volts and amperes; other labels need none."""
    topology, ratings = reckoner.wiring(job).topology, label_ratings(reckoner, job)
    wanted = [
        part
        for part in topology.parts.values()
        if part.kind == "unit" or (part.kind == "isolator" and part.way in ("array", "battery"))
    ]
    yield LabelSchedule(
        count=len(labels(job, topology, ratings)),
        rated=sum(part.id in ratings for part in wanted),
        unrated=tuple(part.name for part in wanted if part.id not in ratings),
    )
