"""Rows under declared columns, as the views of the toolkit ask for them."""

from collections.abc import Sequence
from typing import Any, Generic

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QSortFilterProxyModel, Qt

from lodestaff.desktop.table.column import Column, Row
from lodestaff.desktop.theme import font

Index = QModelIndex | QPersistentModelIndex
RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)


class Rows(QAbstractTableModel, Generic[Row]):
    """Rows in the order of the job."""

    def __init__(self, columns: Sequence[Column[Row]]) -> None:
        super().__init__()
        self.columns = tuple(columns)
        self.rows: tuple[Row, ...] = ()

    def show(self, rows: Sequence[Row]) -> None:
        """Show these rows. What is chosen keeps its place; of rows that read as before nothing is told."""
        before, now, root = len(self.rows), len(rows), QModelIndex()
        pairs = zip(self.rows, rows, strict=False)
        other = [place for place, (old, new) in enumerate(pairs) if old is not new and old != new]
        if now > before:
            self.beginInsertRows(root, before, now - 1)
        elif now < before:
            self.beginRemoveRows(root, now, before - 1)
        self.rows = tuple(rows)
        if now > before:
            self.endInsertRows()
        elif now < before:
            self.endRemoveRows()
        if other:
            self._changed(other[0], other[-1])

    def _changed(self, first: int, last: int) -> None:
        if 0 <= first <= last < len(self.rows):
            self.dataChanged.emit(self.index(first, 0), self.index(last, len(self.columns) - 1))

    def head(self, columns: Sequence[Column[Row]]) -> None:
        """Begin anew under other columns, without a row."""
        self.beginResetModel()
        self.columns, self.rows = tuple(columns), ()
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  (Qt's signature)
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self.columns[section].heading
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        row, column = self.rows[index.row()], self.columns[index.column()]
        match role:
            case Qt.ItemDataRole.DisplayRole | Qt.ItemDataRole.EditRole:
                return column.text(row)
            case Qt.ItemDataRole.TextAlignmentRole if column.figures:
                return RIGHT
            case Qt.ItemDataRole.FontRole if column.figures:
                return font("text")
            case Qt.ItemDataRole.BackgroundRole:
                return column.ground(row)
            case Qt.ItemDataRole.ToolTipRole:
                return column.tip(row) or None
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        takes = self.columns[index.column()].takes(self.rows[index.row()])
        return base | Qt.ItemFlag.ItemIsEditable if takes else base

    def setData(self, index: Index, value: Any, role: int = 0) -> bool:
        row, column = self.rows[index.row()], self.columns[index.column()]
        text = str(value).strip()
        if role != Qt.ItemDataRole.EditRole or column.typed is None or text == column.text(row):
            return False
        taken = column.typed(row, text) is not False
        self._changed(index.row(), index.row())  # what was refused stands as it was
        return taken


class Ordered(QSortFilterProxyModel):
    """The rows as a heading puts them in order; what isn't known comes last either way."""

    def __init__(self, rows: Rows[Any]) -> None:
        super().__init__()
        self.rows = rows
        self.setSourceModel(rows)

    def lessThan(self, left: Index, right: Index) -> bool:
        column = self.rows.columns[left.column()]
        (no_left, a), (no_right, b) = (
            column.ordered_by(self.rows.rows[index.row()]) for index in (left, right)
        )
        if no_left or no_right:
            return bool(no_right if self.sortOrder() == Qt.SortOrder.AscendingOrder else no_left)
        return bool(a < b)
