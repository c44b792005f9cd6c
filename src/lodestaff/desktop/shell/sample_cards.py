"""The sample jobs as small diagrams with their kind in words, drawn one after the other when the first screen
has stood for a moment."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QFontMetricsF, QHideEvent, QPainter, QPaintEvent, QPen, QPolygonF, QShowEvent
from PySide6.QtWidgets import QAbstractButton, QWidget

from lodestaff.desktop.flow import FlowLayout
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.desktop.worker import Worker
from lodestaff.samples import sample_names
from lodestaff.wiring import Drawing

AFTER_MS = 400
DEMO_WORDS = "Hybrid with a backup panel and a bypass by hand"


class SampleCard(QAbstractButton):
    """A sample: its diagram, its name, its kind."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.name = name
        self.drawing: Drawing | None = None
        self.show_words(name.replace("-", " ").capitalize(), "")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_words(self, title: str, kind: str, drawing: Drawing | None = None) -> None:
        self.title, self.kind, self.drawing = title, kind, drawing
        self.setAccessibleName(f"Open the sample {title}{': ' if kind else ''}{kind}")
        self.setToolTip(kind)
        self.update()

    def sizeHint(self) -> QSize:
        k = text_scale()
        return QSize(round(206 * max(1.0, k * 0.9)), round(94 + 66 * k))

    def paintEvent(self, event: QPaintEvent) -> None:
        look, k = current(), text_scale()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(QPen(colour(look.hand if self.underMouse() else look.edge), look.stroke))
        painter.setBrush(colour(look.panel))
        painter.drawRect(box)
        if self.drawing is not None:
            _miniature(painter, self.drawing, QRectF(10, 8, self.width() - 20, 78))
        text = QRectF(10, 90, self.width() - 20, self.height() - 94)
        painter.setFont(font("strong"))
        painter.setPen(colour(look.ink))
        metrics = QFontMetricsF(painter.font())
        painter.drawText(text, metrics.elidedText(self.title, Qt.TextElideMode.ElideRight, text.width()))
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        painter.drawText(text.adjusted(0, 18 * k, 0, 4), int(Qt.TextFlag.TextWordWrap), self.kind)
        if self.hasFocus():
            focus_frame(painter, look, box.adjusted(1.5, 1.5, -1.5, -1.5))
        painter.end()


def _miniature(painter: QPainter, drawing: Drawing, room: QRectF) -> None:
    """The shapes of a diagram without its words."""
    look = current()
    boxes = drawing.boxes.values()
    left, right = min(x for x, *_ in boxes), max(x + w for x, _, w, _ in boxes)
    top, bottom = min(y for _, y, *_ in boxes), max(y + h for _, y, _, h in boxes)
    scale = min(room.width() / (right - left), room.height() / (bottom - top))
    painter.save()
    painter.translate(room.center() - QPointF((left + right) / 2, (top + bottom) / 2) * scale)
    painter.scale(scale, scale)
    for shape in drawing.shapes:
        points = [QPointF(x, y) for x, y in shape.points]
        wire = shape.style == "conductor"
        painter.setPen(QPen(colour(look.battery if wire else look.ink), (1.4 if wire else 1.1) / scale))
        painter.setBrush(colour(look.ink) if shape.style == "fill" else Qt.BrushStyle.NoBrush)
        if shape.kind == "circle":
            radius = abs(points[1].x() - points[0].x())
            painter.drawEllipse(points[0], radius, radius)
        elif shape.kind == "polygon":
            painter.drawPolygon(QPolygonF(points))
        elif shape.kind != "text":
            painter.drawPolyline(points)
    painter.restore()


def _drawn(name: str) -> tuple[str, str, Drawing]:
    """Title, kind and diagram of a sample."""
    from lodestaff.job import load_job
    from lodestaff.reckoning import Reckoner
    from lodestaff.samples import sample_path
    from lodestaff.templates.kinds import KINDS
    from lodestaff.wiring import draw
    from lodestaff.wiring.levels import seen_at

    job = load_job(sample_path(name))
    wiring = Reckoner().wiring(job)
    kinds = {point.wanted.title: point.words for point in KINDS.values()}
    drawing = draw(seen_at(wiring.topology, "overview"), wiring.answers[0].positions)
    return job.title, kinds.get(job.title, DEMO_WORDS), drawing


class Samples(QWidget):
    """All sample jobs; a click opens one."""

    def __init__(self, chosen: Callable[[str], object], fault: Callable[[BaseException], None]) -> None:
        super().__init__()
        flow = FlowLayout(self)
        self.cards = [SampleCard(name) for name in sample_names()]
        for card in self.cards:
            card.clicked.connect(lambda _=False, name=card.name: chosen(name))
            flow.addWidget(card)
        self.worker = Worker(fault, self)
        self.stopped = False
        self.soon = QTimer(self)
        self.soon.setSingleShot(True)
        self.soon.setInterval(AFTER_MS)
        self.soon.timeout.connect(self._draw_next)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.soon.start()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.soon.stop()

    def stop(self) -> None:
        """The window closes: nothing more is drawn."""
        self.stopped = True
        self.soon.stop()
        self.worker.stop()

    def _draw_next(self) -> None:
        card = next((card for card in self.cards if card.drawing is None), None)
        if card is None or self.stopped or not self.isVisible():
            return

        def show(drawn: tuple[str, str, Drawing]) -> None:
            card.show_words(*drawn)
            self._draw_next()

        self.worker.ask("sample", lambda: _drawn(card.name), show, lambda error: None)
