"""The pack that is handed over, as pages of words and tables: one content for the window, the PDF and the
workbook."""

from lodestaff.handover.model import Caution, Diagram, Page, Sign, Table, Text
from lodestaff.handover.pages import HandoverInput, pages

__all__ = ["Caution", "Diagram", "HandoverInput", "Page", "Sign", "Table", "Text", "pages"]
