"""The pages of findings with their working, and of the cautions of this site."""

from lodestaff.commissioning.record import Proof
from lodestaff.handover.model import Caution, Page, Table
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import findings
from lodestaff.topology import Topology
from lodestaff.wiring.cautions import site_cautions


def findings_page(reckoner: Reckoner, job: Job, proof: Proof) -> Page:
    """Every finding with its working and source."""
    rows, missing = [], []
    for found in findings(reckoner, job, proof=proof):
        figure, unit = found.figure, found.unit
        limit = (
            ""
            if found.limit is None
            else (f" Limit {text_of(found.limit, unit)}, margin {text_of(found.margin or 0, unit)}.")
        )
        because = f" Open: {', '.join(found.open_because)}." if found.open else ""
        source = f" Limit from {found.limit_source}." if found.limit_source else ""
        shown = ""
        if figure is not None:
            shown = f"{figure.name}: {text_of(figure.value, unit)} = {figure.formula} [{figure.source}]."
        working = f"{shown}{limit}{source}{because}".strip()
        rows.append((found.code, found.status, found.text, working))
        if found.blocks:
            missing.append(f"{found.code} blocks: {found.text}")
    columns = ("Check", "Verdict", "Finding", "Working and source")
    table = Table(columns, tuple(rows), (14, 9, 35, 42), mark=1, name="Findings")
    return Page("findings", "Findings", (table,), tuple(missing))


def cautions_page(job: Job, topology: Topology) -> Page:
    """The cautions of this site's devices."""
    return Page("cautions", "Cautions", tuple(Caution(text) for text in site_cautions(job, topology)))
