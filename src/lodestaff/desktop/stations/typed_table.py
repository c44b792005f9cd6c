"""A table that is filled from the store and hands on what is typed into it."""

from contextlib import nullcontext

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from lodestaff.desktop.copying import Together, gives_and_takes
from lodestaff.desktop.understood import Reads, UnderstoodDelegate


class TypedTable(QTableWidget):
    """Subclasses fill it in `refresh` with `put`, and take what was typed in `typed`."""

    def __init__(
        self, name: str, headings: list[str], stretch: bool = False, together: Together = nullcontext
    ) -> None:
        super().__init__(0, len(headings))
        gives_and_takes(self, together)
        self.setAccessibleName(name)
        self.setHorizontalHeaderLabels(headings)
        mode = QHeaderView.ResizeMode.Stretch if stretch else QHeaderView.ResizeMode.ResizeToContents
        self.horizontalHeader().setSectionResizeMode(mode)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(32)
        self.setTabKeyNavigation(False)
        self.setItemDelegate(UnderstoodDelegate(self, self.reads))
        self.itemChanged.connect(self._changed)

    def put(self, row: int, column: int, text: str, editable: bool, ground: QColor | None = None) -> None:
        """Set a cell's words, and whether they can be typed over."""
        item = self.item(row, column)
        if item is None:
            item = QTableWidgetItem()
            self.setItem(row, column, item)
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        item.setText(text)
        item.setFlags(base | Qt.ItemFlag.ItemIsEditable if editable else base)
        if ground is not None:
            item.setBackground(ground)

    def _changed(self, item: QTableWidgetItem) -> None:
        self.typed(item.row(), item.column(), item.text().strip())
        self.refresh()

    def reads(self, row: int, column: int) -> Reads | None:
        """How a cell is understood while it is typed; None for words."""
        return None

    def typed(self, row: int, column: int, text: str) -> None:
        raise NotImplementedError

    def refresh(self) -> None:
        raise NotImplementedError
