"""All findings of a job: every check of the table on the records made for it, each check for itself."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from lodestaff.checks import CHECKS, Finding, Verdict
from lodestaff.checks.check import Check
from lodestaff.checks.commission import StepProof
from lodestaff.checks.finding import ORDER
from lodestaff.checks.makers import open_
from lodestaff.commissioning.record import Proof
from lodestaff.job import Job
from lodestaff.quantities import Provenance, Source
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records import RECORDS
from lodestaff.reckoning.records.commission import step_proofs

THE_JOB = Source("this job", Provenance.DERIVED)


@dataclass
class Isolation:
    """Whether a value of the job that can't be used opens the one check that needs it, and the others
    stand."""

    on: bool = True


ISOLATION = Isolation()


def findings(
    reckoner: Reckoner,
    job: Job,
    deep: bool = True,
    proof: Proof | None = None,
    stations: frozenset[str] | None = None,
) -> tuple[Finding, ...]:
    """All findings of a job, worst first. `deep` False leaves out remedies that need further years.

    What the day on site shows is found where a proof of it is given. `stations` asks for theirs only. A check
    that a value of the job makes impossible is open, and would block; only a fault of the program is raised.
    """
    result: list[Finding] = []
    records: dict[type, tuple[list[Any], JobError | None]] = {StepProof: ([], None)}
    for check in CHECKS:
        if not check.applies(job.pack) or (stations is not None and check.station not in stations):
            continue
        if check.record not in records:
            records[check.record] = _as_far_as_it_goes(partial(RECORDS[check.record], reckoner, job, deep))
        made, trouble = records[check.record]
        for record in made:
            answers, refused = _as_far_as_it_goes(partial(check.function, record))
            result += answers
            trouble = trouble or refused
        if trouble is not None:
            result.append(not_reckoned(check, trouble))
    if proof is not None:
        result += site_findings(proof)
    return _sorted(result)


def answers(reckoner: Reckoner, job: Job, *rules: str) -> list[Finding]:
    """What some checks alone say of a job, without costly cures."""
    asked = [check for check in CHECKS if check.rule in rules and check.applies(job.pack)]
    return [
        finding
        for check in asked
        for record in RECORDS[check.record](reckoner, job, False)
        for finding in check.function(record)
    ]


def _as_far_as_it_goes(make: Callable[[], Iterable[Any]]) -> tuple[list[Any], JobError | None]:
    """What is made until a value of the job can't be used, and that trouble."""
    made: list[Any] = []
    try:
        made.extend(make())
    except JobError as trouble:
        if not ISOLATION.on:
            raise
        return made, trouble
    return made, None


def not_reckoned(check: Check, trouble: JobError) -> Finding:
    """The one finding of a check that a value of the job makes impossible: open, and it would block."""
    where = f"{trouble.where}: " if trouble.where else ""
    made = open_(
        verdict=Verdict.BLOCKS,
        text=f"Not reckoned. {where}{trouble.what}.",
        because=(f"{where}{trouble.what}",),
        rests_on=THE_JOB,
        advice=trouble.right[:1].upper() + trouble.right[1:],
        quantity="not reckoned",
    )
    return replace(made, code=check.code, rule=check.rule)


def site_findings(proof: Proof) -> tuple[Finding, ...]:
    """What the readings show: quick, for nothing is computed anew."""
    steps = step_proofs(proof)
    on_site = [check for check in CHECKS if check.record is StepProof]
    return _sorted([finding for check in on_site for step in steps for finding in check.function(step)])


def _sorted(answers: list[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(answers, key=lambda finding: (ORDER.index(finding.verdict), not finding.open)))


STATION_OF = {check.code: check.station for check in reversed(CHECKS)}


def station_of(code: str) -> str:
    return STATION_OF[code]
