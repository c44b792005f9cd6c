"""The pages as they will be printed: the pack's own PDF, a page at a time, as wide as there is room."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.theme import current, text_scale
from lodestaff.desktop.theme.paint import colour
from lodestaff.handover import Caution, Page, Sign, Table, Text

GAP_PX, MOST_WIDE_PX, NOTHING_PX = 10, 1100, 200
WAITING = "The sheets are being laid out…"


def words_of(page: Page) -> tuple[str, ...]:
    """A page's words, line by line, as a screen reader says them."""
    lines = [page.title, *(f"Missing: {gap}" for gap in page.missing)]
    for block in page.blocks:
        match block:
            case Text(words):
                lines.append(words)
            case Caution(words):
                lines.append(f"Caution: {words}")
            case Table():
                lines += [
                    "; ".join(f"{head} {cell}".strip() for head, cell in zip(block.columns, row, strict=True))
                    for row in block.rows
                ]
            case Sign(role, name):
                lines.append(f"{role}: {name}, signature and date")
    return tuple(lines)


class Sheets(QWidget):
    """Sheets of paper under one another; each is painted from its picture."""

    def __init__(self) -> None:
        super().__init__()
        self.pictures: list[QImage] = []
        self.lines: tuple[str, ...] = ()
        self.setAccessibleName("Page of the pack")

    def show_pictures(self, pictures: list[QImage], lines: tuple[str, ...]) -> None:
        """Show a page's sheets and say its words."""
        self.pictures, self.lines = pictures, lines
        self.setAccessibleDescription(" ".join(lines)[:2000])
        self.updateGeometry()
        self.resize(self.sizeHint())
        self.update()

    def boxes(self) -> list[QRectF]:
        """Where the sheets lie."""
        rects, top = [], float(GAP_PX)
        room = max(100, self.width() - 2 * GAP_PX)
        for image in self.pictures:
            ratio = image.devicePixelRatio()
            wide = min(room, round(image.width() / ratio))
            high = image.height() / image.width() * wide
            rects.append(QRectF((self.width() - wide) / 2, top, wide, high))
            top += high + GAP_PX
        return rects

    def shows(self, title: str) -> bool:
        """Whether the sheets of a page are in view."""
        return bool(self.pictures) and self.lines[:1] == (title,)

    def sizeHint(self) -> QSize:
        boxes = self.boxes()
        return QSize(self.width(), round(boxes[-1].bottom() + GAP_PX) if boxes else NOTHING_PX)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if not self.pictures:
            painter.setPen(colour(current().soft))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, WAITING)
        painter.setPen(QPen(colour(current().line), 1))
        for image, box in zip(self.pictures, self.boxes(), strict=True):
            painter.drawImage(box, image)
            painter.drawRect(box)
        painter.end()

    def spoken(self) -> list[Spoken]:
        """Each line of the page."""
        boxes = self.boxes()
        whole = boxes[0] if boxes else QRectF()
        return [Spoken(f"line {number}", words, whole, "") for number, words in enumerate(self.lines)]


class Paper(QScrollArea):
    """Shows one page of the pack, all its sheets; `wants` asks for pictures in a width of pixels."""

    def __init__(self, wants: Callable[[int], None]) -> None:
        super().__init__()
        self.sheets = Sheets()
        self.setWidget(self.sheets)
        self.setObjectName("surface")
        self.viewport().setAutoFillBackground(False)
        self.sheets.setAutoFillBackground(False)
        self.setAccessibleName("Page of the pack")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._wants = wants

    def wide_px(self) -> int:
        """How wide sheets may be, in pixels of the screen."""
        ratio = self.devicePixelRatioF()
        return round(min(self.viewport().width() - 2 * GAP_PX, MOST_WIDE_PX * max(1.0, text_scale())) * ratio)

    def show_page(self, page: Page, pictures: list[QImage]) -> None:
        """Show a page; the place in it stays where the page stays the same."""
        place = self.verticalScrollBar().value()
        for image in pictures:
            image.setDevicePixelRatio(self.devicePixelRatioF())
        self.sheets.resize(self.viewport().width(), self.sheets.height())
        self.sheets.show_pictures(pictures, words_of(page))
        self.verticalScrollBar().setValue(place)

    def toPlainText(self) -> str:
        """The words of the page in view."""
        return "\n".join(self.sheets.lines)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.sheets.resize(self.viewport().width(), self.sheets.height())
        self._wants(self.wide_px())
