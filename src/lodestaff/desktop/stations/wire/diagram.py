"""The live diagram: switches that switch, conductors that answer."""

from functools import partial

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QContextMenuEvent,
    QCursor,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QGestureEvent, QMenu, QPinchGesture

from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.stations.wire.surface import DiagramSurface
from lodestaff.desktop.store import Store
from lodestaff.topology import Topology
from lodestaff.wiring import Offer, offers


class DiagramView(DiagramSurface):
    """Click a switch to work it, a conductor or part to ask it. Wheel and pinch zoom, drag moves, Home
    fits."""

    asked = Signal(str)  # a conductor's or part's id

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self._pressed: QPointF | None = None
        self._doubled = False
        self._before = store.state
        self._panned = False
        self.grabGesture(Qt.GestureType.PinchGesture)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed, self._panned = event.position(), False
        if not self._doubled:
            self._before = self.store.state

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and event.buttons() & Qt.MouseButton.LeftButton:
            step = event.position() - self._pressed
            if self._panned or step.manhattanLength() > 5:
                self._panned = True
                self.shift += step
                self._pressed = event.position()
                self.update()
            return
        spot = self.at(event.position())
        if spot != self.hovered:
            self.hovered = spot
            self.setToolTip(self.words_of(spot))
            self.setCursor(Qt.CursorShape.PointingHandCursor if spot else Qt.CursorShape.ArrowCursor)
            self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self.hovered = ""
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Come closer to what is under the hand; what its first click switched is put back."""
        spot = self.at(event.position())
        if (
            self.drawing is not None
            and spot in self.drawing.boxes
            and event.button() == Qt.MouseButton.LeftButton
        ):
            self._doubled = True
            self.store.set_state(self._before)
            self.closer(spot)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        mouse = event.reason() == QContextMenuEvent.Reason.Mouse
        self.offer(self.at(QPointF(event.pos())) if mouse else self.chosen)

    def offer(self, name: str) -> QMenu | None:
        """What can be adjusted at a place, in a menu."""
        job, topology = self.store.job, self.topology()
        if job is None or topology is None or not name:
            return None
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for proposal in offers(job, topology, name):
            menu.addAction(proposal.words).triggered.connect(
                lambda _=False, taken=proposal: self._take(taken)
            )
        if menu.isEmpty():
            menu.addAction("Nothing to adjust here").setEnabled(False)
        menu.popup(QCursor.pos())
        return menu

    def _take(self, offer: Offer) -> None:
        self.store.edit(offer.words, *offer.changes)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._doubled:
            self._doubled, self._pressed = False, None
            return
        if not self._panned and event.button() == Qt.MouseButton.LeftButton:
            spot = self.at(event.position())
            if spot in self._switches():
                self.chosen = spot
                self.work(spot)
            self.asked.emit(spot)
        self._pressed = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom_by(1.15 if event.angleDelta().y() > 0 else 1 / 1.15, event.position())

    def event(self, event: QEvent) -> bool:
        """Two fingers on a touch pad or a screen zoom where they are."""
        if event.type() == QEvent.Type.NativeGesture and isinstance(event, QNativeGestureEvent):
            if event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
                self._zoom_by(1.0 + event.value(), event.position())
                return True
        elif event.type() == QEvent.Type.Gesture and isinstance(event, QGestureEvent):
            pinch = event.gesture(Qt.GestureType.PinchGesture)
            if isinstance(pinch, QPinchGesture):
                at = self.mapFromGlobal(pinch.centerPoint().toPoint())
                self._zoom_by(pinch.scaleFactor(), QPointF(at))
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, switches = Qt.Key(event.key()), self._switches()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and switches:
            step = 1 if key == Qt.Key.Key_Right else -1
            self.chosen = switches[(switches.index(self.chosen) + step) % len(switches)]
            self.setAccessibleDescription(self.words_of(self.chosen))
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.chosen:
            self.work(self.chosen)
            self.asked.emit(self.chosen)
        elif key == Qt.Key.Key_PageDown:
            self.closer(self.chosen)
        elif key == Qt.Key.Key_PageUp:
            self.further()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self._zoom_by(1.25 if key == Qt.Key.Key_Plus else 0.8)
        elif key == Qt.Key.Key_Home:
            self._zoom_by(0.0)
        else:
            super().keyPressEvent(event)

    def spoken(self) -> list[Spoken]:
        """Each part, switches with their position, then each conductor; pressed it is worked or told of."""
        topology, answer = self.topology(), self.answer
        if self.drawing is None or topology is None or answer is None:
            return []
        drawn = [name for name in self.drawing.boxes if name in topology.parts]
        wires = {shape.owner: shape.points for shape in self.drawing.shapes if shape.style == "conductor"}
        scale, corner = self._fit()
        k, at = scale * self.zoom, corner + self.shift
        things = []
        for name in drawn:
            part, switch = topology.parts[name], name in answer.positions
            role = QAccessible.Role.Button if switch else QAccessible.Role.StaticText
            press = partial(self.work if switch else self.asked.emit, name)
            things.append(
                Spoken(
                    name,
                    part.name,
                    self.part_rect(name),
                    self.words_of(name),
                    role=role,
                    chosen=name == self.chosen,
                    press=press,
                )
            )
        for name, points in wires.items():
            xs, ys = [at.x() + x * k for x, _ in points], [at.y() + y * k for _, y in points]
            rect = QRectF(min(xs), min(ys), max(xs) - min(xs) + 2, max(ys) - min(ys) + 2)
            if name in answer.live:
                ends = _ends(topology, name)
                things.append(
                    Spoken(name, ends, rect, self.words_of(name), press=partial(self.asked.emit, name))
                )
        return things

    def work(self, part_id: str) -> None:
        """Work a switch: to its next position."""
        topology = self.topology()
        if topology is None or self.answer is None:
            return
        part = topology.parts[part_id]
        here = part.positions.index(self.answer.positions[part_id])
        self.store.set_state(
            self.store.state.with_hand(part_id, part.positions[(here + 1) % len(part.positions)])
        )

    def words_of(self, name: str) -> str:
        """What is known of a part or conductor in this state, in one line."""
        topology = self.topology()
        if not name or topology is None or self.answer is None:
            return ""
        if name in self.answer.live:
            sources = sorted(self.answer.live[name])
            return f"{_ends(topology, name)}: " + (f"live from {', '.join(sources)}" if sources else "dead")
        part = topology.parts[name]
        position = self.answer.positions.get(name)
        return f"{part.name}{f', {part.rating}' if part.rating else ''}" + (
            f": {position}; click to switch" if position else ""
        )


def _ends(topology: Topology, name: str) -> str:
    """A conductor by what it joins, and its cores."""
    conductor = next(conductor for conductor in topology.conductors if conductor.id == name)
    a, b = topology.parts[conductor.a[0]].name, topology.parts[conductor.b[0]].name
    return f"{a} to {b}, {conductor.name}"
