"""Where the layers of the day stand. Pure geometry: no painting, no store."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QFontMetricsF

from lodestaff.job import Job
from lodestaff.reckoning.day_stack import HOURS, DayStack

LEFT, RIGHT, TOP, BOTTOM = 34.0, 12.0, 38.0, 40.0
THICK = 15.0


@dataclass(frozen=True)
class Layer:
    """A circuit in the stack: for each hour the box that it fills; its label where one is thick and wide
    enough."""

    circuit: str
    boxes: tuple[QRectF, ...]
    label: QRectF | None


@dataclass(frozen=True)
class DayPlan:
    """The whole drawing at one scale."""

    plot: QRectF
    px_per_kw: float
    most_kw: float
    layers: tuple[Layer, ...]
    sun: tuple[QRectF, ...]
    low: QRectF

    def x(self, hour: float) -> float:
        return self.plot.left() + hour / HOURS * self.plot.width()

    def y(self, kw: float) -> float:
        return self.plot.bottom() - kw * self.px_per_kw

    @property
    def hour_px(self) -> float:
        return self.plot.width() / HOURS

    def layer_at(self, point: QPointF) -> Layer | None:
        """The layer under a point; a thin one is found from two pixels away."""
        for grow in (0.0, 2.0):
            for layer in self.layers:
                if any(
                    box.height() > 0 and box.adjusted(0, -grow, 0, grow).contains(point)
                    for box in layer.boxes
                ):
                    return layer
        return None

    def layer_of(self, circuit: str) -> Layer | None:
        return next((layer for layer in self.layers if layer.circuit == circuit), None)


def lay_stack(job: Job, stack: DayStack, width: float, height: float, metrics: QFontMetricsF) -> DayPlan:
    """Lay the stack out in a surface of the given size."""
    plot = QRectF(LEFT, TOP, max(100.0, width - LEFT - RIGHT), max(60.0, height - TOP - BOTTOM))
    most = max(0.2, float(stack.total_kw.max()), float(stack.sun_kw.max())) * 1.06
    scale = plot.height() / most
    hour = plot.width() / HOURS
    names = {c.id: c.name for c in job.circuits}
    reached = np.zeros(HOURS)
    layers = []
    for circuit, kw in stack.layers:
        boxes = tuple(
            QRectF(
                plot.left() + index * hour,
                plot.bottom() - (reached[index] + kw[index]) * scale,
                hour,
                kw[index] * scale,
            )
            for index in range(HOURS)
        )
        layers.append(
            Layer(circuit, boxes, _label(boxes, metrics.horizontalAdvance(names[circuit]) + 8, plot))
        )
        reached = reached + kw
    sun = tuple(
        QRectF(plot.left() + index * hour, plot.bottom() - kw * scale, hour, kw * scale)
        for index, kw in enumerate(stack.sun_kw)
    )
    low = QRectF(plot.left(), plot.bottom() + 18, plot.width(), 7)
    return DayPlan(plot, scale, most_kw=most, layers=tuple(layers), sun=sun, low=low)


def _label(boxes: tuple[QRectF, ...], width: float, plot: QRectF) -> QRectF | None:
    """A place inside the layer: the run of hours that is thick enough for a line of words, and long enough
    for them."""
    best: QRectF | None = None
    index = 0
    while index < HOURS:
        run = index
        top, bottom = plot.top(), plot.bottom()
        while run < HOURS and boxes[run].height() >= THICK:
            high, low = max(top, boxes[run].top()), min(bottom, boxes[run].bottom())
            if low - high < THICK:
                break
            top, bottom = high, low
            run += 1
        room = QRectF(boxes[index].left(), top, (run - index) * boxes[index].width(), bottom - top)
        if run > index and room.width() >= width and (best is None or room.width() > best.width()):
            best = room
        index = max(run, index + 1)
    return None if best is None else QRectF(best.left() + 3, best.center().y() - THICK / 2, width, THICK)
