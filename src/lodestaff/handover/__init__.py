"""The pack that is handed over, as pages of words, tables and charts: one content for window, PDF and
workbook."""

from lodestaff.handover.model import (
    PART_NAMES,
    Caution,
    Chart,
    Diagram,
    ModuleMap,
    Page,
    Picture,
    Series,
    Sign,
    Table,
    Text,
    Walls,
)
from lodestaff.handover.pages import HandoverInput, pages

__all__ = [
    "PART_NAMES",
    "Caution",
    "Chart",
    "Diagram",
    "HandoverInput",
    "ModuleMap",
    "Page",
    "Picture",
    "Series",
    "Sign",
    "Table",
    "Text",
    "Walls",
    "pages",
]
