"""A page of the pack as rich text, with the diagram as a picture."""

from html import escape

from PySide6.QtCore import QByteArray, QSize, QUrl
from PySide6.QtGui import QImage, QPainter, QTextDocument
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QTextBrowser

from lodestaff.desktop.theme import current, font
from lodestaff.exchange.looks import VERDICT_INK
from lodestaff.exchange.svg import svg
from lodestaff.handover import Caution, Diagram, Page, Sign, Table, Text
from lodestaff.job import Job
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.wired import Wiring
from lodestaff.wiring import draw

# Paper is white in every look, as it will be printed.
PAPER, INK, SOFT, LINE = "#FFFFFF", "#1B232E", "#4A5260", "#CFCABC"
STATUS_INK = {"doubtful": "warns", "failed": "blocks"}
DIAGRAM_URL = "diagram"
PRINTED_PX = 680  # the diagram's width on a sheet


class Paper(QTextBrowser):
    """Shows one page."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Page of the pack")
        self.setOpenLinks(False)

    def show_page(self, page: Page, job: Job, wiring: Wiring) -> None:
        """Show a page of a job; the place in it stays where the page stays the same."""
        place = self.verticalScrollBar().value()
        document = QTextDocument(self)
        document.setDocumentMargin(22)
        document.setDefaultFont(font("text"))
        if any(isinstance(block, Diagram) for block in page.blocks):
            wide = max(300, self.viewport().width() - 60)
            picture = _picture(job, wiring, wide)
            document.addResource(QTextDocument.ResourceType.ImageResource.value, QUrl(DIAGRAM_URL), picture)
        document.setHtml(html(page))
        self.setDocument(document)
        self.setStyleSheet(
            f"QTextBrowser {{ background: {PAPER}; color: {INK}; border: 1px solid {current().line}; }}"
        )
        self.verticalScrollBar().setValue(place)


def _picture(job: Job, wiring: Wiring, width: int) -> QImage:
    grid = wiring.answers[0]
    drawing = draw(wiring.topology, grid.positions)
    renderer = QSvgRenderer(QByteArray(svg(drawing, grid, job.title)))
    image = QImage(QSize(width, round(width * drawing.height / drawing.width)), QImage.Format.Format_RGB32)
    image.fill(PAPER)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    renderer.render(painter)
    painter.end()
    return image


def whole_pack(made: tuple[Page, ...], job: Job, wiring: Wiring) -> tuple[str, dict[str, object]]:
    """All pages one after the other, each on a sheet of its own, with their pictures by name."""
    broken = "<p style='page-break-before:always'></p>"
    return broken.join(html(page) for page in made), {DIAGRAM_URL: _picture(job, wiring, PRINTED_PX)}


def html(page: Page) -> str:
    """A page as the subset of HTML that Qt lays out."""
    title, text, small = (font(role).pixelSize() for role in ("title", "text", "label"))
    parts = [f"<p style='font-size:{title}px'><b>{escape(page.title)}</b></p>"]
    red = VERDICT_INK["blocks"]
    parts += [f"<p style='color:{red}'><b>■ Missing:</b> {escape(gap)}</p>" for gap in page.missing]
    for block in page.blocks:
        match block:
            case Text(words, "head"):
                parts.append(f"<p style='font-size:{text + 2}px'><b>{escape(words)}</b></p>")
            case Text(words, "small"):
                parts.append(f"<p style='font-size:{small}px; color:{SOFT}'>{escape(words)}</p>")
            case Text(words):
                parts.append(f"<p>{escape(words)}</p>")
            case Caution(words):
                parts.append(f"<p><b style='color:{VERDICT_INK['warns']}'>▲</b> {escape(words)}</p>")
            case Table():
                parts.append(_table(block, small))
            case Diagram():
                parts.append(f"<p><img src='{DIAGRAM_URL}'></p>")
            case Sign(role, name):
                parts.append(
                    f"<p>{escape(role)}: {escape(name)}</p><p>Signature ______________________  Date "
                    "____________</p>"
                )
    return f"<body style='color:{INK}'>{''.join(parts)}</body>"


def _table(table: Table, size: int) -> str:
    whole = sum(table.shares)
    widths = [f"{plain(share / whole * 100, 0)}%" for share in table.shares]
    head = "".join(
        f"<th align='left' width='{width}'>{escape(words)}</th>"
        for words, width in zip(table.columns, widths, strict=True)
    )
    rows = []
    for row in table.rows:
        cells = []
        for column, words in enumerate(row):
            text = escape(words)
            if column == table.mark:
                ink = VERDICT_INK.get(STATUS_INK.get(words, words), VERDICT_INK["notes"])
                text = f"<b style='color:{ink}'>{text}</b>"
            cells.append(f"<td>{text}</td>")
        rows.append(f"<tr>{''.join(cells)}</tr>")
    look = (
        f"border='1' cellspacing='0' cellpadding='3' width='100%' style='border-color:{LINE}; "
        f"font-size:{size}px'"
    )
    return f"<table {look}><thead><tr>{head}</tr></thead>{''.join(rows)}</table>"
