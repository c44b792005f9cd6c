"""The shelf as it is drawn: one gallery, an entry a case as high as it is strong; what doesn't fit is
outlined only."""

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen

from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame, hatch, mark

CASE_W, LOW_H, SPAN_H, GAP, FOOT = 128.0, 54.0, 62.0, 12.0, 96.0
STRENGTH = {"module": "pmp_w", "hybrid": "rated_kva", "battery": "module_kwh", "inverter": "rated_kva",
            "optimiser": "rated_w",
            "microinverter": "rated_va", "gateway": "rated_a", "transfer": "rated_a",
            "generator": "rated_kva",
            "charger": "rated_kw", "device": "rated_a", "cable": "size_mm2"}  # fmt: skip


@dataclass(frozen=True)
class Case:
    """One entry as shown: id, name, its figure in words, price in words, and how it stands to the job."""

    id: str
    name: str
    figure: str
    strength: float
    price: str
    state: str  # "chosen", "fits", "not", "unknown", "half"
    because: str


class Gallery(Surface):
    """Click or arrow keys choose a case; Enter or a double click tries it in the job."""

    chosen_changed = Signal(str)
    tried = Signal(str)

    least = (400, 240)

    def __init__(self, store: Store) -> None:
        super().__init__(store, "Shelf", "Left and Right choose a case, Enter tries it in the job.")
        self.cases: tuple[Case, ...] = ()
        self.chosen = ""

    def sizeHint(self) -> QSize:
        return QSize(round((CASE_W + GAP) * text_scale() * max(1, len(self.cases)) + GAP), 250)

    def minimumSizeHint(self) -> QSize:
        return QSize(self.sizeHint().width(), round(self.least[1] * max(1.0, text_scale())))

    def show_cases(self, cases: tuple[Case, ...]) -> None:
        """Put cases on the gallery; the chosen one stays where it is still there."""
        self.cases = cases
        if self.chosen not in {case.id for case in cases}:
            self.chosen = next(
                (case.id for case in cases if case.state == "chosen"), cases[0].id if cases else ""
            )
        self.setMinimumWidth(self.minimumSizeHint().width())
        self.updateGeometry()
        self.update()

    def spoken(self) -> list[Spoken]:
        """Each case; pressed it is chosen."""
        return [
            Spoken(case.id, case.name, self.case_rect(place), f"{case.figure}, {case.price}, {case.because}",
                   chosen=case.id == self.chosen, press=partial(self.choose, case.id))
            for place, case in enumerate(self.cases)
        ]  # fmt: skip

    def case_rect(self, index: int) -> QRectF:
        """Where a case stands: as high as it is strong among those shown."""
        k = text_scale()
        strongest = max((case.strength for case in self.cases), default=1.0) or 1.0
        height = (LOW_H + SPAN_H * self.cases[index].strength / strongest) * k
        bottom = self.height() - FOOT * k
        return QRectF(GAP + index * (CASE_W + GAP) * k, bottom - height, CASE_W * k, height)

    def _at(self, point: QPointF) -> str:
        for index, case in enumerate(self.cases):
            rect = self.case_rect(index)
            if QRectF(rect.left(), rect.top(), rect.width(), self.height() - rect.top()).contains(point):
                return case.id
        return ""

    def choose(self, entry: str) -> None:
        if entry and entry != self.chosen:
            self.chosen = entry
            self.chosen_changed.emit(entry)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.choose(self._at(event.position()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if spot := self._at(event.position()):
            self.tried.emit(spot)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        spot = self._at(event.position())
        self.setToolTip(next((case.because for case in self.cases if case.id == spot), ""))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ids = [case.id for case in self.cases]
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is not None and ids:
            here = ids.index(self.chosen) if self.chosen in ids else 0
            self.choose(ids[min(len(ids) - 1, max(0, here + step))])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen:
            self.tried.emit(self.chosen)
        else:
            super().keyPressEvent(event)

    def paint(self, painter: QPainter) -> None:
        look, k = current(), text_scale()
        bottom = self.height() - FOOT * k
        painter.fillRect(QRectF(0, bottom, self.width(), 3), colour(look.ink))
        for index, case in enumerate(self.cases):
            self._case(painter, case, self.case_rect(index))

    def _case(self, painter: QPainter, case: Case, rect: QRectF) -> None:
        look, k = current(), text_scale()
        fits = case.state in ("chosen", "fits")
        painter.setPen(
            QPen(colour(look.ink if fits else look.soft), (2 if case.state == "chosen" else 1) * look.stroke)
        )
        painter.setBrush(hatch(look, "battery") if case.state == "chosen" else colour(look.panel))
        if not fits:
            pen = painter.pen()
            pen.setStyle(Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect)
        painter.setPen(colour(look.ink if fits else look.soft))
        painter.setFont(font("strong"))
        painter.drawText(
            rect.adjusted(8, 6, -8, -6), Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, case.figure
        )
        sign = {"chosen": "passed", "fits": "passed", "not": "blocks", "half": "open"}.get(case.state)
        if sign:
            mark(painter, look, sign, QRectF(rect.right() - 22, rect.top() + 8, 13, 12))
        foot = QRectF(rect.left(), rect.bottom() + 8, rect.width(), FOOT * k - 10)
        self._foot(painter, case, foot)
        if self.hasFocus() and case.id == self.chosen:
            focus_frame(
                painter,
                look,
                QRectF(rect.left() - 4, rect.top() - 4, rect.width() + 8, self.height() - rect.top()),
            )
        elif case.id == self.chosen:
            painter.fillRect(QRectF(rect.left(), rect.bottom() + 4, rect.width(), 3), colour(look.hand))

    def _foot(self, painter: QPainter, case: Case, foot: QRectF) -> None:
        look = current()
        painter.setFont(font("label"))
        painter.setPen(colour(look.ink))
        line = QFontMetricsF(painter.font()).height()
        lines = (
            case.name,
            case.price,
            {"chosen": "in this job", "fits": "fits", "half": "half typed"}.get(case.state, case.because),
        )
        wrap = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft
        tops = (0.0, 2 * line, 3 * line)
        for words, top, count, ink in zip(
            lines, tops, (2, 1, 3), (look.ink, look.soft, look.soft), strict=True
        ):
            painter.setPen(colour(ink))
            room = QRectF(foot.left(), foot.top() + top, foot.width(), count * line)
            painter.setClipRect(room)
            painter.drawText(room, wrap, words)
            painter.setClipping(False)
