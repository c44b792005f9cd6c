"""The working of a figure: value, formula, inputs with how they are known, limit, margin, source."""

from html import escape

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QTextDocument
from PySide6.QtWidgets import QLabel, QScrollArea, QVBoxLayout, QWidget

from lodestaff.checks import Finding
from lodestaff.desktop.language import READING, said, tr
from lodestaff.desktop.link_button import LinkButton
from lodestaff.desktop.theme import current, font
from lodestaff.quantities import Figure, text_of
from lodestaff.reckoning.readings import Reading


def working_html(of: Reading | Finding) -> str:
    """The working as rich text."""
    finding = of if isinstance(of, Finding) else of.finding
    keys = (finding.rule, finding.code) if finding is not None else (READING,)
    figure = of.figure
    soft = f"color:{current().soft}"
    parts = _figure_html(figure, soft, keys) if figure is not None else []
    unit = figure.unit if figure is not None else ""
    if finding is not None and finding.limit is not None:
        margin = text_of(finding.margin or 0.0, unit)
        source = (
            f"<br><span style='{soft}'>{tr('from')} {escape(said(str(finding.limit_source), *keys))}</span>"
            if finding.limit_source
            else ""
        )
        parts.append(
            f"<p><span style='{soft}'>{tr('Limit')}</span> {escape(text_of(finding.limit, unit))}, "
            f"<span style='{soft}'>{tr('margin')}</span> {escape(margin)}{source}</p>"
        )
    if finding is not None:
        parts.append(f"<p>{escape(said(finding.text, *keys))}</p>")
        if finding.open:
            why = "; ".join(said(reason, *keys) for reason in finding.open_because)
            parts.append(f"<p><b>{tr('Open')}</b>: {escape(why)}</p>")
        if finding.advice:
            parts.append(f"<p>{escape(said(finding.advice, *keys))}</p>")
    if figure is not None and figure.note:
        parts.append(f"<p style='{soft}'>{escape(said(figure.note, *keys))}</p>")
    return "".join(parts)


def _figure_html(figure: Figure, soft: str, keys: tuple[str, ...]) -> list[str]:
    """A figure with its formula, inputs and source."""

    def words(text: str) -> str:
        return escape(said(text, *keys))

    rows = []
    for entry in figure.inputs:
        value = (
            text_of(entry.value, entry.unit) if isinstance(entry.value, int | float) else words(entry.value)
        )
        known = f"<br><span style='{soft};font-size:small'>{words(entry.known)}</span>" if entry.known else ""
        name = f"<td style='padding-right:8px'>{words(entry.name)}{known}</td>"
        rows.append(f"<tr>{name}<td align='right'>{value}</td></tr>")
    return [
        f"<p><b>{words(figure.name)}</b></p>",
        f"<p style='font-size:large'><b>{escape(text_of(figure.value, figure.unit))}</b></p>",
        f"<p><span style='{soft}'>{tr('Formula')}</span><br>{words(figure.formula)}</p>",
        f"<table width='100%' cellspacing='0' cellpadding='2'>{''.join(rows)}</table>",
        f"<p><span style='{soft}'>{tr('Source')}</span><br>{words(str(figure.source))}</p>",
    ]


class WorkingView(QWidget):
    """Takes the reckoning's place until it is closed."""

    closed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.of: Reading | Finding | None = None
        self.setObjectName("cards")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Working")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 10, 8)
        back = LinkButton(tr("Back to the figures · Esc"))
        back.clicked.connect(self.closed)
        column.addWidget(back)
        self.text = QLabel()
        self.text.setWordWrap(True)
        self.text.setTextFormat(Qt.TextFormat.RichText)
        self.text.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.text)
        column.addWidget(scroll)

    def plain_text(self) -> str:
        """The working as text alone."""
        document = QTextDocument()
        document.setHtml(self.text.text())
        return document.toPlainText()

    def show_working(self, of: Reading | Finding) -> None:
        self.of = of
        self.text.setFont(font("text"))
        self.text.setText(working_html(of))
        self.setAccessibleDescription(of.figure.name if of.figure is not None else of.text)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)
