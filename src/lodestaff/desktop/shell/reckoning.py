"""The reckoning: the figures a decision turns on, the findings, and the working of any of them."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QApplication,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from lodestaff.checks import Finding
from lodestaff.desktop.shell.finding_cards import CauseCard, Clickable
from lodestaff.desktop.shell.working import WorkingView
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame, mark
from lodestaff.reckoning.gathered import Cause, gathered
from lodestaff.reckoning.readings import Reading

FOLD_ABOVE = 4  # more passed checks than this are folded away until asked for


class ReadingView(Clickable):
    """One figure with its margin bar. Click or Enter opens its working."""

    def __init__(self) -> None:
        super().__init__()
        self.reading: Reading
        self.before: Reading | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_reading(self, reading: Reading, before: Reading | None) -> None:
        """Show a reading; `before` is what it was where a try-out changes it."""
        self.reading, self.before = reading, before
        self.setAccessibleName(f"{reading.name}: {reading.text}, {reading.beside}, {reading.status}")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, round(58 * text_scale()))

    def paintEvent(self, event: QPaintEvent) -> None:
        look, reading = current(), self.reading
        painter = QPainter(self)
        k, width = text_scale(), self.width()
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        metrics = QFontMetricsF(painter.font())
        beside = metrics.horizontalAdvance(reading.beside)
        name = metrics.elidedText(reading.name, Qt.TextElideMode.ElideRight, width - beside - 10)
        painter.drawText(QRectF(0, 0, width, 15 * k), Qt.AlignmentFlag.AlignLeft, name)
        painter.drawText(QRectF(0, 0, width, 15 * k), Qt.AlignmentFlag.AlignRight, reading.beside)
        value, _, unit = reading.text.partition(" ")
        painter.setFont(font("reading"))
        painter.setPen(colour(look.ink))
        painter.drawText(
            QRectF(0, 14 * k, width, 28 * k),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            value,
        )
        x = QFontMetricsF(painter.font()).horizontalAdvance(value) + 6
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        painter.drawText(QRectF(x, 21 * k, 60 * k, 20 * k), Qt.AlignmentFlag.AlignLeft, unit)
        if self.before is not None and self.before.text != reading.text:
            painter.setPen(colour(look.hand))
            painter.drawText(
                QRectF(0, 21 * k, width - 20, 20 * k), Qt.AlignmentFlag.AlignRight, f"was {self.before.text}"
            )
        mark(painter, look, reading.status, QRectF(width - 13, 22 * k, 11, 11))
        self._bar(painter, 46 * k)
        if self.hasFocus():
            focus_frame(painter, look, QRectF(self.rect()).adjusted(1, 1, -1, -1))
        painter.end()

    def _bar(self, painter: QPainter, y: float) -> None:
        look, reading = current(), self.reading
        painter.fillRect(QRectF(0, y, self.width(), 5), colour(look.rest))
        share = min(1.0, max(0.0, reading.share * (LIMIT_AT if reading.limited else 1.0)))
        painter.fillRect(QRectF(0, y, self.width() * share, 5), colour(getattr(look, reading.status)))
        if reading.limited:
            painter.fillRect(QRectF(self.width() * LIMIT_AT - 1, y - 3, 2, 11), colour(look.ink))


LIMIT_AT = 0.8  # how far along its bar a limit stands


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
        for layout in (self.readings_column, self.cards_column):
            layout.setSpacing(8)
        column.addWidget(self.heading)
        column.addWidget(self.words)
        column.addLayout(self.readings_column)
        column.addWidget(self.findings_heading)
        column.addLayout(self.cards_column)
        self._all: list[Finding] = []
        self.unfolded = False
        self.with_findings = True
        self.fold_button = QPushButton("")
        self.fold_button.setObjectName("link")
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
    ) -> None:
        """Show readings and findings, keeping what is as it was; `before` marks what a try-out changes."""
        self.heading.setText("Figures" if before is None else "Figures, if dropped here")
        self.words.setText(note)
        self.words.setVisible(bool(note))
        self.findings_heading.setVisible(bool(findings))
        self._show_readings(readings, before)
        self._all = findings
        findings = findings if self.with_findings else []
        passed = sum(finding.status == "passed" for finding in findings)
        folded = passed > FOLD_ABOVE and not self.unfolded
        self._show_findings(
            [finding for finding in findings if finding.status != "passed"] if folded else findings
        )
        self.fold_button.setVisible(passed > FOLD_ABOVE)
        self.fold_button.setText(
            f"Show {passed} checks that passed" if folded else "Hide the checks that passed"
        )

    def _fold(self) -> None:
        """Show or hide the checks that passed."""
        self.unfolded = not self.unfolded
        self._show_again()

    def _show_again(self) -> None:
        readings = [view.reading for view in self.views]
        before = [view.before for view in self.views if view.before is not None]
        self.show_figures(readings, self._all, before or None, self.words.text())

    def _show_readings(self, readings: list[Reading], before: list[Reading] | None) -> None:
        while len(self.views) > len(readings):
            _remove(self.views.pop(), self.readings_column)
        while len(self.views) < len(readings):
            view = ReadingView()
            view.clicked.connect(lambda view=view: self.open_working(view.reading))
            self.views.append(view)
            self.readings_column.addWidget(view)
        for index, (view, reading) in enumerate(zip(self.views, readings, strict=True)):
            view.set_reading(reading, before[index] if before is not None and index < len(before) else None)

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
