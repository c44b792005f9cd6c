"""Tables give and take their cells: copied with tabs between, pasted into what can be typed, as one
undoable step."""

from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext

from PySide6.QtCore import QPersistentModelIndex, Qt
from PySide6.QtGui import QGuiApplication, QKeySequence, QShortcut
from PySide6.QtWidgets import QTableView

Together = Callable[[str], AbstractContextManager[object]]


def gives_and_takes(view: QTableView, together: Together = nullcontext) -> None:
    """Copy and paste by the keys that every program has; `together` makes what is pasted one step."""
    for keys, do in (
        (QKeySequence.StandardKey.Copy, lambda: copy(view)),
        (QKeySequence.StandardKey.Paste, lambda: paste(view, together)),
    ):
        shortcut = QShortcut(QKeySequence(keys), view)
        shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
        shortcut.activated.connect(do)


def copy(view: QTableView) -> None:
    """The chosen cells, a line for each row, tabs between columns; cells in between that aren't chosen are
    empty."""
    chosen = {
        (selectedIndex.row(), selectedIndex.column()): str(selectedIndex.data() or "")
        for selectedIndex in view.selectedIndexes()
    }
    if not chosen:
        return
    rows, columns = ({place[side] for place in chosen} for side in (0, 1))
    lines = ["\t".join(chosen.get((row, column), "") for column in sorted(columns)) for row in sorted(rows)]
    QGuiApplication.clipboard().setText("\n".join(lines))


def paste(view: QTableView, together: Together = nullcontext) -> None:
    """The clipboard's cells from the current cell on; what can't be typed there is passed over."""
    start, model = view.currentIndex(), view.model()
    block = [line.split("\t") for line in QGuiApplication.clipboard().text().rstrip("\n").split("\n")]
    if not start.isValid() or not any(map(any, block)):
        return
    cells = [  # held where they stand now: what is pasted may put the rows in another order
        (QPersistentModelIndex(model.index(start.row() + down, start.column() + across)), text)
        for down, line in enumerate(block)
        for across, text in enumerate(line)
    ]
    with together(f"Paste {len(cells)} cells"):
        for index, text in cells:
            takes = index.isValid() and index.flags() & Qt.ItemFlag.ItemIsEditable
            if takes and str(index.data() or "") != text:
                model.setData(index, text, Qt.ItemDataRole.EditRole)
