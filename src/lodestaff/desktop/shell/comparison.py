"""Two versions of the job side by side, figure by figure."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton

from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.table import Column, Table
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
        self.table: Table[Row] = Table("Comparison", ())
        self.column.addWidget(self.table)

    def show_rows(self, rows: tuple[Row, ...], a: str, b: str, can_take: bool = False) -> None:
        """Show a comparison of the versions named a and b; `can_take` where b is offered to the job."""
        self.take_button.setVisible(can_take)
        self.title.setText(f"{a} against {b}")
        tinted = colour(current().hand_ground)
        shown: tuple[tuple[str, Callable[[Row], str]], ...] = (
            ("", lambda row: row.group),
            ("What", lambda row: row.name),
            (a, lambda row: row.a),
            (b, lambda row: row.b),
            ("Difference", difference_text),
        )
        columns = [
            Column(
                heading,
                text,
                wide=heading == "What",
                figures=place > 1,
                ground=lambda row: None if row.same else tinted,
            )
            for place, (heading, text) in enumerate(shown)
        ]
        self.table.show_rows(rows, columns)
        self.table.setFocus()
