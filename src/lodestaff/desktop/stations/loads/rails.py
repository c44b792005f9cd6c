"""The rails: circuits as blocks that a hand, or the keyboard, moves between roles, boards and legs."""

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter

from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.stations.loads.adding import take_out
from lodestaff.desktop.stations.loads.geometry import Block, Rails, lay_rails
from lodestaff.desktop.stations.loads.painting import paint_rails
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import font, text_scale
from lodestaff.job import Change, Circuit, Job, Role
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.legs import load_of
from lodestaff.reckoning.load_groups import ROLES, LoadGroup, drop_changes, load_groups, title

DRAG_AFTER_PX = 4
ROLE_KEYS = {Qt.Key.Key_H: Role.HELD, Qt.Key.Key_S: Role.SHED, Qt.Key.Key_G: Role.GRID,
             Qt.Key.Key_L: Role.LOCKED,
             Qt.Key.Key_U: Role.SURPLUS}  # fmt: skip


class RailsView(Surface):
    """Arrow keys go from circuit to circuit; Shift+Up and Shift+Down, or H S G L U, move the circuit."""

    least = (500, 560)

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "Circuits on rails",
            "Arrow keys choose a circuit; H, S, G, L or U moves it. The table beside it holds the same.",
        )
        self.rails: Rails | None = None
        self.chosen = ""
        self.dragged: Circuit | None = None
        self.grip = QPointF()
        self.at = QPointF()
        self.target: LoadGroup | None = None
        self.drop_changes: tuple[Change, ...] = ()
        self._pressed: Block | None = None

    def refresh(self) -> None:
        """Lay out anew from the store."""
        job = self.store.job
        if job is None:
            return
        results = self.store.results
        metrics = QFontMetricsF(font("label"))
        nights = results.night_kwh if results else {}
        parent = self.parentWidget()
        there = parent.height() if parent is not None else self.height()
        groups = load_groups(job, self.store.reckoner.wiring(job))
        least = max(float(there), self.least[1] * max(1.0, text_scale()))
        self.rails = lay_rails(
            job,
            groups,
            night_kwh=nights,
            width=self.width(),
            height=least,
            metrics=metrics,
            line_height=metrics.height() + 1,
        )
        self.setMinimumHeight(round(self.rails.height))
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
        self._aim(rail.group if rail else None)
        self.update()

    def _aim(self, group: LoadGroup | None) -> None:
        """Over another rail: ask what dropping there would bring."""
        if self.dragged is None or (group.key if group else None) == (
            self.target.key if self.target else None
        ):
            return
        self.target = group
        self.drop_changes = self._changes(self.dragged, group) if group else ()
        if self.drop_changes:
            self.store.try_out(*self.drop_changes)
        else:
            self.store.end_try()

    def _changes(self, circuit: Circuit, group: LoadGroup) -> tuple[Change, ...]:
        job = self.store.job
        return drop_changes(job, self.store.reckoner.wiring(job), circuit, group) if job is not None else ()

    def is_tried(self, job: Job) -> bool:
        """Whether a try-out's job is the one that the drop would make."""
        tried = job.circuit(self.dragged.id) if self.dragged else None
        wanted = {change.path.rsplit("/", 1)[1]: change.value for change in self.drop_changes}
        return tried is not None and all(
            str(getattr(tried, name)) == str(value) for name, value in wanted.items()
        )

    def target_words(self) -> str:
        """Where the hand is: the role, and the board and leg where there are several."""
        group = self.target
        job = self.store.job
        if group is None or job is None:
            return ""
        return ", ".join(
            filter(None, (title(job, group.role), group.name if self._several_boards() else "", group.leg))
        )

    def _several_boards(self) -> bool:
        return (
            self.rails is not None
            and len({rail.group.board for rail in self.rails.rails if rail.group.board}) > 1
        )

    def neutral_words(self, group: LoadGroup) -> str:
        """The neutral's current of a board with all its circuits running."""
        job = self.store.job
        if job is None or not group.board:
            return ""
        board = next(
            (board for board in self.store.reckoner.wiring(job).boards if board.id == group.board), None
        )
        legs = tuple(leg for leg in job.site.phases if board and leg in board.legs)
        if board is None or len(legs) < 2:
            return ""
        load = load_of(job, [job.circuit(id) for id in board.circuits], legs)
        return f"neutral {text_of(load.neutral_a, 'A')}, {plain(load.imbalance_pct, 0)} % apart"

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, target = self.dragged, self.target
        self._let_go()
        if dragged is not None and target is not None:
            self.move_to(dragged, target)

    def _let_go(self) -> None:
        self._pressed, self.dragged, self.target, self.drop_changes = None, None, None, ()
        self.store.end_try()
        self.setCursor(Qt.CursorShape.ArrowCursor)
        self.update()

    def _tip(self, circuit: Circuit) -> str:
        wish = f", {circuit.wish}" if circuit.wish else ""
        start = (
            f", starts with {plain(circuit.start_kva, 2)} kVA"
            if circuit.start_kva > circuit.running_kva
            else ""
        )
        if circuit.role is Role.SURPLUS:
            s = circuit.surplus
            start += (
                f", on above {plain(s.start_kw)} kW of surplus, off below {plain(s.stop_kw)}, from "
                f"{plain(s.min_soc * 100, 0)} %"
            )
        if circuit.measured_w.value is not None:
            start += f", measured {plain(circuit.measured_w.value)} W {circuit.measured_w.date}".rstrip()
        return (
            f"{circuit.name}: {plain(circuit.running_w / 1000, 2)} kW, {plain(circuit.running_kva, 2)} "
            f"kVA{start}, {plain(circuit.kwh_year, 0)} kWh a year{wish}"
        )

    def spoken(self) -> list[Spoken]:
        """Each circuit on its rail; pressed it is chosen."""
        return [
            Spoken(
                (rail.group.leg, block.circuit.id),
                block.circuit.name,
                block.rect,
                f"{rail.role}, {self._tip(block.circuit)}",
                chosen=block.circuit.id == self.chosen,
                press=partial(self.choose, block.circuit.id),
            )
            for rail in (self.rails.rails if self.rails is not None else ())
            for block in rail.blocks
            if not block.also
        ]

    def choose(self, circuit: str) -> None:
        """Go to a circuit."""
        self.chosen = circuit
        told(self)
        self.update()

    # --- the keyboard --------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        job, key = self.store.job, Qt.Key(event.key())
        if job is None or not self.chosen:
            return
        circuit = job.circuit(self.chosen)
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key == Qt.Key.Key_Escape and self.dragged is not None:
            self._let_go()
        elif key == Qt.Key.Key_Delete:
            take_out(self.store, circuit.id)
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
        self.setAccessibleDescription(
            self._tip(self.store.job.circuit(self.chosen)) if self.store.job else ""
        )
        self.update()

    def move_circuit(self, circuit: Circuit, role: Role) -> None:
        """To a role: on the board that the role leads to, or on the nearest one that has it."""
        if self.rails is None or circuit.role is role:
            return
        ways = [
            rail.group
            for rail in self.rails.rails
            if rail.role is role and (not rail.group.leg or rail.group.leg in circuit.legs)
        ]
        same = next((group for group in ways if group.board == circuit.board), None)
        group = (
            same
            or next(iter(ways), None)
            or next(rail.group for rail in self.rails.rails if rail.role is role)
        )
        self.move_to(circuit, group)

    def move_to(self, circuit: Circuit, group: LoadGroup) -> None:
        """To a group, as one named step."""
        changes = self._changes(circuit, group)
        if not changes:
            return
        where = str(group.role) if circuit.role is not group.role else ""
        board = group.name if any(change.path.endswith("/board") for change in changes) and group.name else ""
        leg = group.leg if any(change.path.endswith("/phase") for change in changes) else ""
        self.store.edit(f"Move {circuit.name} to {', '.join(filter(None, (where, board, leg)))}", *changes)

    def paint(self, painter: QPainter) -> None:
        if self.rails is not None and self.store.job is not None:
            paint_rails(painter, self)

    def ghost_rect(self) -> QRectF:
        """Where the dragged block is drawn."""
        block = self.rails.block_of(self.dragged.id) if self.rails and self.dragged else None
        return block.rect.translated(self.at - self.grip) if block else QRectF()
