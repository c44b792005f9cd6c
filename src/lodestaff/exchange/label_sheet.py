"""Labels on a sheet that prints to size: cut out, each says at its foot where it goes."""

import io
from collections.abc import Sequence
from typing import Any

from lodestaff.exchange.pdf import register_fonts, shown

WIDE_MM, HIGH_MM, EDGE_MM = 90.0, 45.0, 12.0
RULER_MM = 100.0
MOST_PT, LEAST_PT = 13.0, 6.0


def label_sheet(labels: Sequence[tuple[str, str]], paper: str, title: str) -> bytes:
    """PDF bytes of labels (text, place) on A4 or Letter, with a ruler on every page to check its size by."""
    from reportlab.lib import pagesizes
    from reportlab.lib.units import mm
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    size = pagesizes.letter if paper == "Letter" else pagesizes.A4
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=size, invariant=1)
    canvas.setTitle(title)
    canvas.setCreator("Lodestaff")
    columns = int((size[0] - 2 * EDGE_MM * mm) // (WIDE_MM * mm))
    rows = int((size[1] - (2 * EDGE_MM + 10) * mm) // (HIGH_MM * mm))
    for number, (text, place) in enumerate(labels):
        at = number % (columns * rows)
        if at == 0:
            if number:
                canvas.showPage()
            _ruler(canvas, title, mm)
        x = EDGE_MM * mm + (at % columns) * WIDE_MM * mm
        y = size[1] - EDGE_MM * mm - (at // columns + 1) * HIGH_MM * mm
        _label(canvas, text, place, (x, y, WIDE_MM * mm, HIGH_MM * mm))
    canvas.showPage()
    canvas.save()
    return buffer.getvalue()


def _ruler(canvas: Any, title: str, mm: float) -> None:
    canvas.setFont("B612", 7)
    y = 8 * mm
    canvas.line(EDGE_MM * mm, y, (EDGE_MM + RULER_MM) * mm, y)
    for tick in range(0, int(RULER_MM) + 1, 10):
        x = (EDGE_MM + tick) * mm
        canvas.line(x, y, x, y + 2 * mm)
    words = f"{RULER_MM:g} mm: print at full size.  {title}"
    canvas.drawString((EDGE_MM + RULER_MM + 3) * mm, y, words[:90])


def _label(canvas: Any, text: str, place: str, box: tuple[float, float, float, float]) -> None:
    """A frame, the words as large as they fit, and where it goes."""
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import Paragraph

    x, y, wide, high = box
    canvas.rect(x, y, wide, high)
    room, size = high - 22, MOST_PT
    while True:
        style = ParagraphStyle("label", fontName="B612-Bold", fontSize=size, leading=1.2 * size, alignment=1)
        words = Paragraph(shown(text), style)
        _, tall = words.wrap(wide - 12, room)
        if tall <= room or size <= LEAST_PT:
            break
        size -= 0.5
    words.drawOn(canvas, x + 6, y + 14 + max(0.0, (room - tall) / 2))
    foot = Paragraph(
        f"goes: {shown(place)}", ParagraphStyle("foot", fontName="B612", fontSize=6, leading=7, alignment=1)
    )
    foot.wrap(wide - 8, 14)
    foot.drawOn(canvas, x + 4, y + 2)
