"""Two versions of the job side by side, figure by figure."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHeaderView, QPushButton, QTableWidget, QTableWidgetItem

from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour
from lodestaff.reckoning.compare import Row, difference_text


class Comparison(SidePage):
    """Takes the station's place until it is closed. What differs stands on tinted ground."""

    taken = Signal()

    def __init__(self) -> None:
        self.take_button = QPushButton("Take it")
        super().__init__("", self.take_button)
        self.take_button.setToolTip("Make the change in this job, as one step that can be undone")
        self.take_button.clicked.connect(self.taken)
        self.table = QTableWidget(0, 5)
        self.table.setAccessibleName("Comparison")
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(30)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.table.setTabKeyNavigation(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.column.addWidget(self.table)

    def show_rows(self, rows: tuple[Row, ...], a: str, b: str, can_take: bool = False) -> None:
        """Show a comparison of the versions named a and b; `can_take` where b is offered to the job."""
        self.take_button.setVisible(can_take)
        self.title.setText(f"{a} against {b}")
        self.table.setHorizontalHeaderLabels(["", "What", a, b, "Difference"])
        self.table.setRowCount(len(rows))
        for index, row in enumerate(rows):
            for column, text in enumerate((row.group, row.name, row.a, row.b, difference_text(row))):
                item = QTableWidgetItem(text)
                if column > 1:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                if not row.same:
                    item.setBackground(colour(current().hand_ground))
                self.table.setItem(index, column, item)
        self.table.setFocus()
