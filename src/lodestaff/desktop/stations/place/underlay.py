"""What lies under the walls and over them: photos to their scale, points that a hand sets."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPixmap, QPixmapCache

from lodestaff.desktop.stations.place.geometry import Plan, WallBox
from lodestaff.desktop.stations.place.pointing import Pointing
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font
from lodestaff.desktop.theme.paint import colour
from lodestaff.job.walls import Underlay
from lodestaff.quantities.errors import JobError

PALE = 0.55
MOST_PX = 1600  # a photo is drawn no finer than this


def paint_photo(painter: QPainter, store: Store, box: WallBox, photo: Underlay) -> None:
    """A photo where it lies, within its wall, pale so that what is drawn over it stands out."""
    picture = _picture(store, photo.sha256)
    if picture.isNull():
        return
    k = box.px_per_m
    wide = photo.width_m * k
    high = wide * picture.height() / picture.width()
    left, foot = box.rect.left() + photo.x_m * k, box.rect.bottom() - photo.y_m * k
    painter.save()
    painter.setClipRect(box.rect)
    painter.setOpacity(PALE)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawPixmap(QRectF(left, foot - high, wide, high), picture, QRectF(picture.rect()))
    painter.restore()


def _picture(store: Store, digest: str) -> QPixmap:
    """A photo by its digest, read once; nothing where it is gone or can't be read."""
    name, picture = f"underlay {digest}", QPixmap()
    if QPixmapCache.find(name, picture):
        return picture
    try:
        picture.loadFromData(store.reckoner.attachment(digest))
    except (JobError, OSError):
        return QPixmap()
    if not picture.isNull():
        if max(picture.width(), picture.height()) > MOST_PX:
            picture = picture.scaled(
                MOST_PX,
                MOST_PX,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
        QPixmapCache.insert(name, picture)
    return picture


def paint_pointing(painter: QPainter, plan: Plan, pointing: Pointing) -> None:
    """The points that were set, a cross where the next would be, and what a hand may do."""
    look = current()
    at = [box.point(x, y) for wall, x, y in pointing.spots if (box := plan.of(wall)) is not None]
    painter.setPen(QPen(colour(look.hand), 2 * look.stroke))
    painter.setBrush(colour(look.hand))
    for (spot, a), (other, b) in zip(zip(pointing.spots, at), list(zip(pointing.spots, at))[1:]):
        if spot[0] == other[0]:
            painter.drawPolyline([a, b] if pointing.exact else [a, QPointF(b.x(), a.y()), b])
    for point in at:
        painter.drawRect(QRectF(point.x() - 3, point.y() - 3, 6, 6))
    wall, x, y = pointing.at
    box = plan.of(wall)
    if box is not None:
        here = box.point(x, y)
        painter.setPen(QPen(colour(look.hand), 1.4 * look.stroke))
        painter.drawLine(here - QPointF(14, 0), here + QPointF(14, 0))
        painter.drawLine(here - QPointF(0, 14), here + QPointF(0, 14))
    _words(painter, plan, pointing.hint)


def _words(painter: QPainter, plan: Plan, words: str) -> None:
    """What a hand may do, at the foot."""
    look = current()
    painter.setFont(font("label"))
    metrics = QFontMetricsF(painter.font())
    wide = min(plan.shelf.width(), metrics.horizontalAdvance(words) + 16)
    flags = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
    need = metrics.boundingRect(QRectF(0, 0, wide - 12, 400), int(flags), words)
    high = need.height() + 8
    panel = QRectF(plan.shelf.left(), plan.shelf.bottom() - high - 2, wide, high)
    painter.setPen(QPen(colour(look.hand), 1))
    painter.setBrush(colour(look.panel, 245))
    painter.drawRect(panel)
    painter.setPen(colour(look.ink))
    painter.drawText(panel.adjusted(6, 4, -6, -4), flags, words)
