"""Painting of the faces. Number and hatch tell the strings apart, not colour alone."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPen, QPolygonF

from lodestaff.desktop.stations.array.geometry import FaceBox, ModuleBox, Roof, ThingBox
from lodestaff.desktop.stations.array.ladder import paint_hand, paint_ladder
from lodestaff.desktop.stations.array.marks import RoofView, brush_of, tag
from lodestaff.desktop.stations.array.sky import SkyPicture
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.job import Job
from lodestaff.quantities.convention import plain
from lodestaff.reckoning import Moment
from lodestaff.reckoning.sun_view import SunView, in_the_sun, shadows, sun_view

SHOWN_LOSS = 0.01  # of a module's year to shade


def paint_roof(painter: QPainter, view: RoofView) -> None:
    """Everything of the Array drawing."""
    roof, job = view.roof, view.store.job
    assert roof is not None
    assert job is not None
    for box in roof.faces:
        _face(painter, box)
    names = {string.id: string.name for string in job.strings}
    years = view.store.results.modules if view.store.results is not None else {}
    for module in roof.modules:
        year = years.get(f"faces/{module.face}/modules/{module.id}")
        lost = year.lost_share if year is not None else 0.0
        _module(painter, view, module, names.get(module.string, "–"), lost)
    for box in roof.faces:
        _shadow(painter, job, box, view.store.moment)
        for spot in box.obstacles:
            _obstacle(painter, box.rect, spot)
    paint_ladder(painter, view, roof, job)
    _sky(painter, view, roof)
    if view.hasFocus() and not view.string and view.selected:
        last = next((box for box in roof.modules if (box.face, box.id) == view.selected[-1]), None)
        if last is not None:
            focus_frame(painter, current(), last.rect.adjusted(-2, -2, 2, 2))
    view.things.paint(painter, view.at)
    view.corners.paint(painter, view.at)
    if view.dragging and view.things.carried is None:
        paint_hand(painter, view)


def _module(painter: QPainter, view: RoofView, box: ModuleBox, name: str, lost: float) -> None:
    look = current()
    assert view.store.job is not None
    brush, ink = brush_of(view.store.job, box.string)
    painter.fillRect(box.rect, colour(look.panel))
    painter.setBrush(brush)
    painter.setPen(QPen(colour(ink), look.stroke))
    painter.drawRect(box.rect)
    if (box.face, box.id) in view.selected:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(look.hand), 3))
        painter.drawRect(box.rect.adjusted(2, 2, -2, -2))
    tag(painter, box.rect, name)
    if box.optimiser:
        _optimiser(painter, box.rect)
    if lost >= SHOWN_LOSS and box.rect.height() > 56 * max(1.0, text_scale()):
        painter.setFont(font("small"))
        words, metrics = f"−{plain(100 * lost, 0)} %", painter.fontMetrics()
        wide = metrics.horizontalAdvance(words) + 6
        label = QRectF(
            box.rect.center().x() - wide / 2, box.rect.bottom() - metrics.height() - 4, wide, metrics.height()
        )
        painter.fillRect(label, colour(look.panel, 235))
        painter.setPen(colour(look.warns))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)


def _optimiser(painter: QPainter, rect: QRectF) -> None:
    """A small box at the module's upper edge: its own converter."""
    look = current()
    box = QRectF(rect.center().x() - 6, rect.top() + 4, 12, 8)
    painter.setPen(QPen(colour(look.ink), 1.4 * look.stroke))
    painter.setBrush(colour(look.panel))
    painter.drawRect(box)
    painter.drawLine(box.bottomLeft(), box.topRight())


def _face(painter: QPainter, box: FaceBox) -> None:
    look, rect, face = current(), box.rect, box.face
    painter.setPen(QPen(colour(look.ink), 1.2 * look.stroke))
    painter.setBrush(colour(look.rest, 90))
    painter.drawPolygon(box.outline)
    k = max(1.0, text_scale())
    rose = 9.0 * k
    _rose(painter, QPointF(rect.left() + rose + 4, rect.top() - rose - 3), rose, face.azimuth_deg)
    painter.setFont(font("label"))
    painter.setPen(colour(look.ink))
    words = f"{face.name}, {plain(face.azimuth_deg)}°, {plain(face.tilt_deg)}° steep"
    left = rect.left() + 2 * rose + 11
    words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(rect.right() - left))
    painter.drawText(QPointF(left, rect.top() - 6), words)


def _rose(painter: QPainter, middle: QPointF, radius: float, azimuth_deg: float) -> None:
    """North upwards, and the way down the slope as an arrow."""
    look = current()
    painter.setPen(QPen(colour(look.soft), look.stroke))
    painter.setBrush(colour(look.panel))
    painter.drawEllipse(middle, radius, radius)
    painter.drawLine(middle + QPointF(0, -radius), middle + QPointF(0, -radius + 4))
    painter.save()
    painter.translate(middle)
    painter.rotate(azimuth_deg)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(look.ink))
    tip = radius - 1
    painter.drawPolygon(
        QPolygonF(
            [
                QPointF(0, -tip),
                QPointF(tip * 0.55, tip * 0.6),
                QPointF(0, tip * 0.25),
                QPointF(-tip * 0.55, tip * 0.6),
            ]
        )
    )
    painter.restore()


def _shadow(painter: QPainter, job: Job, box: FaceBox, moment: Moment) -> None:
    """What lies in shadow at the moment; all of it where the sun is down or behind."""
    look, whole = current(), QPainterPath()
    whole.addPolygon(box.outline)
    whole.closeSubpath()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(colour(look.ink, 120), Qt.BrushStyle.FDiagPattern))
    if not in_the_sun(job, box.face, moment):
        words = "no sun on it now"
        painter.setFont(font("small"))
        metrics = painter.fontMetrics()
        wide = metrics.horizontalAdvance(words) + 6
        label = QRectF(
            box.rect.right() - wide - 2, box.rect.bottom() - metrics.height() - 2, wide, metrics.height()
        )
        painter.fillRect(label, colour(look.panel, 225))
        painter.setPen(colour(look.soft))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)
        return
    for outline in shadows(job, box.face, moment):
        dark = QPainterPath()
        dark.addPolygon(QPolygonF([box.point(x, y) for x, y in outline]))
        dark.closeSubpath()
        part = dark.intersected(whole)
        painter.fillPath(part, colour(look.ink, 70))
        painter.fillPath(part, QBrush(colour(look.ink, 150), Qt.BrushStyle.FDiagPattern))


def seen_sky(view: RoofView) -> tuple[SunView, str, str] | None:
    """The sky over the chosen module, with the names of module and face; None where none is drawn."""
    roof, job = view.roof, view.store.job
    if roof is None or job is None or roof.sky.isEmpty() or not roof.faces:
        return None
    key = view.selected[-1] if view.selected else (roof.faces[0].face.id, "")
    face = next(box.face for box in roof.faces if box.face.id == key[0])
    return sun_view(job, face, key[1], view.store.moment), key[1], face.name


def _sky(painter: QPainter, view: RoofView, roof: Roof) -> None:
    sky = seen_sky(view)
    if sky is None:
        return
    seen, module, face = sky
    title = f"Sky over {module}, {face}" if module else f"Sky over {face}"
    picture = SkyPicture(painter, seen, roof.sky, view.store.moment.month, title)
    picture.paint()
    picture.paint_stroke(view.stroke)


def _obstacle(painter: QPainter, face: QRectF, spot: ThingBox) -> None:
    look, name, height_m, rect = current(), spot.name, spot.height_m, spot.rect
    painter.setPen(
        QPen(
            colour(look.ink), look.stroke, Qt.PenStyle.DashLine if height_m is None else Qt.PenStyle.SolidLine
        )
    )
    painter.setBrush(QBrush(colour(look.soft), Qt.BrushStyle.BDiagPattern))
    painter.drawRect(rect)
    painter.setFont(font("small"))
    words = f"{name}, ? m" if height_m is None else f"{name}, {plain(height_m, 1)} m" if height_m else name
    metrics = painter.fontMetrics()
    wide, high = metrics.horizontalAdvance(words) + 4, metrics.height()
    left = min(max(rect.center().x() - wide / 2, face.left() + 2), face.right() - wide - 2)
    above = rect.top() - high - 1
    label = QRectF(left, above if above > face.top() else rect.bottom() + 1, wide, high)
    painter.fillRect(label, colour(look.panel, 225))
    painter.setPen(colour(look.ink))
    painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)
