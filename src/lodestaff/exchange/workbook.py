"""Schedules and results as a workbook: a sheet for every named table of the pack."""

import io
from collections.abc import Sequence

from lodestaff.exchange.cells import inert
from lodestaff.handover import HandoverInput, Page, Table
from lodestaff.quantities.errors import visible

MOST_WIDTH = 60
MOST_SIGNS = 32_767  # of a cell


def workbook(given: HandoverInput, pages: Sequence[Page]) -> bytes:
    """The tables as XLSX bytes. Numbers are numbers where a table has them; no cell is a formula."""
    from openpyxl import Workbook
    from openpyxl.styles import Alignment, Font

    book = Workbook()
    book.properties.creator = "Lodestaff"
    first = book.active
    assert first is not None
    first.title = "Job"
    job = given.job
    head = {"Job": job.title, "Place": job.site.place, "Rules": f"{job.pack.title}, {job.pack.edition}",
            "Firm": given.register.firm.name, "Printed": given.printed.isoformat()}  # fmt: skip
    for name, value in head.items():
        first.append([name, _words(value)])
    for page in pages:
        for missing in page.missing:
            first.append(["Missing", _words(f"{page.title}: {missing}")])
    for table in (
        block for page in pages for block in page.blocks if isinstance(block, Table) and block.name
    ):
        sheet = book.create_sheet(table.name)
        sheet.append([_words(cell) for cell in table.units or table.columns])
        for row in table.plain or table.rows:
            sheet.append([_words(cell) if isinstance(cell, str) else cell for cell in row])
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        for index, column in enumerate(table.columns, start=1):
            longest = max([len(column), *(len(row[index - 1]) for row in table.rows)])
            sheet.column_dimensions[sheet.cell(1, index).column_letter].width = min(MOST_WIDTH, longest + 2)
        for cells in sheet.iter_rows(min_row=2):
            for cell in cells:
                cell.alignment = Alignment(wrap_text=True, vertical="top")
                if isinstance(cell.value, str):
                    cell.data_type = "s"
        sheet.freeze_panes = "A2"
    buffer = io.BytesIO()
    book.save(buffer)
    return buffer.getvalue()


def _words(text: str) -> str:
    return inert(visible(text))[:MOST_SIGNS]
