"""Schedules and results as a workbook: a sheet for every named table of the pack."""

import io
import re
from collections.abc import Sequence

from lodestaff.handover import HandoverInput, Page, Table

BAD_START = ("=", "+", "-", "@")  # a cell that begins so is a formula to some programs
MOST_WIDTH = 60
PLAIN_NUMBER = re.compile(r"[+-]?\d+(\.\d+)?")
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")


def workbook(given: HandoverInput, pages: Sequence[Page]) -> bytes:
    """The tables as XLSX bytes. Words stay words: no cell is a formula."""
    from openpyxl import Workbook
    from openpyxl.styles import Alignment, Font

    book = Workbook()
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
        sheet.append([_words(cell) for cell in table.columns])
        for row in table.rows:
            sheet.append([_words(cell) for cell in row])
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        for index, column in enumerate(table.columns, start=1):
            longest = max([len(column), *(len(row[index - 1]) for row in table.rows)])
            sheet.column_dimensions[sheet.cell(1, index).column_letter].width = min(MOST_WIDTH, longest + 2)
        for cells in sheet.iter_rows(min_row=2):
            for cell in cells:
                cell.alignment = Alignment(wrap_text=True, vertical="top")
                cell.data_type = "s"
        sheet.freeze_panes = "A2"
    buffer = io.BytesIO()
    book.save(buffer)
    return buffer.getvalue()


def _words(text: str) -> str:
    clean = CONTROL.sub("", text)
    if clean.startswith(BAD_START) and clean != "-" and not PLAIN_NUMBER.fullmatch(clean):
        return f"'{clean}"
    return clean
