"""Schedules and results as a workbook: a sheet for every named table of the pack."""

import io
from collections.abc import Sequence
from typing import Any

from lodestaff.exchange.cells import inert
from lodestaff.handover import HandoverInput, Page, Table
from lodestaff.quantities.errors import visible

MOST_WIDTH = 60
PAPERSIZE_A4 = "9"  # as the file format counts papers
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
    for sheet in book.worksheets:
        _prints(sheet, given)
    buffer = io.BytesIO()
    book.save(buffer)
    return buffer.getvalue()


def _prints(sheet: Any, given: HandoverInput) -> None:
    """How a sheet prints: as wide as the paper, its headings on every page, at the foot whose it is."""
    from openpyxl.worksheet.properties import PageSetupProperties

    sheet.page_setup.orientation = "landscape"
    sheet.page_setup.paperSize = sheet.PAPERSIZE_LETTER if given.job.pack.paper == "Letter" else PAPERSIZE_A4
    sheet.sheet_properties.pageSetUpPr = PageSetupProperties(fitToPage=True)
    sheet.page_setup.fitToWidth, sheet.page_setup.fitToHeight = 1, 0
    if sheet.freeze_panes:
        sheet.print_title_rows = "1:1"
    whose = f"{_words(given.job.title)}, {given.printed.isoformat()}".replace("&", "&&")
    sheet.oddFooter.left.text = whose
    sheet.oddFooter.center.text = "&A"
    sheet.oddFooter.right.text = "&P / &N"


def _words(text: str) -> str:
    return inert(visible(text))[:MOST_SIGNS]
