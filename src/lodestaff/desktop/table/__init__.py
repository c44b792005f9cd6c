"""Every table of the window: columns declared, one model, one view."""

from lodestaff.desktop.table.column import Column, number, words
from lodestaff.desktop.table.view import Table

__all__ = ["Column", "Table", "number", "words"]
