"""Files for others, made without Qt: the pack as PDF, its tables as a workbook, the diagram as SVG."""

from collections.abc import Sequence
from pathlib import Path

from lodestaff.handover import HandoverInput, Page
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.wiring import draw


def written(target: Path, reckoner: Reckoner, given: HandoverInput, pages: Sequence[Page]) -> bytes:
    """The pack in the form that a file's ending asks for. Raises JobError for an ending that is none of
    ours."""
    match target.suffix.lower():
        case ".pdf":
            from lodestaff.exchange.pdf import pdf

            return pdf(reckoner, given, pages)
        case ".xlsx":
            from lodestaff.exchange.workbook import workbook

            return workbook(given, pages)
        case ".svg":
            from lodestaff.exchange.svg import svg

            wiring = reckoner.wiring(given.job)
            grid = wiring.answers[0]
            return svg(draw(wiring.topology, grid.positions), grid, given.job.title)
    raise JobError(f"no kind of file {target.suffix!r}", str(target), "end it with .pdf, .xlsx or .svg")
