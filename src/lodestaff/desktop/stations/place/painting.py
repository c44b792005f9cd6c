"""Painting of the walls: what is on them, parts with their room, forbidden zones, the ways of cables."""

from typing import Protocol

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QFontMetricsF, QPainter, QPainterPath, QPen

from lodestaff.checks import Finding
from lodestaff.desktop.stations.place.geometry import Plan, WallBox
from lodestaff.desktop.stations.place.pointing import Pointing
from lodestaff.desktop.stations.place.underlay import paint_photo, paint_pointing
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame, hatch
from lodestaff.job.walls import Feature
from lodestaff.places import Body, Rect, storing
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain


class PlaceView(Protocol):
    """What is painted: the plan, the parts, what the hand holds."""

    store: Store
    plan: Plan | None
    bodies: tuple[Body, ...]
    chosen: str
    held: Rect | None
    held_on: WallBox | None
    told: list[Finding]
    beside: set[str]
    run: str
    pointing: Pointing | None

    @property
    def body(self) -> Body | None: ...

    def width(self) -> int: ...

    def height(self) -> int: ...

    def hasFocus(self) -> bool: ...


OPENINGS = ("door", "window", "vent")
HATCH = {"battery": ("battery", ""), "unit": ("sun", ""), "board": ("load", ""), "gateway": ("grid", "")}
NONE = "No wall is drawn yet. Add one: its width and height are typed in the table."


def paint_plan(painter: QPainter, view: PlaceView) -> None:
    """Everything of the Place drawing."""
    look, plan = current(), view.plan
    if plan is None:
        return
    if not plan.walls:
        painter.setFont(font("text"))
        painter.setPen(colour(look.soft))
        room = QRectF(20, 0, view.width() - 40, max(60.0, plan.shelf.top()))
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, NONE)
    for box in plan.walls:
        _wall(painter, view, box)
    _ways(painter, view, plan)
    for body in sorted(view.bodies, key=lambda other: other.id == view.chosen):  # the chosen one on top
        _body(painter, view, plan, body)
    _shelf(painter, plan)
    _held(painter, view)
    if view.pointing is not None:
        paint_pointing(painter, plan, view.pointing)


def _wall(painter: QPainter, view: PlaceView, box: WallBox) -> None:
    look, wall, k = current(), box.wall, max(1.0, text_scale())
    painter.setPen(QPen(colour(look.line), 1))
    painter.setBrush(colour(look.panel))
    painter.drawPolygon([box.point(x, y) for x, y in wall.corners])
    if wall.photo is not None:
        paint_photo(painter, view.store, box, wall.photo)
    painter.setPen(QPen(colour(look.ink), 3 * look.stroke))
    painter.drawLine(box.rect.bottomLeft(), box.rect.bottomRight())
    painter.setFont(font("strong"))
    painter.setPen(colour(look.ink))
    painter.drawText(QPointF(box.rect.left(), box.rect.top() - 18 * k), wall.name)
    painter.setFont(font("label"))
    painter.setPen(colour(look.soft))
    words = " · ".join(
        part
        for part in (
            wall.room or "outside",
            f"{plain(wall.width_m)} × {plain(wall.height_m)} m",
            wall.build.value or "",
            f"{wall.behind.value} behind" if wall.behind.value else "",
        )
        if part
    )
    cut = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, box.rect.width())
    painter.drawText(QPointF(box.rect.left(), box.rect.top() - 4 * k), cut)
    _heights(painter, view, box)
    for feature in wall.features:
        _feature(painter, view, box, feature)


def _heights(painter: QPainter, view: PlaceView, box: WallBox) -> None:
    """Between which heights hands reach, and how high water may stand."""
    look, job = current(), view.store.job
    rules = job.pack.places if job is not None else None
    painter.setFont(font("small"))
    lines = [(rules.reach_low_m, "reach"), (rules.reach_high_m, "")] if rules is not None else []
    if box.wall.flood_m.value:
        lines.append((box.wall.flood_m.value, "water"))
    for height, word in lines:
        if 0 < height < box.wall.height_m:
            a, b = box.point(0, height), box.point(box.wall.width_m, height)
            painter.setPen(QPen(colour(look.grid if word == "water" else look.line), 1, Qt.PenStyle.DashLine))
            painter.drawLine(a, b)
            painter.setPen(colour(look.soft))
            painter.drawText(a + QPointF(3, -3), f"{word} {text_of(height, 'm')}".strip())


def _feature(painter: QPainter, view: PlaceView, box: WallBox, feature: Feature) -> None:
    look, job = current(), view.store.job
    rect = box.of_feature(feature)
    rules = job.pack.places if job is not None else None
    stored = storing(job) if job is not None else set()
    away = rules.opening_m if rules is not None and feature.kind in OPENINGS else None
    away = rules.gas_m if rules is not None and feature.kind.startswith("gas") else away
    if away and view.chosen in stored:  # where this battery may not stand
        k = box.px_per_m * away
        path = QPainterPath()
        path.addRoundedRect(rect.adjusted(-k, -k, k, k), k, k)
        whole = QPainterPath()
        whole.addRect(box.rect)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.fillPath(
            path.intersected(whole), QBrush(colour(look.blocks, 110), Qt.BrushStyle.BDiagPattern)
        )
    painter.setPen(QPen(colour(look.ink), 1.2 * look.stroke))
    painter.setBrush(colour(look.staff))
    painter.drawRect(rect)
    if feature.kind == "window":
        painter.drawLine(QPointF(rect.center().x(), rect.top()), QPointF(rect.center().x(), rect.bottom()))
        painter.drawLine(QPointF(rect.left(), rect.center().y()), QPointF(rect.right(), rect.center().y()))
    elif feature.kind == "door":
        painter.drawEllipse(QPointF(rect.right() - 8, rect.center().y()), 2, 2)
    painter.setFont(font("small"))
    painter.setPen(colour(look.soft))
    _words(painter, rect, feature.name or feature.kind)


def _words(painter: QPainter, rect: QRectF, words: str) -> None:
    """Words inside a rectangle as far as they fit, else right above it."""
    metrics = QFontMetricsF(painter.font())
    if rect.width() >= metrics.averageCharWidth() * 6 and rect.height() >= metrics.height():
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.save()
        painter.setClipRect(rect)
        painter.drawText(rect, flags, words)
        painter.restore()
    else:
        painter.drawText(QPointF(rect.left(), rect.top() - 3), words)


def _body(painter: QPainter, view: PlaceView, plan: Plan, body: Body) -> None:
    look = current()
    wall = plan.of(body.standing.wall) if body.standing is not None else None
    if wall is None or body.rect is None or body.shadow is None:
        return
    if view.held is not None and body.id == view.chosen:
        painter.setOpacity(0.3)
    shadow, box = wall.box(body.shadow), wall.box(body.rect)
    painter.setPen(QPen(colour(look.line), 1, Qt.PenStyle.DashLine))
    painter.setBrush(QBrush(colour(look.rest, 90)))
    if shadow != box:
        painter.drawRect(shadow.intersected(wall.rect))
    if body.grows_m > 0:  # the place of the next modules
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(
            QRectF(
                box.left(),
                box.top() - body.grows_m * wall.px_per_m,
                box.width(),
                body.grows_m * wall.px_per_m,
            )
        )
    kind, style = HATCH.get(body.kind, ("load", ""))
    painter.setBrush(colour(look.panel))
    painter.setPen(QPen(colour(look.ink), 1.6 * look.stroke))
    painter.drawRect(box)
    painter.fillRect(box.adjusted(1, 1, -1, -1), hatch(look, kind, style))
    painter.setFont(font("label"))
    painter.setPen(colour(look.ink))
    metrics = QFontMetricsF(painter.font())
    wide = min(box.width() - 4, metrics.horizontalAdvance(body.name) + 6)
    high = metrics.height()
    if wide > 30:
        label = QRectF(box.center().x() - wide / 2, box.center().y() - high / 2, wide, high)
        painter.fillRect(label, colour(look.panel, 225))
        words = metrics.elidedText(body.name, Qt.TextElideMode.ElideRight, wide)
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)
    elif body.id == view.chosen:  # too small for its name, which stands above it
        wide = metrics.horizontalAdvance(body.name) + 6
        left = min(max(box.center().x() - wide / 2, wall.rect.left()), wall.rect.right() - wide)
        label = QRectF(left, box.top() - high - 6, wide, high)
        painter.fillRect(label, colour(look.panel, 225))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, body.name)
    painter.setOpacity(1.0)
    if body.id == view.chosen or body.id in view.beside:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        line = Qt.PenStyle.SolidLine if body.id == view.chosen else Qt.PenStyle.DashLine
        painter.setPen(QPen(colour(look.hand), 2.4 * look.stroke, line))
        painter.drawRect(box.adjusted(-2, -2, 2, 2))
        if view.hasFocus() and body.id == view.chosen:
            focus_frame(painter, look, box.adjusted(-5, -5, 5, 5))


def _ways(painter: QPainter, view: PlaceView, plan: Plan) -> None:
    """The ways of the chosen part's cables, with their lengths; all others pale."""
    look, job = current(), view.store.job
    if job is None:
        return
    for route in view.store.reckoner.routes(job).values():
        mine = route.run == view.run if view.run else view.chosen in route.stops
        painter.setPen(QPen(colour(look.hand if mine else look.line), (2.0 if mine else 1.0) * look.stroke))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        longest = QLineF()
        for (wall, x, y), (other, to_x, to_y) in zip(route.points, route.points[1:]):
            box = plan.of(wall)
            if box is None or wall != other:
                continue
            a, b = box.point(x, y), box.point(to_x, to_y)
            corner = QPointF(b.x(), a.y())
            painter.drawPolyline([a, corner, b])
            longest = max(longest, QLineF(a, corner), QLineF(corner, b), key=lambda line: line.length())
        if mine and longest.length() > 30:
            painter.setFont(font("label"))
            words = text_of(route.length_m, "m")
            wide = QFontMetricsF(painter.font()).horizontalAdvance(words) + 6
            at = longest.center()
            label = QRectF(at.x() - wide / 2, at.y() - 8, wide, 15 * max(1.0, text_scale()))
            painter.fillRect(label, colour(look.paper, 230))
            painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)


def _shelf(painter: QPainter, plan: Plan) -> None:
    """What waits for a place."""
    look, k = current(), max(1.0, text_scale())
    if not plan.waiting:
        return
    painter.setFont(font("label"))
    painter.setPen(colour(look.soft))
    painter.drawText(plan.shelf.topLeft() + QPointF(0, 14 * k), "Wait for a place")
    for body, box in plan.waiting:
        painter.setPen(QPen(colour(look.edge), 1))
        painter.setBrush(colour(look.panel))
        painter.drawRect(box)
        painter.setPen(colour(look.ink))
        words = QFontMetricsF(painter.font()).elidedText(
            body.name, Qt.TextElideMode.ElideRight, box.width() - 8
        )
        painter.drawText(box.adjusted(4, 0, -2, 0), Qt.AlignmentFlag.AlignVCenter, words)


def _held(painter: QPainter, view: PlaceView) -> None:
    """The part in the hand, and what the checks say of the place under it."""
    look, held, box, body = current(), view.held, view.held_on, view.body
    if held is None or box is None or body is None:
        waiting = view.plan.box_of(body) if view.plan is not None and body is not None else None
        if waiting is not None and body is not None and body.standing is None:
            focus_frame(painter, look, waiting.adjusted(-2, -2, 2, 2))
        return
    worst = (
        "blocks"
        if any(finding.status == "blocks" for finding in view.told)
        else "warns"
        if view.told
        else "passed"
    )
    rect = box.box(held)
    painter.setBrush(colour(look.hand_ground, 200))
    painter.setPen(QPen(colour(getattr(look, worst)), 2.4 * look.stroke))
    painter.drawRect(rect)
    lines = [
        f"{text_of(held.x, 'm')} along, {text_of(held.y, 'm')} up",
        *(finding.text for finding in view.told[:4]),
    ]
    painter.setFont(font("label"))
    metrics = QFontMetricsF(painter.font())
    most = view.width() * 0.6
    wide = min(most, max(metrics.horizontalAdvance(line) for line in lines)) + 14
    left = min(max(4.0, rect.right() + 8), view.width() - wide - 4)
    top = min(max(4.0, rect.top()), view.height() - metrics.height() * len(lines) - 12)
    panel = QRectF(left, top, wide, metrics.height() * len(lines) + 8)
    painter.setPen(QPen(colour(getattr(look, worst)), 1))
    painter.setBrush(colour(look.panel, 240))
    painter.drawRect(panel)
    painter.setPen(colour(look.ink))
    for row, line in enumerate(lines):
        cut = metrics.elidedText(line, Qt.TextElideMode.ElideRight, most)
        painter.drawText(
            QPointF(panel.left() + 7, panel.top() + 4 + metrics.ascent() + row * metrics.height()), cut
        )
