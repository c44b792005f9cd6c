"""The pack's charts, drawn once as vectors: for the paper, and for the window that shows the paper."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from lodestaff.exchange.looks import SERIES_INK
from lodestaff.handover.model import Chart, Series

if TYPE_CHECKING:
    from reportlab.platypus import Flowable

HIGH_PT, LEFT_PT, FOOT_PT, HEAD_PT = 150.0, 34.0, 16.0, 26.0
INK, SOFT, LINE = "#1B232E", "#4A5260", "#CFCABC"
HATCHED = {"grid", "export"}  # told apart without colour


def chart_flowable(chart: Chart, width: float) -> Flowable:
    """A chart as wide as the page."""
    from reportlab.graphics.shapes import Drawing

    drawing = Drawing(width, HIGH_PT)
    _Plot(drawing, chart, width).draw()
    return drawing


def round_step(most: float, steps: int = 4) -> float:
    """A step of 1, 2 or 5 times a power of ten, so that so many reach the most."""
    if most <= 0:
        return 1.0
    raw = most / steps
    power: float = math.pow(10.0, math.floor(math.log10(raw)))
    gap: float = next(
        (power * digit for digit in (1.0, 2.0, 5.0) if power * digit >= raw - 1e-12), power * 10
    )
    return gap


class _Plot:
    """One chart on its drawing, in points."""

    def __init__(self, drawing: Any, chart: Chart, width: float) -> None:
        self.drawing, self.chart, self.width = drawing, chart, width
        above = [series for series in chart.series if not series.below]
        below = [series for series in chart.series if series.below]
        self.up = self._most(above)
        self.down = self._most(below)
        self.step = round_step(max(self.up, self.down, 1e-9))
        self.bottom, self.top = FOOT_PT, HIGH_PT - HEAD_PT
        scale = self.up + self.down or 1.0
        self.per = (self.top - self.bottom) / scale
        self.zero = self.bottom + self.down * self.per
        self.slot = (width - LEFT_PT) / max(1, len(chart.labels))

    def _most(self, series: list[Series]) -> float:
        if not series:
            return 0.0
        if self.chart.beside:
            return max(max(other.values) for other in series)
        return max(float(sum(values)) for values in zip(*(other.values for other in series), strict=True))

    def draw(self) -> None:
        self._axis()
        for group in (
            [series for series in self.chart.series if not series.below],
            [series for series in self.chart.series if series.below],
        ):
            if group:
                self._bars(group, -1.0 if group[0].below else 1.0)
        self._line(self.zero, INK, 0.8)
        self._legend()

    def _axis(self) -> None:
        level = 0.0
        while level <= max(self.up, self.down) * 1.0001:
            for sign, most in ((1, self.up), (-1, self.down)):
                if level <= most * 1.0001 and (level or sign == 1):
                    y = self.zero + sign * level * self.per
                    self._line(y, LINE, 0.4)
                    self._text(LEFT_PT - 3, y - 2.5, f"{level:g}", "end")
            level += self.step
        self._text(0, self.top + 4, self.chart.unit, "start")
        every = max(1, round(22 / self.slot))
        for index, label in enumerate(self.chart.labels):
            if index % every == 0:
                self._text(LEFT_PT + (index + 0.5) * self.slot, 4, label, "middle")

    def _bars(self, group: list[Series], sign: float) -> None:
        stacked = not self.chart.beside
        thick = self.slot * 0.8 / (1 if stacked else len(group))
        base = [0.0] * len(self.chart.labels)
        for number, series in enumerate(group):
            for index, value in enumerate(series.values):
                x = LEFT_PT + index * self.slot + self.slot * 0.1 + (0 if stacked else number * thick)
                low = self.zero + sign * base[index] * self.per
                self._rect(series.look, x, low, thick, sign * value * self.per)
                if stacked:
                    base[index] += value

    def _rect(self, look: str, x: float, y: float, width: float, height: float) -> None:
        from reportlab.graphics.shapes import Line, Rect
        from reportlab.lib.colors import HexColor

        if abs(height) < 0.05:
            return
        if height < 0:
            y, height = y + height, -height
        ink = HexColor(SERIES_INK[look])
        fill = None if look in HATCHED else ink
        look_of: Any = {"fillColor": fill, "strokeColor": ink, "strokeWidth": 0.5}
        self.drawing.add(Rect(x, y, width, height, **look_of))
        if look in HATCHED:
            at = y + 1.5
            while at < y + height:
                self.drawing.add(Line(x, at, x + width, at, strokeColor=ink, strokeWidth=0.45))
                at += 2.0

    def _legend(self) -> None:
        x = LEFT_PT + 2
        for series in self.chart.series:
            words = f"{series.name}{' (below)' if series.below else ''}"
            self._rect(series.look, x, HIGH_PT - 15, 8, 7)
            self._text(x + 11, HIGH_PT - 14, words, "start")
            from reportlab.pdfbase.pdfmetrics import stringWidth

            x += 22 + stringWidth(words, "B612", 7)

    def _line(self, y: float, ink: str, thick: float) -> None:
        from reportlab.graphics.shapes import Line
        from reportlab.lib.colors import HexColor

        self.drawing.add(Line(LEFT_PT, y, self.width, y, strokeColor=HexColor(ink), strokeWidth=thick))

    def _text(self, x: float, y: float, words: str, anchor: Any) -> None:
        from reportlab.graphics.shapes import String
        from reportlab.lib.colors import HexColor

        self.drawing.add(
            String(x, y, words, fontName="B612", fontSize=7, fillColor=HexColor(SOFT), textAnchor=anchor)
        )
