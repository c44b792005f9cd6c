"""Drilling templates at full size, over as many sheets as they need, with a ruler on each to check it by."""

import io
import math
from typing import Any

from lodestaff.exchange.pdf import register_fonts
from lodestaff.places.templates import Template
from lodestaff.quantities.errors import visible

EDGE_MM, FOOT_MM, LAP_MM = 10.0, 22.0, 10.0  # of the paper: free at its edges, for the words, glued over
RULER_MM, CROSS_MM = 100.0, 6.0


def drilling_sheets(template: Template, paper: str, title: str) -> bytes:
    """PDF bytes of a template on A4 or Letter. What lies nearer than 10 mm to a sheet's inner edge stands on
    the next sheet again: the sheets are laid over each other there, cross on cross."""
    from reportlab.lib import pagesizes
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    size = pagesizes.letter if paper == "Letter" else pagesizes.A4
    sheets = sheets_of(template, *size)
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=size, invariant=1)
    canvas.setTitle(f"{title}: {template.name}")
    canvas.setCreator("Lodestaff")
    for number, (left, foot, wide, high) in enumerate(sheets, 1):
        _sheet(canvas, template, (left, foot, wide, high))
        _words(canvas, template, title, f"Sheet {number} of {len(sheets)}", (left, foot))
        canvas.showPage()
    canvas.save()
    return buffer.getvalue()


def sheets_of(template: Template, wide_pt: float, high_pt: float) -> list[tuple[float, float, float, float]]:
    """What each sheet shows, mm of the template: left, foot, width, height; row by row from the top."""
    from reportlab.lib.units import mm

    wide = wide_pt / mm - 2 * EDGE_MM
    high = high_pt / mm - 2 * EDGE_MM - FOOT_MM
    columns = max(1, math.ceil((template.width_mm - LAP_MM) / (wide - LAP_MM) - 1e-9))
    rows = max(1, math.ceil((template.height_mm - LAP_MM) / (high - LAP_MM) - 1e-9))
    return [
        (column * (wide - LAP_MM), row * (high - LAP_MM), wide, high)
        for row in reversed(range(rows))
        for column in range(columns)
    ]


def _sheet(canvas: Any, template: Template, part: tuple[float, float, float, float]) -> None:
    """The stretch of the template that a sheet shows."""
    from reportlab.lib.units import mm

    left, foot, wide, high = part
    canvas.saveState()
    frame = canvas.beginPath()
    frame.rect(EDGE_MM * mm, (EDGE_MM + FOOT_MM) * mm, wide * mm, high * mm)
    canvas.clipPath(frame, stroke=0, fill=0)
    canvas.translate((EDGE_MM - left) * mm, (EDGE_MM + FOOT_MM - foot) * mm)
    for piece in template.pieces:
        canvas.setLineWidth(0.8)
        canvas.rect(piece.x_mm * mm, piece.y_mm * mm, piece.width_mm * mm, piece.height_mm * mm)
        canvas.setFont("B612", 8)
        canvas.drawString((piece.x_mm + 3) * mm, (piece.y_mm + 3) * mm, visible(piece.name))
        canvas.setLineWidth(0.3)
        for what, x, y, diameter in piece.holes:
            if what == "entry":
                canvas.setDash(3, 2)
            canvas.circle(x * mm, y * mm, diameter / 2 * mm)
            canvas.setDash()
            for across, up in ((CROSS_MM, 0.0), (0.0, CROSS_MM)):
                reach = diameter / 2 + CROSS_MM
                canvas.line(
                    (x - reach * bool(across)) * mm,
                    (y - reach * bool(up)) * mm,
                    (x + reach * bool(across)) * mm,
                    (y + reach * bool(up)) * mm,
                )
            canvas.setFont("B612", 6)
            words = f"{what} Ø {diameter:g}: {x:g}, {y:g}"
            canvas.drawString((x + diameter / 2 + 1.5) * mm, (y + 1.5) * mm, words)
    canvas.restoreState()
    canvas.setLineWidth(0.2)
    canvas.setDash(1, 3)
    canvas.rect(EDGE_MM * mm, (EDGE_MM + FOOT_MM) * mm, wide * mm, high * mm)
    canvas.setDash()


def _words(canvas: Any, template: Template, title: str, number: str, corner: tuple[float, float]) -> None:
    """At the foot: a ruler, what it is, which stretch this sheet shows."""
    from reportlab.lib.units import mm

    y = EDGE_MM * mm
    canvas.setLineWidth(0.5)
    canvas.line(EDGE_MM * mm, y, (EDGE_MM + RULER_MM) * mm, y)
    for tick in range(0, int(RULER_MM) + 1, 10):
        x = (EDGE_MM + tick) * mm
        canvas.line(x, y, x, y + 2 * mm)
    canvas.setFont("B612", 7)
    canvas.drawString((EDGE_MM + RULER_MM + 3) * mm, y, "100 mm: print at full size, then measure this.")
    lines = [
        f"{title}: {template.name}. {number}, from {corner[0]:g} mm along and {corner[1]:g} mm up.",
        f"{template.place}. As one faces the wall; full circles are fixings, broken ones cable entries.",
        *template.gaps,
    ]
    for row, line in enumerate(lines[:4]):
        canvas.drawString(
            EDGE_MM * mm, y + (5 + 3.4 * (min(len(lines), 4) - 1 - row)) * mm, visible(line)[:130]
        )
