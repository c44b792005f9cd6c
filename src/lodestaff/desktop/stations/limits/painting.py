"""Painting of the day: sources above the line, sinks below, state of charge under them."""

from __future__ import annotations

import itertools
from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPen

from lodestaff.desktop.stations.limits.geometry import Day, Line, WindowBlock, noon_hours
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font
from lodestaff.desktop.theme.paint import colour, focus_frame, hatch
from lodestaff.energy.calendar import STEP_H, STEPS, STEPS_PER_DAY, Floats
from lodestaff.quantities.convention import plain
from lodestaff.quantities.units import clock
from lodestaff.reckoning.flows import DayFlows
from lodestaff.reckoning.results import Results


class DayView(Protocol):
    """What is painted of the day: where its lines lie, and what the hand holds."""

    store: Store
    day: Day | None
    chosen: str
    dragged: Line | None
    block: WindowBlock | None
    value: float | None
    shift: float

    def hasFocus(self) -> bool: ...

    def flows(self, results: Results | None) -> DayFlows | None: ...


ABOVE = (("sun", "sun", "sun"), ("battery_out", "battery", "battery"), ("imported", "grid", "grid"))
BELOW = (
    ("circuits", "load", "circuits"),
    ("into_battery", "battery", "into the battery"),
    ("exported", "export", "export"),
    ("lost", "lost", "lost"),
)


OFF_GRID = {
    "grid": "generator",
    "export": "",
}  # what the kinds are called without a grid; '' where there is none


def _layers(view: DayView, names: tuple[tuple[str, str, str], ...]) -> tuple[tuple[str, str, str], ...]:
    """The kinds of energy that this site has, by name, hatch and words."""
    job = view.store.job
    if job is None or job.mains.grid:
        return names
    modes = ((name, kind, OFF_GRID.get(kind, words)) for name, kind, words in names)
    return tuple(label for label in modes if label[2])


def kinds_of(view: DayView) -> list[tuple[str, str]]:
    """The kinds of energy of this site: the field of the flows, and its words."""
    return [(field, words) for field, _, words in _layers(view, (*ABOVE, *BELOW))]


def paint_day(painter: QPainter, view: DayView) -> None:
    """Everything of the Limits drawing."""
    day, flows = view.day, view.flows(view.store.preview or view.store.results)
    assert day is not None
    above, below = _layers(view, ABOVE), _layers(view, BELOW)
    said = _key(painter, view, above, below)
    _grid(painter, day)
    if flows is not None:
        _stack(painter, day, flows, above, up=True)
        _stack(painter, day, flows, below, up=False)
        _soc(painter, day, flows)
    if view.store.job is not None and view.store.job.mains.grid:
        _windows(painter, view)
    painter.setPen(QPen(colour(current().ink), 1.5 * current().stroke))
    painter.drawLine(QPointF(day.plot.left(), day.zero), QPointF(day.plot.right(), day.zero))
    _moment(painter, view, said)
    for line in day.lines:
        _limit(painter, view, line)


Layers = tuple[tuple[str, str, str], ...]


def _key(painter: QPainter, view: DayView, above: Layers, below: Layers) -> bool:
    """What each hatch means, along the top, with what it is at the moment; False where that has no room."""
    look, day = current(), view.day
    assert day is not None
    painter.setFont(font("label"))
    metrics = QFontMetricsF(painter.font())
    values = _values(view)
    rows = [("in", above), ("out", below)]
    said = {name: f"{name} {plain(values[name], 2)}" if values.get(name, 0) >= 0.005 else name
            for _, names in rows for _, _, name in names}  # fmt: skip
    room = sum(30 + metrics.horizontalAdvance(words) for words in said.values()) + 70
    fits = room <= day.plot.width()
    x = day.plot.left()
    for words, names in rows:
        painter.setPen(colour(look.soft))
        painter.drawText(QPointF(x, 12), words)
        x += metrics.horizontalAdvance(words) + 8
        for _, kind, name in names:
            box = QRectF(x, 3, 14, 11)
            painter.setBrush(hatch(look, kind))
            painter.setPen(QPen(colour(getattr(look, "hand" if kind == "export" else kind)), 1))
            painter.drawRect(box)
            painter.setPen(colour(look.ink))
            shown = said[name] if fits else name
            painter.drawText(QPointF(x + 18, 12), shown)
            x += 18 + metrics.horizontalAdvance(shown) + 12
        x += 10
    if fits:
        painter.setPen(colour(look.soft))
        painter.drawText(QPointF(x - 10, 12), "kW")
    return fits


def _values(view: DayView) -> dict[str, float]:
    """What flows at the moment, kW, by the names of the key."""
    flows = view.flows(view.store.preview or view.store.results)
    if flows is None:
        return {}
    index = flows.at(view.store.moment.hour)
    layers = _layers(view, (*ABOVE, *BELOW))
    return {name: float(getattr(flows, field)[index]) for field, _, name in layers}


def _grid(painter: QPainter, day: Day) -> None:
    look = current()
    painter.setFont(font("label"))
    step = next(step for step in (1, 2, 5, 10, 20, 50) if step * day.px_per_kw >= 26)
    for kw in range(0, int(max(day.most_in, day.most_out)) + 1, step):
        for y in {day.y_in(kw), day.y_out(kw)}:
            if day.plot.top() - 1 <= y <= day.plot.bottom() + 1:
                painter.setPen(QPen(colour(look.line), 1))
                painter.drawLine(QPointF(day.plot.left() - 4, y), QPointF(day.plot.right(), y))
                painter.setPen(colour(look.soft))
                painter.drawText(
                    QRectF(0, y - 8, day.plot.left() - 8, 16),
                    Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                    str(kw),
                )
    painter.drawText(QPointF(4, day.plot.top() + 2), "kW")
    for hours in range(0, 25, 3):
        x = day.x(hours)
        painter.setPen(QPen(colour(look.line), 1))
        painter.drawLine(QPointF(x, day.tariff.bottom()), QPointF(x, day.tariff.bottom() + 4))
        painter.setPen(colour(look.soft))
        painter.drawText(
            QRectF(x - 20, day.tariff.bottom() + 3, 40, 14),
            Qt.AlignmentFlag.AlignCenter,
            f"{(12 + hours) % 24:02d}",
        )


def _stack(
    painter: QPainter, day: Day, flows: DayFlows, names: tuple[tuple[str, str, str], ...], up: bool
) -> None:
    look = current()
    base = np.zeros(96)
    for field, kind, _ in names:
        top = base + np.clip(getattr(flows, field), 0, None)
        if (top - base).max() > 1e-6:
            ink = getattr(look, "hand" if kind == "export" else kind)
            painter.setBrush(hatch(look, kind))
            painter.setPen(QPen(colour(ink), look.stroke))
            painter.drawPath(_band(day, base, top, up))
        base = top


def _band(day: Day, base: Floats, top: Floats, up: bool) -> QPainterPath:
    """The area between two step lines; where both meet there is nothing."""
    height = day.y_in if up else day.y_out
    path = QPainterPath()
    index = 0
    while index < 96:
        if top[index] - base[index] <= 1e-6:
            index += 1
            continue
        first = index
        while index < 96 and top[index] - base[index] > 1e-6:
            index += 1
        steps = range(first, index)
        path.moveTo(day.x(first / 4), height(float(base[first])))
        for step in steps:
            path.lineTo(day.x(step / 4), height(float(top[step])))
            path.lineTo(day.x((step + 1) / 4), height(float(top[step])))
        for step in reversed(steps):
            path.lineTo(day.x((step + 1) / 4), height(float(base[step])))
            path.lineTo(day.x(step / 4), height(float(base[step])))
        path.closeSubpath()
    return path


def _soc(painter: QPainter, day: Day, flows: DayFlows) -> None:
    look = current()
    painter.setFont(font("strong"))
    painter.setPen(colour(look.ink))
    painter.drawText(QPointF(day.soc.left(), day.soc.top() - 8), "State of charge")
    path = QPainterPath(day.soc.bottomLeft())
    path.lineTo(day.x(0), day.y_soc(float(flows.soc[0])))
    for step in range(96):
        path.lineTo(day.x((step + 1) / 4), day.y_soc(float(flows.soc[step])))
    path.lineTo(day.soc.bottomRight())
    path.closeSubpath()
    painter.setBrush(hatch(look, "battery"))
    painter.setPen(QPen(colour(look.battery), 1.5 * look.stroke))
    painter.drawPath(path)
    painter.setFont(font("label"))
    for level in (0, 50, 100):
        y = day.y_soc(level / 100)
        painter.setPen(colour(look.soft))
        painter.drawText(
            QRectF(0, y - 8, day.soc.left() - 8, 16),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            f"{level} %",
        )


def _windows(painter: QPainter, view: DayView) -> None:
    look, day, job = current(), view.day, view.store.job
    assert day is not None
    assert job is not None
    painter.setFont(font("label"))
    painter.setPen(colour(look.soft))
    painter.drawText(
        QPointF(day.windows.left(), day.windows.top() - 5),
        f"Windows, by the {job.limits.device_clock} clock; import bands by the {job.tariff.clock} clock",
    )
    metrics = QFontMetricsF(painter.font())
    for block in day.blocks:
        moved = (
            view.shift / 24 * day.plot.width()
            if view.block is not None and view.block.id == block.id
            else 0.0
        )
        for rect in block.rects:
            box = rect.translated(moved, 0)
            painter.fillRect(box, colour(look.panel))
            painter.setBrush(hatch(look, "battery"))
            painter.setPen(QPen(colour(look.battery), look.stroke))
            painter.drawRect(box)
            painter.fillRect(QRectF(box.left(), box.top(), 4, box.height()), colour(look.battery))
            painter.fillRect(QRectF(box.right() - 3, box.top(), 4, box.height()), colour(look.battery))
            if view.hasFocus() and view.chosen == block.id:
                focus_frame(painter, look, box.adjusted(-3, -3, 3, 3))
            words = metrics.elidedText(block.words, Qt.TextElideMode.ElideRight, box.width() - 14)
            text = QRectF(
                box.left() + 7, box.top() + 3, metrics.horizontalAdvance(words) + 4, box.height() - 6
            )
            painter.fillRect(text, colour(look.panel, 215))
            painter.setPen(colour(look.ink))
            painter.drawText(text.adjusted(2, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
    _prices(painter, view)


def _prices(painter: QPainter, view: DayView) -> None:
    """The strip of the tariff: the dearer an hour of this day the darker; its prices in words."""
    look, day, job = current(), view.day, view.store.job
    flows = view.flows(view.store.preview or view.store.results)
    assert day is not None
    assert job is not None
    painter.fillRect(day.tariff, colour(look.panel))
    if flows is None:
        return
    steps = (flows.start_step + np.arange(STEPS_PER_DAY)) % STEPS
    price = view.store.reckoner.import_price(job)[steps]
    edges = [0, *(np.flatnonzero(np.diff(price)) + 1), STEPS_PER_DAY]
    span = max(float(price.max() - price.min()), 1e-9)
    metrics = QFontMetricsF(painter.font())
    for first, last in itertools.pairwise(edges):
        left, right = day.x(first * STEP_H), day.x(last * STEP_H)
        box = QRectF(left, day.tariff.top(), right - left, day.tariff.height())
        painter.fillRect(
            box, colour(look.rest, round(255 * (float(price[first]) - float(price.min())) / span))
        )
        words = f"{plain(float(price[first]), 3)}"
        if first == 0 or metrics.horizontalAdvance(f"{words} {job.tariff.currency} a kWh") + 8 < box.width():
            words = f"{words} {job.tariff.currency} a kWh"
        if metrics.horizontalAdvance(words) + 8 < box.width():
            painter.setPen(colour(look.ink))
            painter.drawText(box.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)


def _moment(painter: QPainter, view: DayView, said: bool) -> None:
    """The moment as a line; its values in a box where the key has no room for them."""
    look, day = current(), view.day
    assert day is not None
    hour = view.store.moment.hour
    x = day.x(noon_hours(hour))
    painter.setPen(QPen(colour(look.hand), 1.5 * look.stroke))
    painter.drawLine(QPointF(x, day.plot.top() - 4), QPointF(x, day.soc.bottom()))
    painter.fillRect(QRectF(x - 4, day.plot.top() - 8, 8, 8), colour(look.hand))
    values = _values(view)
    if said or not values:
        return
    words = [clock(hour), *(f"{name} {plain(kw, 2)} kW" for name, kw in values.items() if kw >= 0.005)]
    painter.setFont(font("label"))
    metrics = QFontMetricsF(painter.font())
    width = max(metrics.horizontalAdvance(line) for line in words) + 10
    left = x + 6 if x + 6 + width < day.plot.right() else x - 6 - width
    box = QRectF(left, day.plot.top() + 16, width, 15.0 * len(words) + 4)
    painter.fillRect(box, colour(look.panel, 225))
    painter.setPen(QPen(colour(look.line), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)
    painter.setPen(colour(look.ink))
    for row, line in enumerate(words):
        painter.drawText(QPointF(box.left() + 5, box.top() + 13 + 15 * row), line)


def _limit(painter: QPainter, view: DayView, line: Line) -> None:
    look, day = current(), view.day
    assert day is not None
    y, words = line.y, line.words
    if view.dragged is not None and view.dragged.field == line.field and view.value is not None:
        value = view.value
        if line.field == "reserve_soc":
            y, words = day.y_soc(value), f"reserve {plain(value * 100, 0)} %"
        else:
            y = day.y_in(value) if line.field == "import_kw" else day.y_out(value)
            words = f"{words.split(' limit')[0]} limit {plain(value, 2)} kW"
    ink = colour(getattr(look, line.role))
    painter.setPen(QPen(ink, 1.6 * look.stroke, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(day.plot.left(), y), QPointF(day.plot.right(), y))
    handle = QRectF(day.plot.right() - 4, y - 6, 10, 12)
    painter.fillRect(handle, ink)
    painter.setFont(font("label"))
    width = QFontMetricsF(painter.font()).horizontalAdvance(words) + 8
    above = line.field in ("export_kw", "reserve_soc") or (
        line.off_scale is False and line.field == "import_kw"
    )
    box = QRectF(day.plot.right() - width - 10, y - 17 if above else y + 2, width, 15)
    if line.field == "charge_kw":
        box.moveLeft(day.plot.left() + 6)
    painter.fillRect(box, colour(look.paper, 220))
    painter.setPen(ink)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
    if view.hasFocus() and view.chosen == line.field:
        focus_frame(painter, look, handle.adjusted(-3, -3, 3, 3))
