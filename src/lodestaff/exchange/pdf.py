"""The pack as PDF: each page of the handover with what is missing marked on it."""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import cache
from importlib import resources
from typing import TYPE_CHECKING, Any
from xml.sax.saxutils import escape

from lodestaff import __version__
from lodestaff.exchange.charts import chart_flowable
from lodestaff.exchange.figure import diagram_flowable
from lodestaff.exchange.looks import SOURCE_INK, SOURCE_ORDER, VERDICT_INK
from lodestaff.exchange.marks import SHEETS, bookmark, counting
from lodestaff.exchange.roofs import roof_flowables
from lodestaff.exchange.sheets import sheet_flowable, sheets_of
from lodestaff.exchange.walls import walls_flowables
from lodestaff.handover import (
    Caution,
    Chart,
    Diagram,
    HandoverInput,
    ModuleMap,
    Page,
    Picture,
    Sign,
    Table,
    Text,
    Walls,
)
from lodestaff.quantities.errors import JobError, visible
from lodestaff.reckoning import Reckoner
from lodestaff.wiring import draw, seen_at, usual_level

if TYPE_CHECKING:
    from reportlab.platypus import Flowable

FONTS = {"B612": "B612-Regular.ttf", "B612-Bold": "B612-Bold.ttf"}
MARGIN_MM, FOOT_MM, EDGE_MM = 18.0, 20.0, 10.0  # EDGE_MM of the landscape sheets


@cache
def register_fonts() -> None:
    """Embed the shipped fonts; without them a PDF would rest on what the reader's machine has."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for name, file in FONTS.items():
        raw = (resources.files("lodestaff") / "assets" / "fonts" / file).read_bytes()
        pdfmetrics.registerFont(TTFont(name, io.BytesIO(raw)))
    pdfmetrics.registerFontFamily(
        "B612", normal="B612", bold="B612-Bold", italic="B612", boldItalic="B612-Bold"
    )


def pdf(reckoner: Reckoner, given: HandoverInput, pages: Sequence[Page]) -> bytes:
    """The pages as PDF bytes, on the paper of the job's pack."""
    from reportlab.lib import pagesizes
    from reportlab.lib.units import mm
    from reportlab.platypus import BaseDocTemplate, Frame, NextPageTemplate, PageBreak, PageTemplate

    register_fonts()
    job = given.job
    paper = pagesizes.letter if job.pack.paper == "Letter" else pagesizes.A4
    width = paper[0] - 2 * MARGIN_MM * mm
    broad = (paper[1], paper[0])
    sheet_pt = (broad[0] - 2 * EDGE_MM * mm, broad[1] - (EDGE_MM + FOOT_MM) * mm)
    writer = _Writer(reckoner, given, width, sheet_pt)
    story: list[Flowable] = []
    for number, page in enumerate(pages):
        if number:
            story.append(PageBreak())
        story += writer.page(page)
        if writer.sheets:
            story.append(NextPageTemplate("sheet"))
            for sheet in writer.sheets:
                story += [PageBreak(), sheet]
            story.append(NextPageTemplate("page"))
            writer.sheets = []
    buffer = io.BytesIO()
    document = BaseDocTemplate(
        buffer,
        pagesize=paper,
        leftMargin=MARGIN_MM * mm,
        rightMargin=MARGIN_MM * mm,
        topMargin=16 * mm,
        bottomMargin=FOOT_MM * mm,
        title=job.title,
        author=given.register.firm.name or "Lodestaff",
        creator="Lodestaff",
        subject="Handover of a solar and storage installation",
        lang="en",
        invariant=1,
    )

    def foot(canvas: Any, _document: Any) -> None:
        canvas.saveState()
        canvas.setFont("B612", 7)
        canvas.drawString(MARGIN_MM * mm, 12 * mm, job.pack.caution("licence"))
        printed = (
            f"{job.title}, {given.printed.isoformat()}, pack {job.pack.edition}, Lodestaff {__version__}"
        )
        canvas.drawString(MARGIN_MM * mm, 9 * mm, printed)
        right = canvas._pagesize[0] - MARGIN_MM * mm
        canvas.drawRightString(right - 14, 9 * mm, f"page {canvas.getPageNumber()} of")
        canvas.translate(right - 12, 9 * mm)
        canvas.doForm(SHEETS)
        canvas.restoreState()

    frame = Frame(MARGIN_MM * mm, FOOT_MM * mm, width, paper[1] - (16 + FOOT_MM) * mm, id="page")
    flat = {f"{side}Padding": 0 for side in ("left", "right", "top", "bottom")}
    whole = Frame(EDGE_MM * mm, FOOT_MM * mm, sheet_pt[0], sheet_pt[1] + 0.1, id="sheet", **flat)
    document.addPageTemplates(
        [
            PageTemplate("page", [frame], onPage=foot, pagesize=paper),
            PageTemplate("sheet", [whole], onPage=foot, pagesize=broad),
        ]
    )
    document.build(story, canvasmaker=counting(given.printed))
    return buffer.getvalue()


def shown(text: str) -> str:
    """Any text as a paragraph takes it."""
    return escape(visible(text))


class _Writer:
    """Turns blocks into what reportlab lays out."""

    def __init__(
        self, reckoner: Reckoner, given: HandoverInput, width: float, sheet_pt: tuple[float, float]
    ) -> None:
        from reportlab.lib.colors import HexColor
        from reportlab.lib.styles import ParagraphStyle

        self.reckoner, self.given, self.job, self.width = reckoner, given, given.job, width
        self.sheet_pt = sheet_pt
        self.sheets: list[Flowable] = []  # landscape ones, that follow the page
        self.part = ""
        ink = HexColor("#1B232E")
        body = ParagraphStyle(
            "body", fontName="B612", fontSize=8.5, leading=11.5, textColor=ink, spaceAfter=2
        )
        self.styles = {
            "body": body,
            "small": ParagraphStyle("small", body, fontSize=7.2, leading=9.6, textColor=HexColor("#4A5260")),
            "title": ParagraphStyle(
                "title", body, fontName="B612-Bold", fontSize=15, leading=20, spaceAfter=4
            ),
            "head": ParagraphStyle(
                "head", body, fontName="B612-Bold", fontSize=10.5, leading=14, spaceBefore=9, spaceAfter=3
            ),
            "caution": ParagraphStyle("caution", body, leftIndent=10, firstLineIndent=-8, spaceBefore=2),
            "missing": ParagraphStyle("missing", body, textColor=HexColor(VERDICT_INK["blocks"])),
        }
        self.cell = ParagraphStyle("cell", body, fontSize=7.6, leading=9.8, spaceAfter=0)

    def words(self, text: str, style: str) -> Flowable:
        from reportlab.platypus import Paragraph

        return Paragraph(text, self.styles[style])

    def page(self, page: Page) -> list[Flowable]:
        flowables = [self.words(shown(page.title), "title")]
        flowables.insert(0, bookmark(page, new_part=page.part != self.part))
        self.part = page.part
        flowables += [self.words(f"<b>Missing:</b> {shown(gap)}", "missing") for gap in page.missing]
        for block in page.blocks:
            match block:
                case Text(words, style):
                    flowables.append(self.words(shown(words), style))
                case Caution(words):
                    flowables.append(self.words(f"<b>!</b> {shown(words)}", "caution"))
                case Table():
                    flowables.append(self.table(block))
                case Diagram(simple):
                    flowables += self.overview() if simple else self.diagram()
                case Chart(name):
                    flowables.append(self.words(shown(name), "small"))
                    flowables.append(chart_flowable(block, self.width))
                case Walls():
                    flowables += walls_flowables(self.reckoner, self.job, self.width)
                case ModuleMap():
                    flowables += roof_flowables(self.job, self.width)
                case Picture(sha256, words):
                    flowables += self.picture(sha256, words)
                case Sign(role, name):
                    flowables.append(self.sign(role, name))
        return flowables

    def table(self, table: Table) -> Flowable:
        from reportlab.lib.colors import HexColor
        from reportlab.platypus import Paragraph, Spacer, TableStyle
        from reportlab.platypus import Table as Grid

        if not table.rows:
            return Spacer(1, 4)
        whole = sum(table.shares)
        head = [Paragraph(f"<b>{shown(cell)}</b>", self.styles["small"]) for cell in table.columns]
        rows = []
        for row in table.rows:
            cells = []
            for column, cell in enumerate(row):
                text = shown(cell)
                if column == table.mark:
                    ink = VERDICT_INK.get(cell, VERDICT_INK["notes"])
                    text = f"<font color='{ink}'><b>{text}</b></font>"
                cells.append(Paragraph(text, self.cell))
            rows.append(cells)
        grid = Grid(
            [head, *rows], [share / whole * self.width for share in table.shares], repeatRows=1, splitInRow=1
        )
        pads = [
            (side, (0, 0), (-1, -1), size)
            for side, size in (
                ("TOPPADDING", 1.5),
                ("BOTTOMPADDING", 1.5),
                ("LEFTPADDING", 2),
                ("RIGHTPADDING", 2),
            )
        ]
        grid.setStyle(
            TableStyle(
                [
                    ("VALIGN", (0, 0), (-1, -1), "TOP"),
                    ("LINEBELOW", (0, 0), (-1, 0), 0.7, HexColor("#1B232E")),
                    ("LINEBELOW", (0, 1), (-1, -1), 0.25, HexColor("#CFCABC")),
                    *pads,
                ]
            )
        )
        return grid

    def diagram(self) -> list[Flowable]:
        wiring = self.reckoner.wiring(self.job)
        grid = wiring.answers[0]
        there = {source.kind for source in wiring.topology.sources}
        key = "  ".join(
            f"<font color='{SOURCE_INK[kind]}'>{kind}</font>" for kind in SOURCE_ORDER if kind in there
        )
        flowables = [self.words(f"Lines: {key}.", "small")]
        if usual_level(wiring.topology) == "overview":
            seen = seen_at(wiring.topology, "overview")
            flowables.append(diagram_flowable(draw(seen, grid.positions), grid, self.width))
        drawing, job = draw(wiring.topology, grid.positions), self.job
        sheets = sheets_of(drawing, *self.sheet_pt)
        title = (
            f"{job.title}, {job.site.place}",
            f"{job.pack.title}, {job.pack.edition}; {self.given.printed.isoformat()}; "
            f"state: {grid.state.name}",
            "Every device. Assists a licensed person; the local code and the maker's instructions rule.",
        )
        self.sheets = [
            sheet_flowable(drawing, grid, sheet, self.sheet_pt, tuple(map(visible, title)))
            for sheet in sheets
        ]
        on = "on the next sheet" if len(sheets) == 1 else f"on the next {len(sheets)} sheets"
        return [*flowables, self.words(f"Every device stands {on}.", "small")]

    def overview(self) -> list[Flowable]:
        """The diagram in one picture, without the sheets of every device."""
        wiring = self.reckoner.wiring(self.job)
        grid = wiring.answers[0]
        seen = seen_at(wiring.topology, "overview")
        return [diagram_flowable(draw(seen, grid.positions), grid, self.width, 300.0)]

    def picture(self, sha256: str, words: str) -> list[Flowable]:
        """A photo of the job, no higher than a third of a page; what can't be read is said."""
        from reportlab.lib.utils import ImageReader
        from reportlab.platypus import Image

        try:
            raw = self.reckoner.attachment(sha256)
            wide, high = ImageReader(io.BytesIO(raw)).getSize()
        except (JobError, OSError) as trouble:
            return [self.words(shown(f"{words}: the photo can't be shown. {trouble}"), "small")]
        scale = min(self.width / wide, 170.0 / high)
        return [Image(io.BytesIO(raw), wide * scale, high * scale), self.words(shown(words), "small")]

    def sign(self, role: str, name: str) -> Flowable:
        from reportlab.lib.colors import HexColor
        from reportlab.platypus import Table as Grid
        from reportlab.platypus import TableStyle

        cells = [
            [
                self.words(shown(f"{role}: {name}"), "body"),
                self.words("Signature", "small"),
                self.words("Date", "small"),
            ]
        ]
        grid = Grid(cells, [0.42 * self.width, 0.38 * self.width, 0.2 * self.width], rowHeights=[34])
        ink = HexColor("#1B232E")
        grid.setStyle(
            TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (1, 0), (-1, 0), 0.6, ink)])
        )
        return grid
