"""The diagram of every device on landscape sheets: words of a size to read, as many sheets as that takes."""

import math
from dataclasses import dataclass
from typing import Any

from lodestaff.exchange.figure import draw_shape
from lodestaff.exchange.looks import SOURCE_INK, SOURCE_ORDER
from lodestaff.topology import Answer
from lodestaff.wiring import Drawing

LEAST_PT = 6.0  # of a printed word
OVERLAP_MM = 12.0  # of the drawing, that two sheets both show
TITLE_PT = 46.0  # height of the title block
MOST_SCALE = 3.2  # points for a millimetre of the drawing: small ones aren't blown up


@dataclass(frozen=True)
class Sheet:
    """A window of the drawing: its place among the sheets, its left top corner in mm, points per mm."""

    row: int
    column: int
    rows: int
    columns: int
    x_mm: float
    y_mm: float
    scale: float

    @property
    def number(self) -> int:
        return self.row * self.columns + self.column + 1

    @property
    def of(self) -> int:
        return self.rows * self.columns

    def neighbour(self, down: int, right: int) -> int | None:
        """The number of a sheet beside this one; None where there is none."""
        row, column = self.row + down, self.column + right
        inside = 0 <= row < self.rows and 0 <= column < self.columns
        return row * self.columns + column + 1 if inside else None


def sheets_of(drawing: Drawing, width_pt: float, height_pt: float) -> tuple[Sheet, ...]:
    """The whole drawing on one sheet where its words keep their size, else on several that overlap."""
    high = height_pt - TITLE_PT
    scale = min(MOST_SCALE, width_pt / drawing.width, high / drawing.height)
    columns = rows = 1
    if scale * drawing.text_mm < LEAST_PT:
        scale = LEAST_PT / drawing.text_mm
        columns, rows = (
            max(1, math.ceil((whole - OVERLAP_MM) / (room / scale - OVERLAP_MM)))
            for whole, room in ((drawing.width, width_pt), (drawing.height, high))
        )
    wide, tall = width_pt / scale, high / scale
    sheets = []
    for row in range(rows):
        for column in range(columns):
            x = (drawing.width - wide) * (column / (columns - 1) if columns > 1 else 0.5)
            y = (drawing.height - tall) * (row / (rows - 1) if rows > 1 else 0.5)
            sheets.append(Sheet(row, column, rows=rows, columns=columns, x_mm=x, y_mm=y, scale=scale))
    return tuple(sheets)


def sheet_flowable(
    drawing: Drawing, answer: Answer, sheet: Sheet, size_pt: tuple[float, float], title: tuple[str, ...]
) -> Any:
    """A sheet as a flowable: the window, what goes on where, the title block with date, state, legend."""
    from reportlab.lib.colors import HexColor
    from reportlab.platypus import Flowable

    width, height = size_pt
    high = height - TITLE_PT
    ink = HexColor("#1B232E")

    class Window(Flowable):  # type: ignore[misc,unused-ignore]
        def __init__(self) -> None:
            super().__init__()
            self.width, self.height = width, height

        def draw(self) -> None:
            canvas: Any = self.canv
            canvas.saveState()
            frame = canvas.beginPath()
            frame.rect(0, TITLE_PT, width, high)
            canvas.clipPath(frame, stroke=0)
            foot = TITLE_PT + high + (sheet.y_mm - drawing.height) * sheet.scale
            canvas.translate(-sheet.x_mm * sheet.scale, foot)
            for shape in drawing.shapes:
                draw_shape(canvas, shape, answer, sheet.scale, drawing)
            canvas.restoreState()
            canvas.setDash()
            canvas.setStrokeColor(ink)
            canvas.setFillColor(ink)
            canvas.setLineWidth(0.6)
            canvas.rect(0, TITLE_PT, width, high)
            canvas.rect(0, 0, width, TITLE_PT)
            _title(canvas, sheet, title, width, HexColor)
            _onward(canvas, sheet, width, height)

    return Window()


def _title(canvas: Any, sheet: Sheet, title: tuple[str, ...], width: float, colour: Any) -> None:
    canvas.setFont("B612-Bold", 9)
    canvas.drawString(6, TITLE_PT - 14, title[0])
    canvas.setFont("B612", 7)
    for line, words in enumerate(title[1:], start=1):
        canvas.drawString(6, TITLE_PT - 14 - 10 * line, words)
    canvas.drawRightString(width - 6, TITLE_PT - 14, f"sheet {sheet.number} of {sheet.of}")
    x = width - 6.0
    for kind in reversed(SOURCE_ORDER):
        x -= canvas.stringWidth(kind, "B612", 7)
        canvas.setFillColor(colour(SOURCE_INK[kind]))
        canvas.drawString(x, TITLE_PT - 24, kind)
        x -= 10
    canvas.setFillColor(colour("#1B232E"))
    canvas.drawRightString(x, TITLE_PT - 24, "A line for each source that makes a conductor live:")


def _onward(canvas: Any, sheet: Sheet, width: float, height: float) -> None:
    """At the edges, on which sheet it goes on."""
    canvas.setFont("B612", 6.5)
    if sheet.of == 1:
        return
    canvas.drawCentredString(width / 2, height - 9, _named(sheet, -1, 0))
    canvas.drawCentredString(width / 2, TITLE_PT + 4, _named(sheet, 1, 0))
    for x, step in ((8.0, -1), (width - 4.0, 1)):
        canvas.saveState()
        canvas.translate(x, TITLE_PT + (height - TITLE_PT) / 2)
        canvas.rotate(90)
        canvas.drawCentredString(0, 0, _named(sheet, 0, step))
        canvas.restoreState()


def _named(sheet: Sheet, down: int, right: int) -> str:
    other = sheet.neighbour(down, right)
    return f"goes on on sheet {other}" if other else ""
