"""Painting of the ladder of volts, and of what the hand holds."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from lodestaff.desktop.stations.array.geometry import Bar, Roof, Slot, only_units_behind_modules, string_word
from lodestaff.desktop.stations.array.marks import RoofView, brush_of, tag
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain


def paint_ladder(painter: QPainter, view: RoofView, roof: Roof, job: Job) -> None:
    look = current()
    painter.setFont(font("strong"))
    painter.setPen(colour(look.ink))
    k = max(1.0, text_scale())
    painter.drawText(QPointF(2, roof.ladder.top() - 14), "Ladder of volts")
    after = 2 + painter.fontMetrics().horizontalAdvance("Ladder of volts  ")
    painter.setFont(font("label"))
    painter.setPen(colour(look.soft))
    low = job.site.record_low_c
    taker, hot = ("a unit", "one module, ") if only_units_behind_modules(job) else ("the tracker", "")
    record = f"{plain(low.value)} °C" if low.value is not None else "unknown; −10 °C taken"
    words = (
        f"slot: what {taker} takes; bar: {hot}hottest to coldest; triangle: open circuit at the "
        f"record low, {record}"
    )
    left = max(after, roof.ladder.left())
    room = (roof.sky.left() - 30 * k if roof.sky.width() else view.width()) - left
    if painter.fontMetrics().horizontalAdvance(words) > room:
        words = f"triangle: {hot}open circuit at the low, {record}"
    if painter.fontMetrics().horizontalAdvance(words) > room:
        words = f"▲ at the low, {record}"  # never cut: the low is what counts
    if job.strings and all(job.optimisers_on(string) == "all" for string in job.strings):
        words = "optimisers set the volts of their string"
    painter.drawText(QPointF(left, roof.ladder.top() - 14), words)
    for volts in range(
        0, int(roof.most_v) + 1, 100 if roof.most_v > 400 else 50 if roof.most_v > 120 else 10
    ):
        x = roof.x(volts)
        painter.setPen(QPen(colour(look.line), 1))
        painter.drawLine(QPointF(x, roof.ladder.top()), QPointF(x, roof.ladder.bottom()))
        if abs(x - roof.x(roof.max_dc_v)) < 60 * k:
            continue
        painter.setPen(colour(look.soft))
        painter.drawText(
            QRectF(x - 24 * k, roof.ladder.bottom() + 2, 48 * k, 14 * k),
            Qt.AlignmentFlag.AlignCenter,
            f"{volts} V" if volts == 0 else str(volts),
        )
    for slot in roof.slots:
        _slot(painter, view, slot, job)
    if not roof.max_dc_v:
        return  # nothing here takes sun
    x = roof.x(roof.max_dc_v)
    painter.setPen(QPen(colour(look.blocks), 2 * look.stroke, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(x, roof.ladder.top() - 4), QPointF(x, roof.ladder.bottom()))
    painter.setFont(font("label"))
    painter.drawText(
        QRectF(min(x - 60 * k, view.width() - 140 * k), roof.ladder.bottom() + 2, 140 * k, 14 * k),
        Qt.AlignmentFlag.AlignCenter,
        f"most {plain(roof.max_dc_v)} V",
    )


def _slot(painter: QPainter, view: RoofView, slot: Slot, job: Job) -> None:
    look = current()
    if view.dragging and view.bar is not None and view.target == slot.tracker:
        painter.fillRect(slot.band, colour(look.hand_ground))
    painter.setPen(QPen(colour(look.ink), 1.2 * look.stroke))
    painter.setBrush(colour(look.panel))
    painter.drawRect(slot.window)
    painter.setPen(QPen(colour(look.soft), 1, Qt.PenStyle.DotLine))
    painter.drawLine(QPointF(slot.start_x, slot.window.top()), QPointF(slot.start_x, slot.window.bottom()))
    painter.setFont(font("strong"))
    painter.setPen(colour(look.ink))
    k, room = max(1.0, text_scale()), int(view.roof.ladder.left() - 8) if view.roof is not None else 100
    cut = Qt.TextElideMode.ElideRight
    painter.drawText(
        QPointF(2, slot.window.top() + 13 * k), painter.fontMetrics().elidedText(slot.name, cut, room)
    )
    painter.setFont(font("label"))
    painter.setPen(colour(look.soft))
    for index, line in enumerate(slot.lines):
        if slot.window.height() >= (30 + 14 * index) * k:
            at = QPointF(2, slot.window.top() + (28 + 14 * index) * k)
            painter.drawText(at, painter.fontMetrics().elidedText(line, cut, room))
    for bar in slot.bars:
        _bar(painter, view, bar, job)


def _bar(painter: QPainter, view: RoofView, bar: Bar, job: Job) -> None:
    look = current()
    brush, ink = brush_of(job, bar.string.id)
    painter.setOpacity(
        0.4 if view.dragging and view.bar is not None and view.bar.string.id == bar.string.id else 1.0
    )
    painter.fillRect(bar.rect, colour(look.panel))
    painter.setBrush(brush)
    wide = view.dragging and view.bar is None and view.target == bar.string.id
    painter.setPen(QPen(colour(look.hand if wide else ink), 3 if wide else 1.4 * look.stroke))
    painter.drawRect(bar.rect)
    tag(painter, QRectF(bar.rect.left(), bar.rect.top(), 30, bar.rect.height()), bar.string.name)
    y = bar.rect.center().y()
    if not bar.regulated:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(look.blocks if bar.over else look.ink))
        painter.drawPolygon(
            QPolygonF(
                [QPointF(bar.voc_x, y - 6), QPointF(bar.voc_x + 6, y + 6), QPointF(bar.voc_x - 6, y + 6)]
            )
        )
    painter.setFont(font("label"))
    painter.setPen(colour(look.blocks if bar.over else look.ink))
    painter.drawText(QPointF(bar.voc_x + 9, y + 4), bar.words)
    painter.setOpacity(1.0)
    if view.hasFocus() and view.string == bar.string.id:
        focus_frame(painter, look, bar.rect.adjusted(-3, -3, 3, 3))


def paint_hand(painter: QPainter, view: RoofView) -> None:
    """What the hand holds, and what dropping here would bring."""
    look, job = current(), view.store.job
    assert job is not None
    if view.bar is not None:
        lines = [f"{string_word(job, view.bar.string)} {view.bar.string.name}"] + (
            [f"drop on tracker {view.target}"] if view.target else []
        )
    else:
        name = next(
            (
                f"{string_word(job, string)} {string.name}"
                for string in job.strings
                if string.id == view.target
            ),
            None,
        )
        lines = [f"{len(view.selected)} module{'s' if len(view.selected) > 1 else ''}"] + (
            [f"drop on {name}"] if name else []
        )
    preview = view.store.preview
    if preview is not None and view.target is not None:
        for code in ("ARR-VOC", "ARR-VMP", "ARR-ISC", "ARR-MICRO"):
            bad = next(
                (
                    finding
                    for finding in preview.findings
                    if finding.code == code and finding.verdict in ("blocks", "warns")
                ),
                None,
            )
            if bad is not None:
                lines.append(bad.text)
        old = view.store.results
        if old is not None:
            lines.append(
                f"{text_of(preview.figures.pv_kwh, 'kWh', 0)} a year; now "
                f"{text_of(old.figures.pv_kwh, 'kWh', 0)}"
            )
    painter.setFont(font("label"))
    metrics = painter.fontMetrics()
    width = min(max(metrics.horizontalAdvance(line) for line in lines) + 12, view.width() - 8)
    x = min(view.at.x() + 12, view.width() - width - 4)
    y = min(view.at.y() + 12, view.height() - 16.0 * len(lines) - 8)
    box = QRectF(x, y, width, 16.0 * len(lines) + 6)
    painter.fillRect(box, colour(look.panel, 240))
    painter.setPen(QPen(colour(look.hand), 1.5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)
    painter.setPen(colour(look.ink))
    for index, line in enumerate(lines):
        painter.drawText(
            QPointF(x + 6, y + 14 + 16 * index),
            metrics.elidedText(line, Qt.TextElideMode.ElideRight, int(width - 10)),
        )
