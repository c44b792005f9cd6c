"""Painting of the rails and of the night ahead."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPen

from lodestaff.desktop.stations.loads.geometry import Block, Rail, Rails
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font
from lodestaff.desktop.theme.paint import colour, focus_frame, hatch
from lodestaff.energy.calendar import STEP_H
from lodestaff.job import Change, Circuit, Job, Role
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import grouped, plain
from lodestaff.quantities.units import clock
from lodestaff.reckoning.generating import generator_words
from lodestaff.reckoning.load_groups import LoadGroup, fate, title
from lodestaff.reckoning.readings import least_margin, of_rule
from lodestaff.reckoning.results import OutageView, Results


class RailsView(Protocol):
    """What is painted of the rails: where they lie, and what the hand holds."""

    store: Store
    rails: Rails | None
    chosen: str
    dragged: Circuit | None
    target: LoadGroup | None
    drop_changes: tuple[Change, ...]

    def is_tried(self, job: Job) -> bool: ...
    def target_words(self) -> str: ...
    def neutral_words(self, group: LoadGroup) -> str: ...
    def ghost_rect(self) -> QRectF: ...
    def hasFocus(self) -> bool: ...
    def width(self) -> int: ...
    def height(self) -> int: ...


KIND = {Role.HELD: ("battery", ""), Role.SHED: ("battery", "slant"), Role.GRID: ("grid", ""),
        Role.LOCKED: ("load", ""),
        Role.SURPLUS: ("sun", "")}  # fmt: skip


def paint_rails(painter: QPainter, view: RailsView) -> None:
    """Everything of the Loads drawing."""
    rails, job = view.rails, view.store.job
    assert rails is not None
    assert job is not None
    for rail in rails.rails:
        _rail(painter, rail, rails, view)
    _night(painter, rails.night, view)
    if view.dragged is not None:
        _ghost(painter, view)


def _head_words(rail: Rail, view: RailsView) -> str:
    """The board's words where there are several, what runs on its legs, and what becomes of it in an
    outage."""
    job, rails = view.store.job, view.rails
    assert job is not None
    assert rails is not None
    group = rail.group
    legs = [other for other in rails.rails if other.role is rail.role and other.group.board == group.board]
    kva = "   ".join(f"{leg.group.leg} {text_of(leg.running_kva, 'kVA')}".strip() for leg in legs)
    boards = {rail.group.board for rail in rails.rails if rail.group.board}
    first = next(
        rail for rail in rails.rails if rail.group.board == group.board
    )  # the neutral is the whole board's
    parts = [
        group.name if len(boards) > 1 else "",
        view.neutral_words(group) if len(legs) > 1 and first is rail else "",
        f"behind a contactor {group.contactor}" if group.contactor else "",
    ]
    return "   ".join(filter(None, [parts[0], f"{kva} running", parts[1], parts[2] or fate(job, group)]))


def _rail(painter: QPainter, rail: Rail, rails: Rails, view: RailsView) -> None:
    look = current()
    if view.dragged is not None and view.target is not None and rail.group.key == view.target.key:
        painter.fillRect(rail.band.adjusted(0, 1, 0, -2), colour(look.hand_ground))
    if rail.group.first:
        painter.setFont(font("strong"))
        painter.setPen(colour(look.ink))
        assert view.store.job is not None
        head = title(view.store.job, rail.role)
        painter.drawText(QPointF(4, rail.band.top() + 15 * rails.size), head)
        x = 4 + QFontMetricsF(painter.font()).horizontalAdvance(head) + 12
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        words = QFontMetricsF(painter.font()).elidedText(
            _head_words(rail, view), Qt.TextElideMode.ElideRight, rail.band.width() - x - 4
        )
        painter.drawText(QPointF(x, rail.band.top() + 15 * rails.size), words)
    painter.setPen(QPen(colour(look.ink), 1.5 * look.stroke))
    painter.drawLine(QPointF(rails.x(0), rail.base), QPointF(rails.x(rails.most_kva), rail.base))
    _ticks(painter, rail, rails)
    if rail.group.leg:
        painter.setFont(font("strong"))
        painter.setPen(colour(look.soft))
        painter.drawText(
            QRectF(rails.x(rails.most_kva) + 5, rail.base - 15 * rails.size, 28, 15 * rails.size),
            Qt.AlignmentFlag.AlignLeft,
            rail.group.leg,
        )
    for block in rail.blocks:
        faded = view.dragged is not None and block.circuit.id == view.dragged.id
        _block(painter, block, KIND[rail.role], faded)
    if rail.group.stop is not None:
        _stops(painter, rail, rails)
    outside = [block for block in rail.blocks if not block.inside]
    for block in outside:
        _leader(painter, block)
    for block in outside:
        painter.setFont(font("label"))
        painter.setPen(colour(look.ink))
        painter.drawText(block.label, Qt.AlignmentFlag.AlignVCenter, block.circuit.name)
    chosen = next((block for block in rail.blocks if block.circuit.id == view.chosen), None)
    if chosen is not None and view.hasFocus():
        focus_frame(painter, look, chosen.rect.adjusted(-2, -2, 2, 2))
        if not chosen.inside:
            focus_frame(painter, look, chosen.label.adjusted(-2, 0, 0, 0))


def _ticks(painter: QPainter, rail: Rail, rails: Rails) -> None:
    look = current()
    painter.setFont(font("small"))
    painter.setPen(QPen(colour(look.soft), 1))
    for kva in range(int(rails.most_kva) + 1):
        x = rails.x(kva)
        painter.drawLine(QPointF(x, rail.base), QPointF(x, rail.base + 3))
        if rail.role is Role.HELD:
            painter.drawText(
                QRectF(x - 16, rail.base + 3, 32, 12 * rails.size), Qt.AlignmentFlag.AlignCenter, str(kva)
            )
    if rail.role is Role.HELD and not rail.group.leg:
        painter.drawText(QPointF(rails.x(rails.most_kva) + 6, rail.base + 4), "kVA")


def _block(painter: QPainter, block: Block, look_of: tuple[str, str], faded: bool) -> None:
    look = current()
    kind, style = look_of
    ink = getattr(look, kind)
    painter.setOpacity(0.35 if faded else 1.0)
    if block.also:  # the second supply of a circuit: outline only
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(ink), look.stroke, Qt.PenStyle.DotLine))
        painter.drawRect(block.rect)
        painter.setOpacity(1.0)
        return
    painter.fillRect(block.rect, colour(look.panel))
    painter.setBrush(hatch(look, kind, style))
    painter.setPen(QPen(colour(ink), look.stroke))
    painter.drawRect(block.rect)
    painter.fillRect(QRectF(block.rect.left(), block.rect.top(), block.rect.width(), 3), colour(ink))
    if block.cut:
        _break(painter, block.rect)
    if block.inside:
        painter.setFont(font("label"))
        painter.fillRect(block.label.adjusted(-1, 2, 1, 0), colour(look.panel, 215))
        painter.setPen(colour(look.ink))
        painter.drawText(block.label.adjusted(0, 1, 0, 1), Qt.AlignmentFlag.AlignVCenter, block.circuit.name)
    painter.setOpacity(1.0)


def _break(painter: QPainter, box: QRectF) -> None:
    """A torn edge: the block is higher than drawn."""
    look = current()
    painter.setPen(QPen(colour(look.paper), 3))
    y = box.top() + min(12.0, box.height() / 3)
    points = [
        QPointF(box.left() + 8.0 * step, y + (3 if step % 2 else -3))
        for step in range(int(box.width() / 8) + 1)
    ]
    painter.drawPolyline([*points, QPointF(box.right(), y)])


def _leader(painter: QPainter, block: Block) -> None:
    x = block.rect.left() + min(3.0, block.rect.width() / 2)
    painter.setPen(QPen(colour(current().line), 1))
    painter.drawLine(QPointF(x, block.label.bottom() - 1), QPointF(x, block.rect.top()))


def _stops(painter: QPainter, rail: Rail, rails: Rails) -> None:
    look = current()
    assert rail.group.stop is not None
    continuous, surge = rail.group.stop
    top = rail.band.top() + (20 * rails.size if rail.group.first else 2)
    if rail.start is not None:
        over = rail.start.right() > rails.x(surge)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(
            QPen(colour(look.blocks if over else look.warns), 1.5 * look.stroke, Qt.PenStyle.DashLine)
        )
        painter.drawRect(rail.start)
        painter.setFont(font("small"))
        words = QFontMetricsF(painter.font()).elidedText(
            f"start of {rail.start_name}", Qt.TextElideMode.ElideRight, max(40.0, rail.start.width() - 6)
        )
        painter.drawText(rail.start.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
    painter.setFont(font("label"))
    metrics = QFontMetricsF(painter.font())
    reached = 0.0  # where the words of the first stop end
    for kva, words, ink, style in (
        (continuous, f"continuous {plain(continuous)}", look.ink, Qt.PenStyle.SolidLine),
        (surge, f"surge {plain(surge)}", look.blocks, Qt.PenStyle.DashLine),
    ):
        x = rails.x(kva)
        painter.setPen(QPen(colour(ink), 1.6 * look.stroke, style))
        painter.drawLine(QPointF(x, top), QPointF(x, rail.base + 4))
        if not rail.group.first or rail.begin > 0:
            continue  # the words stand at the source's first rail
        wide = metrics.horizontalAdvance(words)
        beside = x + 5 if x + 5 + wide < rail.band.right() else x - 5 - wide
        line = 1 if beside > reached else 2
        reached = beside + wide + 4
        painter.drawText(QPointF(beside, top + 11 * rails.size * line), words)


def _ghost(painter: QPainter, view: RailsView) -> None:
    look, box = current(), view.ghost_rect()
    assert view.dragged is not None
    painter.fillRect(box.translated(3, 3), colour(look.ink, 60))
    painter.fillRect(box, colour(look.panel))
    painter.setBrush(colour(look.hand_ground))
    painter.setPen(QPen(colour(look.hand), 2))
    painter.drawRect(box)
    painter.setFont(font("label"))
    lines = [view.dragged.name, *_drop_words(view)]
    metrics = QFontMetricsF(painter.font())
    width = max(metrics.horizontalAdvance(line) for line in lines) + 12
    x = min(max(4.0, box.left()), view.width() - width - 4)
    y = (
        box.bottom() + 6
        if box.bottom() + 6 + 16 * len(lines) < view.height()
        else box.top() - 10 - 16 * len(lines)
    )
    painter.fillRect(QRectF(x, y, width, 16.0 * len(lines) + 6), colour(look.panel, 235))
    painter.setPen(QPen(colour(look.hand), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(x, y, width, 16.0 * len(lines) + 6))
    for index, line in enumerate(lines):
        painter.setPen(colour(look.ink))
        painter.drawText(QPointF(x + 6, y + 14 + 16 * index), line)


def _drop_words(view: RailsView) -> list[str]:
    """What dropping here would bring, from the try-out."""
    assert view.dragged is not None
    if view.target is None or not view.drop_changes:
        return ["move it onto another rail"]
    words = [f"drop on {view.target_words()}"]
    new, old = view.store.preview, view.store.results
    if new is None or old is None or not view.is_tried(new.job):
        return words
    return words + changes(old, new)


def changes(old: Results, new: Results) -> list[str]:
    """What a try-out changes, in words."""
    lines = []
    for rule, name in (
        ("LOAD-CONT: held", "together"),
        ("LOAD-SURGE: start", "worst start"),
        ("LOAD-ENERGY", "night"),
    ):
        finding = least_margin(of_rule(new, rule))
        if finding is not None and finding.limit is not None:
            lines.append(
                f"{name} {text_of(finding.value, finding.unit)} of {text_of(finding.limit, finding.unit)}"
            )
    before, after = old.lasts_h(), new.lasts_h()
    if before is not None and after is not None:
        hour = new.moment.hour
        lines.append(
            f"lasts {text_of(after, 'h')}, to {clock(hour + after)}; now {text_of(before, 'h')}, to "
            f"{clock(hour + before)}"
        )
    if new.promise_cost is not None:
        now = "" if old.promise_cost is None else f"; now {grouped(old.promise_cost)}"
        lines.append(f"the reserve costs {grouped(new.promise_cost)} {new.job.tariff.currency} a year{now}")
    elif old.promise_cost is not None:
        lines.append("the promise can't be kept with this battery")
    return lines


def _from_when(view: RailsView) -> str:
    """What the line of the night shows, in words."""
    job, results, moment = view.store.job, view.store.results, view.store.moment
    if results is not None and not results.outages:
        return "no backup: nothing here works in an outage"
    if job is not None and not job.mains.grid:
        return f"state of charge from {clock(moment.hour)} {generator_words(job)}, {moment.sky} sky"
    return f"state of charge if the grid fails at {clock(moment.hour)}, {moment.sky} sky"


def _night(painter: QPainter, box: QRectF, view: RailsView) -> None:
    """State of charge through the night ahead, from the moment on, for 24 hours of outage."""
    look, results, job = current(), view.store.results, view.store.job
    assert job is not None
    painter.setFont(font("strong"))
    painter.setPen(colour(look.ink))
    painter.drawText(QPointF(box.left(), box.top() + 13), "The night ahead")
    painter.setFont(font("label"))
    painter.setPen(colour(look.soft))
    x = box.left() + QFontMetricsF(font("strong")).horizontalAdvance("The night ahead") + 12
    painter.drawText(QPointF(x, box.top() + 13), _from_when(view))
    plot = QRectF(box.left() + 16, box.top() + 22, box.width() - 80, box.height() - 38)
    painter.setPen(QPen(colour(look.line), 1))
    painter.drawLine(plot.bottomLeft(), plot.bottomRight())
    painter.setFont(font("small"))
    for hours in range(0, 25, 3):
        x = plot.left() + hours / 24 * plot.width()
        painter.setPen(colour(look.soft))
        painter.drawText(
            QRectF(x - 20, plot.bottom() + 2, 40, 13),
            Qt.AlignmentFlag.AlignCenter,
            clock(view.store.moment.hour + hours),
        )
        painter.setPen(QPen(colour(look.line), 1))
        painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() - 3))
    if results is None or not results.outages:
        return
    floor = results.outages[0].floor_soc
    levels = [(job.limits.shed_soc, "shed", look.sun), (floor, "floor", look.blocks)]
    levels += [(job.limits.reserve_soc, "reserve", look.grid)] if job.mains.grid else []
    for level, words, ink in levels:
        y = plot.bottom() - level * plot.height()
        painter.setPen(QPen(colour(ink), look.stroke, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
        painter.drawText(QPointF(plot.right() + 5, y + 4), f"{words} {plain(level * 100, 0)} %")
    for outage in results.outages:
        _curve(painter, plot, outage, Qt.PenStyle.SolidLine, look.battery)
    if view.store.preview is not None:
        for outage in view.store.preview.outages:
            _curve(painter, plot, outage, Qt.PenStyle.DashLine, look.hand)


def _curve(painter: QPainter, plot: QRectF, view: OutageView, style: Qt.PenStyle, ink: str) -> None:
    path = QPainterPath()
    for index, soc in enumerate(view.soc):
        point = QPointF(
            plot.left() + index * STEP_H / 24 * plot.width(), plot.bottom() - float(soc) * plot.height()
        )
        path.lineTo(point) if index else path.moveTo(point)
    hours = view.outage.hours
    if view.outage.reason == "energy" and hours < 24:
        path.lineTo(
            QPointF(plot.left() + hours / 24 * plot.width(), plot.bottom() - view.floor_soc * plot.height())
        )
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour(ink), 2, style))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    painter.restore()
    if view.outage.reason != "held" and hours < 24:
        x = plot.left() + hours / 24 * plot.width()
        painter.fillRect(QRectF(x - 1, plot.top(), 2, plot.height()), colour(ink))
