"""All findings of the job: by cause or each, chosen by station, severity and words, put in order, printed."""

import math
from html import escape

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QHeaderView, QLabel, QLineEdit, QPushButton

from lodestaff.checks import Finding
from lodestaff.desktop.actions import STATION_NAMES, STATIONS
from lodestaff.desktop.flow import FlowLayout
from lodestaff.desktop.printing import preview
from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, number, words
from lodestaff.quantities import text_of
from lodestaff.quantities.errors import shortened
from lodestaff.reckoning.figure_rows import STATUSES
from lodestaff.reckoning.findings import station_of
from lodestaff.reckoning.gathered import Cause, gathered

ALL = "all but passed"


def station_name(cause: Cause) -> str:
    """The station at which a cause stands."""
    return STATION_NAMES.get(station_of(cause.worst.code), "")


def margin(cause: Cause) -> str:
    """How far the worst answer is on the right side of its limit, with its unit; '' where there is none."""
    worst = cause.worst
    return "" if worst.margin is None or math.isnan(worst.margin) else text_of(worst.margin, worst.unit)


MOST_SIGNS = 180  # of a finding in its row; the rest is in the tip and in its working


def to_do(cause: Cause) -> str:
    """The remedies of a cause, else what is advised."""
    return "; ".join(remedy.name for remedy in cause.remedies) or cause.worst.advice


COLUMNS: tuple[Column[Cause], ...] = (
    words("Verdict", lambda cause: cause.status, order=lambda cause: STATUSES.index(cause.status)),
    words("Station", station_name),
    words("Check", lambda cause: cause.codes),
    words(
        "Finding", lambda cause: shortened(cause.text, MOST_SIGNS), tip=lambda cause: cause.text, wide=True
    ),
    number("Answers", lambda cause: cause.count, decimals=0),
    words("Margin", margin, figures=True),
    words("To do", to_do, wide=True, tip=to_do),
)


class FindingsPage(SidePage):
    """Enter or a double click goes to where a finding stands and shows its working."""

    chosen = Signal(object)

    def __init__(self, store: Store) -> None:
        print_button = QPushButton("Print…")
        print_button.clicked.connect(self.print_them)
        super().__init__("All findings", print_button)
        self.store = store
        self.typed, self.station, self.status = QLineEdit(), QComboBox(), QComboBox()
        self.typed.setPlaceholderText("words of a finding, or its code")
        self.typed.setAccessibleName("Words of a finding")
        self.typed.setMinimumWidth(240)
        self.station.setAccessibleName("Station")
        self.station.addItem("all stations", "")
        for row in STATIONS:
            self.station.addItem(row.name, row.id)
        self.status.setAccessibleName("Verdict")
        for name in (ALL, *STATUSES, "all"):
            self.status.addItem(name)
        self.by_cause = QCheckBox("One line for a cause")
        self.by_cause.setChecked(True)
        choices = FlowLayout()
        for widget in (self.typed, self.station, self.status, self.by_cause):
            choices.addWidget(widget)
        self.column.addLayout(choices)
        self.count = QLabel()
        self.count.setObjectName("soft")
        self.column.addWidget(self.count)
        self.table: Table[Cause] = Table("Findings", COLUMNS, act=lambda cause: self.chosen.emit(cause.worst))
        self.table.setWordWrap(True)
        self.table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.column.addWidget(self.table, 1)
        self.typed.textChanged.connect(self.refresh)
        self.station.currentIndexChanged.connect(self.refresh)
        self.status.currentIndexChanged.connect(self.refresh)
        self.by_cause.toggled.connect(self.refresh)

    def open(self) -> None:
        """Show what stands now."""
        self.refresh()
        self.table.setFocus()

    def follow(self) -> None:
        """There are other findings: they are gathered where the page is in view, else when it is opened."""
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """The findings that were asked for."""
        findings = [finding for finding in self._all() if self._asked_for(finding)]
        causes = (
            gathered(findings) if self.by_cause.isChecked() else tuple(Cause((each,)) for each in findings)
        )
        if causes != self.table.rows:
            self.table.show_rows(causes)
        self.count.setText(f"{len(findings)} of {len(self._all())} answers, {len(causes)} lines")

    def _all(self) -> tuple[Finding, ...]:
        return self.store.results.findings if self.store.results is not None else ()

    def _asked_for(self, finding: Finding) -> bool:
        station, status = self.station.currentData(), self.status.currentText()
        said = f"{finding.code} {finding.text} {' '.join(finding.open_because)}".lower()
        return (
            (not station or station_of(finding.code) == station)
            and (status in ("all", finding.status) or (status == ALL and finding.status != "passed"))
            and all(word in said for word in self.typed.text().lower().split())
        )

    def print_them(self) -> None:
        """The lines in view, in their order, on paper."""
        preview(self, f"Findings, {self.store.job.title if self.store.job else ''}", self.html())

    def html(self) -> str:
        """The lines in view, in their order, as a table, each finding in full."""
        order = self.table.ordered
        lines = [
            self.table.rows[order.mapToSource(order.index(row, 0)).row()] for row in range(order.rowCount())
        ]
        head = "".join(f"<th align='left'>{column.heading}</th>" for column in COLUMNS)
        rows = "".join(
            "<tr>"
            + "".join(f"<td>{escape(column.tip(line) or column.text(line))}</td>" for column in COLUMNS)
            + "</tr>"
            for line in lines
        )
        title = escape(self.store.job.title) if self.store.job else ""
        return (
            f"<h2>Findings, {title}</h2><p>{escape(self.count.text())}</p>"
            f"<table border='1' cellspacing='0' cellpadding='3' width='100%'><thead><tr>{head}</tr></thead>"
            f"{rows}</table>"
        )
