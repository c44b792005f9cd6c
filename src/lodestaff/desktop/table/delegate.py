"""How a cell is opened: a field that shows what it understands, a choice, a button."""

from typing import Any

from PySide6.QtCore import QAbstractItemModel, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QLineEdit,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from lodestaff.desktop.table.column import Column
from lodestaff.desktop.table.model import Index, Ordered
from lodestaff.desktop.understood import understand


class Opens(QStyledItemDelegate):
    """Editors by what the column declares."""

    def __init__(self, parent: QWidget, ordered: Ordered) -> None:
        super().__init__(parent)
        self.ordered = ordered

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        column, row = self._cell(index)
        if column.press is not None:
            button = QPushButton(column.text(row), parent)
            button.setAccessibleName(column.spoken(row))
            place = self.ordered.index(index.row(), index.column())
            button.clicked.connect(lambda: self._press(place.row(), place.column()))
            return button
        if column.choices(row):
            box = QComboBox(parent)
            box.activated.connect(lambda: self.commitData.emit(box))
            return box
        editor: Any = super().createEditor(parent, option, index)
        if isinstance(editor, QLineEdit):
            understand(editor, lambda: column.reads(row))
        return editor  # type: ignore[no-any-return]

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        column, row = self._cell(index)
        if isinstance(editor, QComboBox):
            choices = list(column.choices(row))
            if choices != [editor.itemText(place) for place in range(editor.count())]:
                editor.clear()
                editor.addItems(choices)
            editor.setCurrentText(column.text(row))
        elif not isinstance(editor, QPushButton):
            super().setEditorData(editor, index)
            return
        editor.setAccessibleName(column.spoken(row))

    def setModelData(self, editor: QWidget, model: QAbstractItemModel, index: Index) -> None:
        if isinstance(editor, QComboBox):
            model.setData(index, editor.currentText(), Qt.ItemDataRole.EditRole)
        elif not isinstance(editor, QPushButton):
            super().setModelData(editor, model, index)

    def _cell(self, index: Index) -> tuple[Column[Any], Any]:
        rows = self.ordered.rows
        return rows.columns[index.column()], rows.rows[self.ordered.mapToSource(index).row()]

    def _press(self, row: int, column: int) -> None:
        declared, of = self._cell(self.ordered.index(row, column))
        if declared.press is not None:
            declared.press(of)
