"""All steps of the procedure as a strip: what is proven, what failed, what is open, and where one is."""

import itertools

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.record import StepResult
from lodestaff.desktop.theme import current, text_scale
from lodestaff.desktop.theme.paint import colour

GAP_SHARE = 1.2  # of a cell, between stages
TALL_PX, HIT_PX = 18, 32


class StepStrip(QWidget):
    """A cell a step, told apart by shape: passed is filled, doubtful half, failed crossed, open empty."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.results: tuple[StepResult, ...] = ()
        self.at = ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Steps of the procedure")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(300, round(HIT_PX * text_scale()))

    def minimumSizeHint(self) -> QSize:
        return QSize(120, round(HIT_PX * text_scale()))

    def show_steps(self, results: tuple[StepResult, ...], at: str) -> None:
        """Show where each step stands, and which one is in view."""
        if results == self.results and at == self.at:
            return
        self.results, self.at = results, at
        counts = {status: sum(result.status is status for result in results) for status in Status}
        words = ", ".join(f"{count} {status}" for status, count in counts.items() if count)
        place = next((n for n, result in enumerate(results, start=1) if result.step.id == at), 0)
        self.setAccessibleDescription(f"{words}; step {place} of {len(results)}")
        self.update()

    def cells(self) -> list[QRectF]:
        """Where each step's cell lies, stages apart."""
        if not self.results:
            return []
        stages = [result.step.stage for result in self.results]
        breaks = sum(a != b for a, b in itertools.pairwise(stages))
        wide = (self.width() - 2) / (len(stages) + GAP_SHARE * breaks)
        tall, x, rects = min(TALL_PX * text_scale(), self.height() - 4), 1.0, []
        top = (self.height() - tall) / 2
        for place, stage in enumerate(stages):
            if place and stage != stages[place - 1]:
                x += GAP_SHARE * wide
            rects.append(QRectF(x, top, max(1.0, wide - 1), tall))
            x += wide
        return rects

    def step_at(self, x: float) -> StepResult | None:
        """The step whose cell is nearest."""
        cells = self.cells()
        if not cells:
            return None
        nearest = min(range(len(cells)), key=lambda place: abs(cells[place].center().x() - x))
        return self.results[nearest]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        result = self.step_at(event.position().x())
        if result is not None:
            self.chosen.emit(result.step.id)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and (result := self.step_at(event.pos().x())) is not None:
            QToolTip.showText(event.globalPos(), f"{result.step.text} {result.status}", self)
            return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = current()
        tones = {
            Status.PASSED: look.passed,
            Status.DOUBTFUL: look.warns,
            Status.FAILED: look.blocks,
            Status.OPEN: look.edge,
        }
        for result, cell in zip(self.results, self.cells(), strict=True):
            tone = colour(tones[result.status])
            painter.setPen(QPen(tone, 1.0))
            if result.status is Status.PASSED:
                painter.fillRect(cell, tone)
            elif result.status is Status.DOUBTFUL:
                painter.fillRect(cell.adjusted(0, cell.height() / 2, 0, 0), tone)
                painter.drawRect(cell)
            elif result.status is Status.FAILED:
                painter.drawRect(cell)
                painter.drawLine(cell.topLeft(), cell.bottomRight())
                painter.drawLine(cell.topRight(), cell.bottomLeft())
            else:
                painter.drawRect(cell)
            if result.step.id == self.at:
                painter.setPen(QPen(colour(look.hand), 2 * look.stroke))
                above = QPointF(0.0, 4.0)
                painter.drawLine(cell.topLeft() - above, cell.topRight() - above)
                painter.drawLine(cell.bottomLeft() + above, cell.bottomRight() + above)
        painter.end()
