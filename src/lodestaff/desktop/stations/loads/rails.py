"""The rails: circuits as blocks that a hand, or the keyboard, moves between held, shed, grid only, locked out."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter

from lodestaff.desktop.stations.loads.geometry import ROLES, Block, Rails, lay_rails
from lodestaff.desktop.stations.loads.painting import paint_rails
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import font
from lodestaff.job import Change, Circuit, Role

DRAG_AFTER_PX = 4
ROLE_KEYS = {Qt.Key.Key_H: Role.HELD, Qt.Key.Key_S: Role.SHED, Qt.Key.Key_G: Role.GRID, Qt.Key.Key_L: Role.LOCKED}


class RailsView(Surface):
    """Arrow keys go from circuit to circuit; Shift+Up and Shift+Down, or H S G L, move the circuit."""

    least = (500, 560)

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "Circuits on rails",
            "Arrow keys choose a circuit; H, S, G or L moves it. The table beside it holds the same.",
        )
        self.rails: Rails | None = None
        self.chosen = ""
        self.dragged: Circuit | None = None
        self.grip = QPointF()
        self.at = QPointF()
        self.target: Role | None = None
        self._pressed: Block | None = None

    def refresh(self) -> None:
        """Lay out anew from the store."""
        job = self.store.job
        if job is None:
            return
        results = self.store.results
        metrics = QFontMetricsF(font("label"))
        nights = results.night_kwh if results else {}
        self.rails = lay_rails(job, nights, self.width(), self.height(), metrics, metrics.height() + 1)
        if self.chosen not in {circuit.id for circuit in job.circuits}:
            self.chosen = job.circuits[0].id if job.circuits else ""
        self.update()

    # --- the mouse ---------------------------------------------------------------------------------
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.rails is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed = self.rails.block_at(event.position())
        if self._pressed is not None:
            self.chosen = self._pressed.circuit.id
            self.grip = event.position()
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.rails is None:
            return
        if self._pressed is None:
            over = self.rails.block_at(event.position())
            self.setCursor(Qt.CursorShape.OpenHandCursor if over else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self._tip(over.circuit) if over else "")
            return
        if self.dragged is None and (event.position() - self.grip).manhattanLength() < DRAG_AFTER_PX:
            return
        self.dragged = self._pressed.circuit
        self.at = event.position()
        self.setCursor(Qt.CursorShape.ClosedHandCursor)
        rail = self.rails.rail_at(self.at)
        self._aim(rail.role if rail else None)
        self.update()

    def _aim(self, role: Role | None) -> None:
        """Over another rail: ask what dropping there would bring."""
        if role is self.target or self.dragged is None:
            return
        self.target = role
        if role is None or role is self.dragged.role:
            self.store.end_try()
        else:
            self.store.try_out(Change(f"circuits/{self.dragged.id}/role", str(role)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, target = self.dragged, self.target
        self._let_go()
        if dragged is not None and target is not None and target is not dragged.role:
            self.move_circuit(dragged, target)

    def _let_go(self) -> None:
        self._pressed, self.dragged, self.target = None, None, None
        self.store.end_try()
        self.setCursor(Qt.CursorShape.ArrowCursor)
        self.update()

    def _tip(self, circuit: Circuit) -> str:
        wish = f", {circuit.wish}" if circuit.wish else ""
        start = f", starts with {circuit.start_kva:.2f} kVA" if circuit.start_kva > circuit.running_kva else ""
        return f"{circuit.name}: {circuit.running_w / 1000:.2f} kW, {circuit.running_kva:.2f} kVA{start}, {circuit.kwh_year:.0f} kWh a year{wish}"

    # --- the keyboard --------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        job, key = self.store.job, Qt.Key(event.key())
        if job is None or not self.chosen:
            return
        circuit = job.circuit(self.chosen)
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key == Qt.Key.Key_Escape and self.dragged is not None:
            self._let_go()
        elif key in ROLE_KEYS and not event.modifiers():
            self.move_circuit(circuit, ROLE_KEYS[key])
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and shift:
            index = ROLES.index(circuit.role) + (1 if key == Qt.Key.Key_Down else -1)
            if 0 <= index < len(ROLES):
                self.move_circuit(circuit, ROLES[index])
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._walk(key)
        else:
            super().keyPressEvent(event)

    def _walk(self, key: Qt.Key) -> None:
        if self.rails is None:
            return
        rails = [[block.circuit.id for block in rail.blocks] for rail in self.rails.rails if rail.blocks]
        row = next((index for index, ids in enumerate(rails) if self.chosen in ids), 0)
        column = rails[row].index(self.chosen) if self.chosen in rails[row] else 0
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            column = (column + (1 if key == Qt.Key.Key_Right else -1)) % len(rails[row])
        else:
            row = (row + (1 if key == Qt.Key.Key_Down else -1)) % len(rails)
            column = min(column, len(rails[row]) - 1)
        self.chosen = rails[row][column]
        self.setAccessibleDescription(self._tip(self.store.job.circuit(self.chosen)) if self.store.job else "")
        self.update()

    def move_circuit(self, circuit: Circuit, role: Role) -> None:
        self.store.edit(f"Move {circuit.name} to {role}", Change(f"circuits/{circuit.id}/role", str(role)))

    def paint(self, painter: QPainter) -> None:
        if self.rails is not None and self.store.job is not None:
            paint_rails(painter, self)

    def ghost_rect(self) -> QRectF:
        """Where the dragged block is drawn."""
        block = self.rails.block_of(self.dragged.id) if self.rails and self.dragged else None
        return block.rect.translated(self.at - self.grip) if block else QRectF()
