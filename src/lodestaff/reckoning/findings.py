"""All findings of a job: every check of the table on the records made for it."""

from typing import Any

from lodestaff.checks import CHECKS, Finding
from lodestaff.checks.finding import ORDER
from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records import RECORDS


def findings(reckoner: Reckoner, job: Job, deep: bool = True) -> tuple[Finding, ...]:
    """All findings of a job, worst first. `deep` False leaves out remedies that need further years."""
    result: list[Finding] = []
    records: dict[type, list[Any]] = {}
    for check in CHECKS:
        if job.pack.name not in check.packs:
            continue
        if check.record not in records:
            records[check.record] = list(RECORDS[check.record](reckoner, job, deep))
        for record in records[check.record]:
            result += check.function(record)
    return tuple(sorted(result, key=lambda finding: (ORDER.index(finding.verdict), not finding.open)))


def station_of(code: str) -> str:
    return next(check.station for check in CHECKS if check.code == code)
