"""The reckoning: the figures a decision turns on, the findings, and the working of any of them."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QApplication, QLabel, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from lodestaff.checks import Finding
from lodestaff.desktop.language import tr
from lodestaff.desktop.link_button import LinkButton
from lodestaff.desktop.shell.finding_cards import CauseCard
from lodestaff.desktop.shell.reading_view import PAD_PX, ReadingView
from lodestaff.desktop.shell.working import WorkingView
from lodestaff.job import Job
from lodestaff.reckoning.figure_rows import FigureRow, figure_rows, whose
from lodestaff.reckoning.gathered import Cause, gathered
from lodestaff.reckoning.readings import Reading

FOLD_ABOVE = 4  # more passed checks than this are folded away until asked for


class Reckoning(QStackedWidget):
    """Figures and findings of a station, or the working of one of them."""

    remedy_chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("reckoning")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(280)
        self.working = WorkingView()
        self.working.closed.connect(lambda: self.setCurrentIndex(0))
        self.views: list[ReadingView] = []
        self.cards: list[CauseCard] = []
        self.job: Job | None = None
        self._shown: tuple[list[Reading], list[Reading] | None] = ([], None)
        self.opened_rows: set[str] = set()  # names whose figures are shown each
        self.opened: set[tuple[object, ...]] = set()  # causes whose answers are shown each
        page = QWidget()
        page.setObjectName("cards")
        column = QVBoxLayout(page)
        column.setContentsMargins(16, 12, 14, 12)
        column.setSpacing(8)
        self.heading, self.words, self.findings_heading = QLabel(), QLabel(), QLabel("Findings")
        for label, name in (
            (self.heading, "heading"),
            (self.words, "soft"),
            (self.findings_heading, "heading"),
        ):
            label.setObjectName(name)
        self.words.setWordWrap(True)
        self.readings_column, self.cards_column = QVBoxLayout(), QVBoxLayout()
        self.readings_column.setContentsMargins(-PAD_PX, 0, -PAD_PX, 0)
        self.readings_column.setSpacing(2)
        self.cards_column.setSpacing(8)
        column.addWidget(self.heading)
        column.addWidget(self.words)
        column.addLayout(self.readings_column)
        column.addWidget(self.findings_heading)
        column.addLayout(self.cards_column)
        self._all: list[Finding] = []
        self.unfolded = False
        self.with_findings = True
        self.fold_button = LinkButton()
        self.fold_button.clicked.connect(self._fold)
        self.fold_button.hide()
        column.addWidget(self.fold_button)
        column.addStretch(1)
        self.scroller = QScrollArea()
        self.scroller.setObjectName("reckoning")
        self.scroller.setWidgetResizable(True)
        self.scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.scroller.setWidget(page)
        self.addWidget(self.scroller)
        self.addWidget(self.working)

    def show_figures(
        self,
        readings: list[Reading],
        findings: list[Finding],
        before: list[Reading] | None = None,
        note: str = "",
        job: Job | None = None,
    ) -> None:
        """Show readings and findings, keeping what is as it was; `before` marks what a try-out changes."""
        self.job = job or self.job
        self._shown = (readings, before)
        self.heading.setText(tr("Figures" if before is None else "Figures, if dropped here"))
        self.words.setText(note)
        self.heading.setVisible(bool(readings))
        self.words.setVisible(bool(note))
        self.findings_heading.setVisible(bool(findings) and self.with_findings)
        self._show_readings(readings, before)
        self._all = findings
        findings = findings if self.with_findings else []
        passed = sum(finding.status == "passed" for finding in findings)
        folded = passed > FOLD_ABOVE and not self.unfolded
        self._show_findings(
            [finding for finding in findings if finding.status != "passed"] if folded else findings
        )
        self.fold_button.setVisible(passed > FOLD_ABOVE)
        shown = tr("Show {passed} checks that passed", passed=passed)
        self.fold_button.say(shown if folded else tr("Hide the checks that passed"))
        self.findings_heading.setText(tr("Findings"))

    def _fold(self) -> None:
        """Show or hide the checks that passed."""
        self.unfolded = not self.unfolded
        self._show_again()

    def _show_again(self) -> None:
        readings, before = self._shown
        self.show_figures(readings, self._all, before, self.words.text())

    def _show_readings(self, readings: list[Reading], before: list[Reading] | None) -> None:
        """One row for the figures of a name; those of an opened one follow it."""
        were = {id(reading): old for reading, old in zip(readings, before or (), strict=False)}
        shown: list[tuple[FigureRow, bool]] = []
        for row in figure_rows(readings):
            shown.append((row, False))
            if row.count > 1 and row.name in self.opened_rows:
                shown += [(FigureRow((reading,)), True) for reading in row.readings]
        while len(self.views) > len(shown):
            _remove(self.views.pop(), self.readings_column)
        while len(self.views) < len(shown):
            view = ReadingView()
            view.clicked.connect(lambda view=view: self._row_chosen(view))
            self.views.append(view)
            self.readings_column.addWidget(view)
        for view, (row, inner) in zip(self.views, shown, strict=True):
            of = whose(row.worst.finding.owner, self.job) if row.worst.finding and self.job else ""
            view.show_row(row, were.get(id(row.worst)), of, inner, row.name in self.opened_rows and not inner)

    def _row_chosen(self, view: ReadingView) -> None:
        """One figure turns to its working, several are shown each or folded again."""
        if view.row.count == 1:
            self.open_working(view.reading)
            return
        self.opened_rows ^= {view.row.name}
        self._show_again()
        view.setFocus()

    def _show_findings(self, findings: list[Finding]) -> None:
        """One card for a cause; those of an opened one follow it."""
        shown: list[tuple[Cause, bool, bool]] = []  # each with whether it is below another, and opened
        for cause in gathered(findings):
            opened = cause.count > 1 and cause.key in self.opened
            shown.append((cause, False, opened))
            shown += [(Cause((finding,)), True, False) for finding in cause.findings if opened]
        for index, (cause, inner, opened) in enumerate(shown):
            if index < len(self.cards) and self.cards[index].shows(cause, inner, opened):
                self.cards[index].cause = cause
                continue
            card = CauseCard(cause, inner, opened)
            card.clicked.connect(lambda card=card: self._card_chosen(card))
            card.remedy_chosen.connect(self.remedy_chosen)
            if index < len(self.cards):
                _remove(self.cards[index], self.cards_column)
                self.cards[index] = card
            else:
                self.cards.append(card)
            self.cards_column.insertWidget(index, card)
        while len(self.cards) > len(shown):
            _remove(self.cards.pop(), self.cards_column)

    def _card_chosen(self, card: CauseCard) -> None:
        """One answer turns to its working, several are shown each or folded again."""
        if card.cause.count == 1:
            self.open_working(card.cause.worst)
            return
        place = self.cards.index(card)
        self.opened ^= {card.cause.key}
        self._show_again()
        self.cards[place].setFocus()

    def show_findings_too(self, wanted: bool) -> None:
        """Whether the findings stand below the figures; a customer is shown the figures alone."""
        self.with_findings = wanted
        self._show_again()

    def finding_in_working(self) -> Finding | None:
        """The finding whose working is open."""
        of = self.working.of if self.currentWidget() is self.working else None
        return of if isinstance(of, Finding) else of.finding if of is not None else None

    def copy_working(self) -> None:
        """The working that is open as text on the clipboard, else the figures of the station."""
        if self.currentWidget() is self.working:
            text = self.working.plain_text()
        else:
            text = "\n".join(
                f"{view.reading.name}\t{view.reading.text}\t{view.reading.beside}" for view in self.views
            )
        QApplication.clipboard().setText(text)

    def open_working(self, of: Reading | Finding) -> None:
        """Turn to the working of a figure or finding; Esc or the link turns back."""
        self.working.show_working(of)
        self.setCurrentIndex(1)
        self.working.setFocus()


def _remove(widget: QWidget, layout: QVBoxLayout) -> None:
    layout.removeWidget(widget)
    widget.hide()
    widget.deleteLater()
