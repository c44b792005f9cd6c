"""Two versions of the job side by side: what differs, by how much, and which is the better."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QLabel, QPushButton

from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.table import Column, Table
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour
from lodestaff.reckoning.compare import Row, difference_text

BAR = 8  # strokes of the longest bar


def verdict(row: Row) -> str:
    """Better or worse in a word, and how far apart as a bar."""
    word = "" if row.better is None else "better" if row.better else "worse"
    return f"{'━' * round(BAR * min(1.0, row.share))} {word}".strip()


class Comparison(SidePage):
    """Takes the station's place until it is closed. Only what differs, unless all is asked for."""

    taken = Signal()

    def __init__(self) -> None:
        self.take_button = QPushButton("Take it")
        super().__init__("", self.take_button)
        self.take_button.setToolTip("Make the change in this job, as one step that can be undone")
        self.take_button.clicked.connect(self.taken)
        self.all = QCheckBox("All figures, also those that are the same")
        self.all.toggled.connect(self._show)
        self.column.addWidget(self.all)
        self.none = QLabel("The two don't differ.")
        self.none.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.column.addWidget(self.none, 1)
        self.table: Table[Row] = Table("Comparison", ())
        self.column.addWidget(self.table, 1)
        self.rows: tuple[Row, ...] = ()
        self.named = ("", "")

    def show_rows(self, rows: tuple[Row, ...], a: str, b: str, can_take: bool = False) -> None:
        """Show a comparison of the versions named a and b; `can_take` where b is offered to the job."""
        self.take_button.setVisible(can_take)
        self.title.setText(f"{a} against {b}")
        self.rows, self.named = rows, (a, b)
        self._show()
        self.table.setFocus()

    def _show(self) -> None:
        """The rows that were asked for."""
        shown = [row for row in self.rows if self.all.isChecked() or not row.same]
        self.none.setVisible(not shown)
        self.table.setVisible(bool(shown))
        self.table.show_rows(shown, self._columns())

    def _columns(self) -> list[Column[Row]]:
        tints = {True: colour(current().passed, 40), False: colour(current().warns, 40)}
        plain = colour(current().hand_ground)
        a, b = self.named
        shown: tuple[tuple[str, Callable[[Row], str]], ...] = (
            ("", lambda row: row.group),
            ("What", lambda row: row.name),
            (a, lambda row: row.a),
            (b, lambda row: row.b),
            ("Difference", difference_text),
            (f"{b} is", verdict),
        )
        return [
            Column(
                heading,
                text,
                wide=heading == "What",
                figures=2 <= place <= 4,
                order=(lambda row: -row.share) if place == 5 else None,
                ground=lambda row: None if row.same else tints.get(row.better, plain),  # type: ignore[arg-type]
            )
            for place, (heading, text) in enumerate(shown)
        ]
