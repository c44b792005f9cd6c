"""All findings of a job: every check of the table on the records made for it."""

from typing import Any

from lodestaff.checks import CHECKS, Finding
from lodestaff.checks.commission import StepProof
from lodestaff.checks.finding import ORDER
from lodestaff.commissioning.record import Proof
from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records import RECORDS
from lodestaff.reckoning.records.commission import step_proofs


def findings(
    reckoner: Reckoner, job: Job, deep: bool = True, proof: Proof | None = None, stations: frozenset[str] | None = None
) -> tuple[Finding, ...]:
    """All findings of a job, worst first. `deep` False leaves out remedies that need further years.

    What the day on site shows is found where a proof of it is given. `stations` asks for theirs only.
    """
    result: list[Finding] = []
    records: dict[type, list[Any]] = {StepProof: []}
    for check in CHECKS:
        if job.pack.name not in check.packs or (stations is not None and check.station not in stations):
            continue
        if check.record not in records:
            records[check.record] = list(RECORDS[check.record](reckoner, job, deep))
        for record in records[check.record]:
            result += check.function(record)
    if proof is not None:
        result += site_findings(proof)
    return _sorted(result)


def site_findings(proof: Proof) -> tuple[Finding, ...]:
    """What the readings show: quick, for nothing is computed anew."""
    steps = step_proofs(proof)
    return _sorted(
        [one for check in CHECKS if check.record is StepProof for step in steps for one in check.function(step)]
    )


def _sorted(found: list[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(found, key=lambda finding: (ORDER.index(finding.verdict), not finding.open)))


def station_of(code: str) -> str:
    return next(check.station for check in CHECKS if check.code == code)
