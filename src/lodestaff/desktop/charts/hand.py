"""The hand on a chart: what lies under it is read out, keys walk from mark to mark, a closer look, copies.

It lies over the chart as a sheet of glass, so that a chart paints its values and no more.
"""

from pathlib import Path

from PySide6.QtCore import QEvent, QMimeData, QObject, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFontMetricsF,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QFileDialog, QMenu, QWidget

from lodestaff.desktop.charts.mark import Mark, table_of
from lodestaff.desktop.pictures import SVG, svg_of
from lodestaff.desktop.spoken import announce
from lodestaff.desktop.theme import current, font
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.quantities.disk import write_whole

MOST_ZOOM, STEP = 6.0, 1.5
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
CLOSER = (Qt.Key.Key_Plus, Qt.Key.Key_Equal)
HOW = (
    "Alt with the arrows reads value by value; Alt with plus, minus and Home, or Ctrl with the wheel, looks "
    "closer; Ctrl+C copies picture and values."
)


class ChartHand(QWidget):
    """Give it a chart; with `arrows` the arrows alone walk too, where the chart has no use for them."""

    read = Signal(object)  # the mark that is read, None for none

    def __init__(self, chart: QWidget, arrows: bool = False) -> None:
        super().__init__(chart)
        self.chart, self.arrows = chart, arrows
        self.mark: Mark | None = None
        self.by_keys = False
        self.zoom, self.shift = 1.0, QPointF()
        self._pressed: QPointF | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setMouseTracking(True)
        chart.setMouseTracking(True)
        chart.installEventFilter(self)
        chart.setAccessibleDescription(f"{chart.accessibleDescription()} {HOW}".strip())
        self.resize(chart.size())

    # --- what it hears of the chart ----------------------------------------------------------------------
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Hear of all that happens to the chart; take what is the hand's."""
        kind = event.type()
        if kind == QEvent.Type.Resize:
            self.resize(self.chart.size())
            self.whole()
        elif kind == QEvent.Type.MouseMove and isinstance(event, QMouseEvent):
            if event.buttons():  # something is dragged
                self.point_at(None)
            else:
                self._hover(event.position())
        elif kind in (QEvent.Type.Leave, QEvent.Type.FocusOut):
            if kind == QEvent.Type.FocusOut or not self.by_keys:
                self.point_at(None)
        elif kind == QEvent.Type.Wheel and isinstance(event, QWheelEvent):
            return self._wheel(event)
        elif kind == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            return self._key(event)
        elif kind == QEvent.Type.ContextMenu and isinstance(event, QContextMenuEvent):
            self.menu().popup(event.globalPos())
            return True
        return False

    def _hover(self, at: QPointF) -> None:
        marks = [mark for mark in self._marks() if mark.rect.contains(at)]
        self.by_keys = False
        self.point_at(min(marks, key=lambda mark: mark.rect.width() * mark.rect.height(), default=None))

    def _marks(self) -> list[Mark]:
        return list(self.chart.marks())  # type: ignore[attr-defined]

    def point_at(self, mark: Mark | None) -> None:
        """Read a mark, or none."""
        if mark != self.mark:
            self.mark = mark
            self.read.emit(mark)
            self.update()

    # --- keys --------------------------------------------------------------------------------------------
    def _key(self, event: QKeyEvent) -> bool:
        key, held = Qt.Key(event.key()), event.modifiers()
        alt = bool(held & Qt.KeyboardModifier.AltModifier)
        plain_arrow = self.arrows and not held & ~Qt.KeyboardModifier.KeypadModifier
        if key in ARROWS and (alt or plain_arrow):
            self.walk(*ARROWS[key])
        elif alt and key in CLOSER:
            self.closer(STEP)
        elif alt and key == Qt.Key.Key_Minus:
            self.closer(1 / STEP)
        elif (alt and key == Qt.Key.Key_Home) or (key == Qt.Key.Key_Escape and self.zoom > 1):
            self.whole()
        elif key == Qt.Key.Key_C and held == Qt.KeyboardModifier.ControlModifier:
            self.copy()
        else:
            return False
        return True

    def walk(self, across: int, down: int) -> None:
        """Go to the next mark that way; the first one where none is read yet."""
        marks = self._marks()
        if not marks:
            return
        here = next((mark for mark in marks if self.mark and mark.where == self.mark.where), None)
        if here is None:
            self._take(marks[0])
            return
        middle = here.rect.center()

        def way(mark: Mark) -> tuple[float, float]:
            step = mark.rect.center() - middle
            along, aside = (step.x() * across, step.y()) if across else (step.y() * down, step.x())
            return along, abs(aside)

        ahead = [(way(mark), mark) for mark in marks if way(mark)[0] > 0.5]
        if ahead:
            self._take(min(ahead, key=lambda pair: pair[0][0] + 4 * pair[0][1])[1])

    def _take(self, mark: Mark) -> None:
        self.by_keys = True
        self.point_at(mark)
        announce(self.chart, "; ".join(mark.lines()))
        if self.zoom > 1:
            self._centre(mark.rect.center())

    # --- a closer look -----------------------------------------------------------------------------------
    def _wheel(self, event: QWheelEvent) -> bool:
        if not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            return False
        self.closer(STEP if event.angleDelta().y() > 0 else 1 / STEP, event.position())
        return True

    def closer(self, factor: float, at: QPointF | None = None) -> None:
        """Look closer by a factor: a point of the widget stays, else what is read comes to the middle."""
        middle = self.mark.rect.center() if self.mark else self.on_chart(QPointF(self.rect().center()))
        on_chart = middle if at is None else self.on_chart(at)
        self.zoom = min(MOST_ZOOM, max(1.0, self.zoom * factor))
        self.shift = (QPointF(self.rect().center()) if at is None else at) - on_chart * self.zoom
        self._keep_inside()

    def whole(self) -> None:
        """The chart as a whole again."""
        self.zoom, self.shift = 1.0, QPointF()
        self._keep_inside()

    def on_chart(self, point: QPointF) -> QPointF:
        """A point of the widget on the chart as it is drawn."""
        return QPointF((point - self.shift) / self.zoom)

    def _centre(self, on_chart: QPointF) -> None:
        self.shift = QPointF(self.rect().center()) - on_chart * self.zoom
        self._keep_inside()

    def _keep_inside(self) -> None:
        """No ground beyond the chart's edge; the glass takes the mouse only while it is closer."""
        for side, size in (("x", self.width()), ("y", self.height())):
            held = min(0.0, max(size * (1 - self.zoom), getattr(self.shift, side)()))
            getattr(self.shift, f"set{side.upper()}")(held)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents, self.zoom == 1)
        self.setCursor(Qt.CursorShape.OpenHandCursor if self.zoom > 1 else Qt.CursorShape.ArrowCursor)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self.shift += event.position() - self._pressed
            self._pressed = event.position()
            self._keep_inside()
        else:
            self._hover(self.on_chart(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pressed = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        if not self._wheel(event):
            event.ignore()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu().popup(event.globalPos())

    # --- copies ------------------------------------------------------------------------------------------
    def menu(self) -> QMenu:
        """What can be done with any chart."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for words, do in (
            ("Copy picture and values", self.copy),
            ("Save the picture (SVG)…", lambda: self.save("svg")),
            ("Save the values (CSV)…", lambda: self.save("csv")),
            ("Closer", lambda: self.closer(STEP)),
            ("As a whole", self.whole),
        ):
            menu.addAction(words).triggered.connect(lambda _=False, do=do: do())
        return menu

    def copy(self) -> None:
        """Picture and values on the clipboard: SVG, pixels, a table with tabs."""
        data = QMimeData()
        self.hide()  # the glass is no part of the picture
        data.setData(SVG, svg_of(self.chart, self.chart.accessibleName()))
        data.setImageData(self.chart.grab().toImage())
        self.show()
        data.setText(table_of(self.chart, "\t"))  # type: ignore[arg-type]
        QGuiApplication.clipboard().setMimeData(data)

    def save(self, kind: str, path: Path | None = None) -> None:
        """Write the picture (svg) or the values (csv), where the person says."""
        if path is None:
            name = f"{self.chart.accessibleName().split(',')[0].lower().replace(' ', '-')}.{kind}"
            asked, _ = QFileDialog.getSaveFileName(self, "Save", name, f"{kind.upper()} (*.{kind})")
            if not asked:
                return
            path = Path(asked).with_suffix(f".{kind}")
        self.hide()
        picture = svg_of(self.chart, self.chart.accessibleName()) if kind == "svg" else b""
        self.show()
        write_whole(path, picture or table_of(self.chart).encode())  # type: ignore[arg-type]

    # --- painting ----------------------------------------------------------------------------------------
    def paintEvent(self, event: QPaintEvent) -> None:
        if self.zoom == 1 and self.mark is None:
            return
        painter = QPainter(self)
        if self.zoom > 1:
            painter.fillRect(self.rect(), colour(current().paper))
            near = QTransform.fromTranslate(self.shift.x(), self.shift.y()).scale(self.zoom, self.zoom)
            painter.setTransform(near)
            self.chart.render(painter, QPoint(), renderFlags=QWidget.RenderFlag.DrawWindowBackground)
            painter.resetTransform()
        if self.mark is not None:
            box = QRectF(self.mark.rect)
            placed = QRectF(box.topLeft() * self.zoom + self.shift, box.size() * self.zoom)
            if self.by_keys:
                focus_frame(painter, current(), placed)
            self._reading(painter, placed)
        painter.end()

    def _reading(self, painter: QPainter, beside: QRectF) -> None:
        """What is read, in a box at the edge that is farther from the mark."""
        assert self.mark is not None
        look, lines = current(), self.mark.lines()
        painter.setFont(font("label"))
        metrics = QFontMetricsF(painter.font())
        wide = max(metrics.horizontalAdvance(line) for line in lines) + 14
        high = metrics.height() * len(lines) + 8
        left = 2.0 if beside.center().x() > self.width() / 2 else self.width() - wide - 2
        top = (
            2.0
            if beside.top() > high + 4 or beside.center().y() > self.height() / 2
            else self.height() - high - 2
        )
        box = QRectF(left, top, wide, high)
        painter.fillRect(box, colour(look.panel, 240))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(look.hand), 1))
        painter.drawRect(box)
        painter.setPen(colour(look.ink))
        for row, line in enumerate(lines):
            painter.drawText(
                QPointF(box.left() + 7, box.top() + 4 + metrics.ascent() + row * metrics.height()), line
            )
