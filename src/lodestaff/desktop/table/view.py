"""The view of declared columns: sorted by its headings, copied, pasted, gone through by keys."""

from collections.abc import Callable, Sequence
from contextlib import nullcontext
from typing import Any, Generic

from PySide6.QtCore import QModelIndex, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHeaderView, QTableView

from lodestaff.desktop.table.column import Column, Row
from lodestaff.desktop.table.copying import Together, gives_and_takes
from lodestaff.desktop.table.delegate import Opens
from lodestaff.desktop.table.model import Ordered, Rows

OPENS = (
    QTableView.EditTrigger.DoubleClicked
    | QTableView.EditTrigger.EditKeyPressed
    | QTableView.EditTrigger.AnyKeyPressed
)


class Table(QTableView, Generic[Row]):
    """Rows under declared columns.

    `act` is what Enter or a double click does with a row, `remove` what Delete does. `came_to` tells of the
    row that a person came to. Rows whose order says something aren't put in another (`sorts`).
    """

    came_to = Signal(object)

    def __init__(
        self,
        name: str,
        columns: Sequence[Column[Row]],
        *,
        together: Together = nullcontext,
        act: Callable[[Row], object] | None = None,
        remove: Callable[[Row], object] | None = None,
        sorts: bool = True,
    ) -> None:
        super().__init__()
        self.act, self.remove = act, remove
        self.source = Rows(columns)
        self.source.setParent(self)
        self.ordered = Ordered(self.source)
        self.ordered.setParent(self)
        self.setModel(self.ordered)
        self.setItemDelegate(Opens(self, self.ordered))
        self.setAccessibleName(name)
        self.setAlternatingRowColors(True)
        self.setTabKeyNavigation(False)
        self.setEditTriggers(OPENS)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(32)
        self.setSortingEnabled(sorts)
        self.horizontalHeader().setSortIndicatorClearable(True)  # a third click: the job's own order again
        self.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        self._spread()
        gives_and_takes(self, together)
        if act is not None or remove is not None:
            self.setSelectionBehavior(QTableView.SelectionBehavior.SelectRows)
        if act is not None:
            self.activated.connect(self._acted)

    def _spread(self) -> None:
        """Columns as wide as their words, those that are wide over what is left."""
        head = self.horizontalHeader()
        head.setResizeContentsPrecision(
            0
        )  # by what is in view: a long table is not read whole at each change
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        for place, column in enumerate(self.source.columns):
            if column.wide:
                head.setSectionResizeMode(place, QHeaderView.ResizeMode.Stretch)

    # --- what stands in it -------------------------------------------------------------------------------
    @property
    def rows(self) -> tuple[Row, ...]:
        """The rows in the order of the job."""
        return self.source.rows

    def show_rows(self, rows: Sequence[Row], columns: Sequence[Column[Row]] | None = None) -> None:
        """Show these rows, under other columns where such are given."""
        if columns is not None:
            self.source.head(columns)
            self._spread()
        self.source.show(rows)
        for place, column in enumerate(self.source.columns):
            for line, row in enumerate(self.rows if column.standing or column.press is not None else ()):
                self._stand(self.index_of(line, place), column.press is not None or bool(column.choices(row)))

    def _stand(self, index: QModelIndex, wanted: bool) -> None:
        """A choice or a button that is seen without opening the cell, where one is wanted."""
        if wanted != self.isPersistentEditorOpen(index):
            (self.openPersistentEditor if wanted else self.closePersistentEditor)(index)

    def index_of(self, row: int, column: int) -> QModelIndex:
        """Where a cell stands as it is sorted now, by its row in the job's order."""
        return self.ordered.mapFromSource(self.source.index(row, column))

    def text_at(self, row: int, column: int) -> str:
        """What a cell shows, by its row in the job's order."""
        return self.source.columns[column].text(self.source.rows[row])

    def type_at(self, row: int, column: int, text: str) -> None:
        """Type into a cell, as a person would. What can't be typed over stays."""
        index = self.source.index(row, column)
        if index.flags() & Qt.ItemFlag.ItemIsEditable:
            self.source.setData(index, text, Qt.ItemDataRole.EditRole)

    # --- where one is --------------------------------------------------------------------------------------
    def present(self) -> Row | None:
        """The row one is at."""
        index = self.currentIndex()
        return self.rows[self.ordered.mapToSource(index).row()] if index.isValid() else None

    def go_to(self, row: int) -> None:
        """Go to a row of the job's order, without telling of it."""
        if not 0 <= row < len(self.rows):
            return
        told = self.blockSignals(True)
        self.setCurrentIndex(self.index_of(row, 0))
        self.blockSignals(told)

    def currentChanged(self, current: Any, previous: Any) -> None:
        super().currentChanged(current, previous)
        row = self.present()
        if row is not None and not self.signalsBlocked():
            self.came_to.emit(row)

    def _acted(self, index: QModelIndex) -> None:
        if self.act is not None and index.isValid():
            self.act(self.rows[self.ordered.mapToSource(index).row()])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        row = self.present()
        if event.key() == Qt.Key.Key_Delete and self.remove is not None and row is not None:
            self.remove(row)
        else:
            super().keyPressEvent(event)
