"""The pages of findings with their working, and of the cautions of this site."""

from lodestaff.checks import Finding
from lodestaff.commissioning.record import Proof
from lodestaff.handover.model import Caution, Page, Table, Text
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import findings
from lodestaff.topology import Topology
from lodestaff.wiring.cautions import site_cautions


def findings_page(reckoner: Reckoner, job: Job, proof: Proof, workings: bool = False) -> Page:
    """What stands against it or is open in full, what passed as a line each; with `workings` everything with
    formula and source."""
    answers = findings(reckoner, job, proof=proof)
    missing = tuple(f"{finding.code} blocks: {finding.text}" for finding in answers if finding.blocks)
    if workings:
        rows = tuple((finding.code, finding.status, finding.text, _working(finding)) for finding in answers)
        columns = ("Check", "Verdict", "Finding", "Working and source")
        table = Table(columns, rows, (14, 9, 35, 42), mark=1, name="Findings")
        return Page("findings", "Findings", (table,), missing)
    told = tuple(
        (
            finding.code,
            finding.status,
            finding.text + (f" Open: {', '.join(finding.open_because)}." if finding.open else ""),
        )
        for finding in answers
        if finding.status != "passed"
    )
    passed = tuple((finding.code, _in_short(finding)) for finding in answers if finding.status == "passed")
    blocks = (
        Table(("Check", "Verdict", "Finding"), told, (14, 10, 76), mark=1, name="Findings"),
        Text(f"{len(passed)} passed. Each can be had with its working and source.", "small"),
        Table(("Check", "Passed"), passed, (14, 86), name="Passed"),
    )
    return Page("findings", "Findings", blocks, missing)


def _in_short(finding: Finding) -> str:
    """What was reckoned and what it was held against, in a line."""
    figure, unit = finding.figure, finding.unit
    if figure is None:
        return finding.text
    limit = "" if finding.limit is None else f", limit {text_of(finding.limit, unit)}"
    return f"{figure.name}: {text_of(figure.value, unit)}{limit}"


def _working(finding: Finding) -> str:
    figure, unit = finding.figure, finding.unit
    parts = []
    if figure is not None:
        parts.append(f"{figure.name}: {text_of(figure.value, unit)} = {figure.formula} [{figure.source}].")
    if finding.limit is not None:
        parts.append(f"Limit {text_of(finding.limit, unit)}, margin {text_of(finding.margin or 0, unit)}.")
    if finding.limit_source:
        parts.append(f"Limit from {finding.limit_source}.")
    if finding.open:
        parts.append(f"Open: {', '.join(finding.open_because)}.")
    return " ".join(parts)


def cautions_page(job: Job, topology: Topology) -> Page:
    """The cautions of this site's devices."""
    return Page("cautions", "Cautions", tuple(Caution(text) for text in site_cautions(job, topology)))
