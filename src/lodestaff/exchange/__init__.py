"""Files for others, made without Qt: the pack as PDF, its tables as a workbook, the diagram as SVG or DXF."""

from collections.abc import Sequence
from pathlib import Path

from lodestaff.handover import HandoverInput, Page
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.visiting import Programme
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
        case ".dxf":
            from lodestaff.exchange.dxf import dxf

            wiring, job = reckoner.wiring(given.job), given.job
            first = wiring.answers[0]
            title = (
                f"{job.title}, {job.site.place}",
                f"{job.pack.title}, {job.pack.edition}; printed {given.printed.isoformat()}",
                f"State: {first.state.name}. Conductors by what feeds them: a layer for each source.",
                "Assists a licensed person; the local code and the maker's instructions rule.",
            )
            return dxf(draw(wiring.topology, first.positions), first, wiring.topology, title)
    raise JobError(f"no kind of file {target.suffix!r}", str(target), "end it with .pdf, .xlsx, .svg or .dxf")


def visits_written(target: Path, reckoner: Reckoner, given: HandoverInput, programme: Programme) -> bytes:
    """The visits in the form that a file's ending asks for. Raises JobError for one that is none of ours."""
    if target.suffix.lower() == ".ics":
        from lodestaff.exchange.calendar import calendar

        return calendar(given.job, programme, given.printed)
    if target.suffix.lower() in (".pdf", ".xlsx"):
        from lodestaff.handover.visit_pages import visit_pages

        pages = visit_pages(given.job, reckoner.wiring(given.job).topology, programme)
        return written(target, reckoner, given, pages)
    raise JobError(f"no kind of file {target.suffix!r}", str(target), "end it with .pdf, .xlsx or .ics")
