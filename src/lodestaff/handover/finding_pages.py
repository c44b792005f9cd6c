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
    found = findings(reckoner, job, proof=proof)
    missing = tuple(f"{one.code} blocks: {one.text}" for one in found if one.blocks)
    if workings:
        rows = tuple((one.code, one.status, one.text, _working(one)) for one in found)
        columns = ("Check", "Verdict", "Finding", "Working and source")
        table = Table(columns, rows, (14, 9, 35, 42), mark=1, name="Findings")
        return Page("findings", "Findings", (table,), missing)
    told = tuple(
        (one.code, one.status, one.text + (f" Open: {', '.join(one.open_because)}." if one.open else ""))
        for one in found
        if one.status != "passed"
    )
    passed = tuple((one.code, _in_short(one)) for one in found if one.status == "passed")
    blocks = (
        Table(("Check", "Verdict", "Finding"), told, (14, 10, 76), mark=1, name="Findings"),
        Text(f"{len(passed)} passed. Each can be had with its working and source.", "small"),
        Table(("Check", "Passed"), passed, (14, 86), name="Passed"),
    )
    return Page("findings", "Findings", blocks, missing)


def _in_short(found: Finding) -> str:
    """What was reckoned and what it was held against, in a line."""
    figure, unit = found.figure, found.unit
    if figure is None:
        return found.text
    limit = "" if found.limit is None else f", limit {text_of(found.limit, unit)}"
    return f"{figure.name}: {text_of(figure.value, unit)}{limit}"


def _working(found: Finding) -> str:
    figure, unit = found.figure, found.unit
    parts = []
    if figure is not None:
        parts.append(f"{figure.name}: {text_of(figure.value, unit)} = {figure.formula} [{figure.source}].")
    if found.limit is not None:
        parts.append(f"Limit {text_of(found.limit, unit)}, margin {text_of(found.margin or 0, unit)}.")
    if found.limit_source:
        parts.append(f"Limit from {found.limit_source}.")
    if found.open:
        parts.append(f"Open: {', '.join(found.open_because)}.")
    return " ".join(parts)


def cautions_page(job: Job, topology: Topology) -> Page:
    """The cautions of this site's devices."""
    return Page("cautions", "Cautions", tuple(Caution(text) for text in site_cautions(job, topology)))
