"""The diagram with proven parts solid and unproven ones grey; a click asks for a part's step."""

from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QResizeEvent

from lodestaff.desktop.stations.wire.diagram import DiagramView
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, text_scale
from lodestaff.desktop.theme.paint import colour
from lodestaff.topology import Answer, Topology
from lodestaff.wiring import Level, Shape

MOST_DEVICES = 28  # from here on the overview
LEAST_FOR_LABELS = 1.85  # pixels for a millimetre
FEW, NEAR_SHARE = 8, 0.55  # parts of a step that is come nearer to, and what they fill of the surface then
MOST_NEAR = 3.2  # times larger
METER_PX = 15.0


class ProofDiagram(DiagramView):
    """`proven` and `at_step` are ids of parts and conductors; the latter are what the step in view is
    about."""

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.setAccessibleName("What is proven")
        self.setAccessibleDescription("Left and Right choose a part, Enter goes to its step.")
        self.proven: frozenset[str] = frozenset()
        self.at_step: frozenset[str] = frozenset()
        self.bare: frozenset[str] = frozenset()  # what no step proves by itself
        self.places: tuple[str, ...] = ()  # where the step's instrument goes
        self._laid_out: tuple[Topology | None, QSize, float] | None = None
        self._whole: Topology | None = None
        self._boards: Topology | None = None
        self._large = False

    def refresh(self) -> None:
        """Lay out anew only where the installation or the room for it has changed."""
        key = (self.topology(), self.size(), text_scale())
        if self._laid_out is None or self._laid_out[0] is not key[0] or self._laid_out[1:] != key[1:]:
            self._laid_out = key
            super().refresh()

    def present(self) -> Answer | None:
        """Every switch as usual, whatever state was chosen elsewhere."""
        return self.store.reckoner.wiring(self.store.job).answers[0] if self.store.job is not None else None

    def topology(self) -> Topology | None:
        """The installation down to its boards, circuits are proven with them; a large one whole, for the
        overview."""
        whole = super().topology()
        if whole is None or whole is self._whole:
            return self._boards
        parts = {name: part for name, part in whole.parts.items() if part.kind != "circuit"}
        wires = tuple(conductor for conductor in whole.conductors if conductor.b[0] in parts)
        boards = replace(whole, parts=parts, conductors=wires, circuits={})
        self._whole, self._large = whole, len(boards.parts) > MOST_DEVICES
        self._boards = whole if self._large else boards
        return self._boards

    def present_level(self) -> Level:
        """Every device, or the overview of a large installation."""
        return "overview" if self.topology() is not None and self._large else "boards"

    def show_proof(
        self,
        proven: frozenset[str],
        named: frozenset[str],
        at_step: frozenset[str],
        places: tuple[str, ...] = (),
    ) -> None:
        """Mark what is proven, of what the procedure proves, and the parts of the step in view, enlarged."""
        if self.store.job is not None:
            topology = self.store.reckoner.wiring(self.store.job).topology
            everything = set(topology.parts) | {conductor.id for conductor in topology.conductors}
            self.bare = frozenset(everything - named)
        moved = at_step != self.at_step or places != self.places
        self.proven, self.at_step, self.places = proven, at_step, places
        if moved:
            self._come_nearer()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._come_nearer()

    def _come_nearer(self) -> None:
        """The few parts of the step in the middle, enlarged; everything where it has many or none."""
        self.zoom, self.shift = 1.0, QPointF()
        if self.drawing is None:
            return
        wanted = self.at_step | frozenset(self.places)
        rects = [self._rect_of(name) for name in wanted]
        here = [rect for rect in rects if rect is not None]
        if not here or len(here) > FEW:
            return
        box = QRectF()
        for rect in here:
            box = box.united(rect)
        fill = min(
            NEAR_SHARE * self.width() / max(box.width(), 1), NEAR_SHARE * self.height() / max(box.height(), 1)
        )
        if fill > 1.15:
            self._zoom_by(min(MOST_NEAR, fill), box.center())
            middle = QRectF()
            for name in wanted:
                middle = middle.united(self._rect_of(name) or QRectF())
            self.shift += QPointF(self.rect().center()) - middle.center()

    def _rect_of(self, name: str) -> QRectF | None:
        """Where a part, or the middle of a conductor, stands on the widget."""
        assert self.drawing is not None
        if name in self.drawing.boxes:
            return self.part_rect(name)
        for shape in self.drawing.shapes:
            if shape.style == "conductor" and shape.owner == name:
                scale, corner = self._fit()
                k, at = scale * self.zoom, corner + self.shift
                a, b = shape.points[len(shape.points) // 2 - 1], shape.points[len(shape.points) // 2]
                x, y = at.x() + k * (a[0] + b[0]) / 2, at.y() + k * (a[1] + b[1]) / 2
                return QRectF(x - 2, y - 2, 4, 4)
        return None

    def paint(self, painter: QPainter) -> None:
        super().paint(painter)
        if self.drawing is not None and self.places:
            self._instrument(painter)

    def _instrument(self, painter: QPainter) -> None:
        """The instrument at the foot, its two probes where they go."""
        look = current()
        ends = [rect for name in self.places if (rect := self._rect_of(name)) is not None]
        if not ends:
            return
        foot = QPointF(self.width() / 2, self.height() - METER_PX - 6)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour(look.hand), 1.8 * look.stroke))
        first, last = ends[0], ends[-1]
        tips = (
            (QPointF(first.center().x() - 4, first.bottom()), QPointF(first.center().x() + 4, first.bottom()))
            if len(ends) == 1
            else (QPointF(first.center().x(), first.bottom()), QPointF(last.center().x(), last.bottom()))
        )
        for side, tip in zip((-1, 1), tips, strict=True):
            path = QPainterPath(QPointF(foot.x() + 5 * side, foot.y() - METER_PX))
            path.cubicTo(
                QPointF(foot.x() + 5 * side, foot.y() - 60), QPointF(tip.x() + 8 * side, tip.y() + 60), tip
            )
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(path)
            painter.setBrush(colour(look.hand))
            painter.drawEllipse(tip, 3.0, 3.0)
        painter.setBrush(colour(look.panel))
        painter.drawRoundedRect(QRectF(foot.x() - 20, foot.y() - METER_PX, 40, 2 * METER_PX), 4, 4)
        painter.drawArc(QRectF(foot.x() - 11, foot.y() - 9, 22, 22), 30 * 16, 120 * 16)
        painter.drawLine(foot + QPointF(0, 6), foot + QPointF(6, -6))

    def work(self, part_id: str) -> None:
        """Nothing is switched here."""

    def words_of(self, name: str) -> str:
        topology = self.topology()
        if not name or topology is None:
            return ""
        if name in topology.parts:
            words = topology.parts[name].name
        else:
            conductor = next(conductor for conductor in topology.conductors if conductor.id == name)
            words = f"{topology.parts[conductor.a[0]].name} to {topology.parts[conductor.b[0]].name}"
        if name in self.bare:
            return f"{words}: no step of its own"
        return f"{words}: {'proven' if name in self.proven else 'not proven; click for its step'}"

    def ink_of(self, owner: str) -> QColor:
        look = current()
        if owner in (self.hovered, *self.at_step, *self.places):
            return colour(look.hand)
        return colour(look.ink if owner in self.proven else look.edge)

    def text_ink_of(self, shape: Shape) -> QColor:
        look = current()
        if shape.owner in self.at_step:
            return colour(look.hand)
        return colour(look.ink if shape.owner in self.proven else look.soft)

    def _text(self, painter: QPainter, shape: Shape, at: QPointF, pixels: float) -> None:
        """Where labels would run into each other, only those of the step in hand are painted."""
        if pixels >= LEAST_FOR_LABELS or shape.owner in (self.hovered, *self.at_step, *self.places):
            super()._text(painter, shape, at, pixels)

    def _conductor(self, painter: QPainter, shape: Shape, points: list[QPointF]) -> None:
        """Solid where proven, thin and dashed where not."""
        pen = QPen(
            self.ink_of(shape.owner),
            0.6 if shape.owner in self.proven or shape.owner in self.at_step else 0.36,
        )
        if shape.owner not in self.proven:
            pen.setDashPattern([3.0, 2.5])
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        painter.drawPolyline(points)
