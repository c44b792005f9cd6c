"""Walls to scale: parts are dragged onto them, along them and from one to another; keys do the same."""

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter

from lodestaff.checks import Finding
from lodestaff.checks.places import PLACE_RULES
from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.stations.place.geometry import Plan, WallBox, lay_plan, snapped
from lodestaff.desktop.stations.place.painting import paint_plan
from lodestaff.desktop.stations.place.pointing import Pointing
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import text_scale
from lodestaff.job import Change, Job, edit
from lodestaff.places import Body, Rect, bodies, entries
from lodestaff.places.aligning import aligned
from lodestaff.quantities import text_of
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.findings import answers

NUDGE_M, FINE_M = 0.05, 0.01
DRAG_AFTER_PX = 4
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


class PlaceView(Surface):
    """Page Up and Page Down choose a part, arrows move it (with Shift by a centimetre), W puts it on the next
    wall, Delete takes it off. Space, or a click with Ctrl, chooses several, which move together."""

    least = (500, 320)
    chose = Signal(str)

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "Walls with what stands on them",
            "Page Up and Page Down choose a part, arrows move it by 5 cm, with Shift by 1 cm; W puts it on "
            "the next wall, Delete takes it off. Space keeps it chosen beside the next: then they move "
            "together. The table beside it holds the same.",
        )
        self.plan: Plan | None = None
        self.bodies: tuple[Body, ...] = ()
        self.chosen = ""
        self.beside: set[str] = set()  # chosen with it
        self.run = ""  # whose way is shown before all others
        self.pointing: Pointing | None = None
        self.held: Rect | None = None  # the chosen part while a hand moves it
        self.held_on: WallBox | None = None
        self.told: list[Finding] = []  # what the checks say of the place that it is held over
        self._pressed: QPointF | None = None
        self._grip = QPointF()

    @property
    def body(self) -> Body | None:
        """The chosen part."""
        return next((body for body in self.bodies if body.id == self.chosen), None)

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        topology = self.store.reckoner.wiring(job).topology
        self.bodies = (*bodies(job, topology), *entries(job, topology))
        self.plan = lay_plan(job, self.bodies, self.width(), self.height(), max(1.0, text_scale()))
        if self.body is None and self.bodies:
            self.chosen = self.bodies[0].id
        self.beside &= {body.id for body in self.together()}
        self.update()

    def together(self) -> list[Body]:
        """The chosen part and those chosen with it on its wall, it first."""
        first = self.body
        if first is None:
            return []
        mates = (body for body in self.bodies if body.id in self.beside and body.id != first.id)
        return [first, *(body for body in mates if body.wall is first.wall)]

    def choose(self, part: str, more: bool = False) -> None:
        """Go to a part; with `more` the others stay chosen."""
        if more:
            self.beside |= {self.chosen}
        elif part not in self.beside:
            self.beside = set()
        self.chosen, self.run = part, ""
        told(self)
        self.chose.emit(part)
        self.update()

    def show_run(self, run: str) -> None:
        """Bring the way of a run out before all others."""
        self.run = run
        self.update()

    # --- moving ------------------------------------------------------------------------------------------
    def put(self, wall: str, x_m: float, y_m: float) -> bool:
        """Put the chosen part on a wall, as one step."""
        job, body = self.store.job, self.body
        if job is None or body is None:
            return False
        name = next(other.name for other in job.walls if other.id == wall)
        words = f"Put {body.name} on {name}, {text_of(x_m, 'm')} along, {text_of(y_m, 'm')} up"
        moved, at = self.together(), body.standing
        if len(moved) == 1 or at is None or at.wall != wall:
            return self.store.edit(words, standing_change(job, {body.id: (wall, x_m, y_m)}))
        across, up = x_m - at.x_m, y_m - at.y_m
        rects = {other.id: other.rect for other in moved if other.rect is not None}
        spots = {id: _spot(wall, rect.x + across, rect.y + up) for id, rect in rects.items()}
        return self.store.edit(f"Move {len(spots)} parts on {name}", standing_change(job, spots))

    def align(self, how: str) -> bool:
        """Bring what is chosen together into line, as one step."""
        job, moved, body = self.store.job, self.together(), self.body
        if job is None or body is None or body.wall is None or len(moved) < 2:
            return False
        rects = {other.id: other.rect for other in moved if other.rect is not None}
        places = aligned(rects, body.id, how)
        spots = {id: _spot(body.wall.id, x, y) for id, (x, y) in places.items()}
        return self.store.edit(f"Align {len(spots)} parts: {how}", standing_change(job, spots))

    def take_off(self) -> bool:
        """Take the chosen part off its wall."""
        job, body = self.store.job, self.body
        if job is None or body is None or body.standing is None:
            return False
        left = [standing.model_dump(mode="json") for standing in job.standing if standing.id != body.id]
        return self.store.edit(f"Take {body.name} off its wall", Change("standing", left))

    def try_at(self, box: WallBox, rect: Rect) -> None:
        """What the checks say of a place, without taking it."""
        job, body = self.store.job, self.body
        self.held, self.held_on = rect, box
        if job is None or body is None:
            return
        try:
            there = edit(job, standing_change(job, {body.id: (box.wall.id, rect.x, rect.y)}))
        except JobError:
            self.told = []
        else:
            findings = answers(self.store.reckoner, there, *PLACE_RULES)
            self.told = [
                finding
                for finding in findings
                if body.id in finding.subjects and finding.status in ("blocks", "warns")
            ]
        self.update()

    def _others(self, box: WallBox) -> list[Rect]:
        return [
            body.rect
            for body in self.bodies
            if body.rect is not None and body.wall is not None
            and body.wall.id == box.wall.id and body.id not in (self.chosen, *self.beside)
        ]  # fmt: skip

    def _drop(self) -> None:
        held, box = self.held, self.held_on
        self.held, self.held_on, self.told, self._pressed = None, None, [], None
        body = self.body
        if held is not None and box is not None and body is not None:
            at = body.standing
            if at is None or (at.wall, at.x_m, at.y_m) != (box.wall.id, held.x, held.y):
                self.put(box.wall.id, held.x, held.y)
        self.update()

    # --- the mouse ---------------------------------------------------------------------------------------
    def at(self, point: QPointF) -> Body | None:
        """The part under a point: the smallest of several."""
        if self.plan is None:
            return None
        under = [
            (body, box) for body in self.bodies if (box := self.plan.box_of(body)) and box.contains(point)
        ]
        return min(under, key=lambda pair: pair[1].width() * pair[1].height(), default=(None, QRectF()))[0]

    def point_out(self, pointing: Pointing) -> None:
        """Let a hand set points on walls."""
        self.pointing = pointing
        self.setFocus()
        self.update()

    def _pointed(self) -> None:
        """After each point: gone where it was the last."""
        if self.pointing is not None and self.pointing.ended:
            self.pointing = None
        told(self)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.pointing is not None and self.plan is not None:
            if self.pointing.over(self.plan, event.position()):
                self.pointing.set_point()
            self._pointed()
            return
        body = self.at(event.position())
        if body is None or event.button() != Qt.MouseButton.LeftButton or self.plan is None:
            return
        self.choose(body.id, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        box = self.plan.box_of(body)
        self._pressed = event.position()
        waiting = body.standing is None or box is None
        self._grip = QPointF() if waiting else event.position() - box.bottomLeft()  # type: ignore[union-attr]

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.pointing is not None and self.plan is not None:
            self.pointing.over(self.plan, event.position())
            self.update()
            return
        if self._pressed is None or self.plan is None:
            body = self.at(event.position())
            self.setCursor(Qt.CursorShape.OpenHandCursor if body else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self.words_of(body) if body else "")
            return
        if (event.position() - self._pressed).manhattanLength() < DRAG_AFTER_PX and self.held is None:
            return
        box, body = self.plan.wall_at(event.position()), self.body
        if box is None or body is None:
            return
        x, y = box.metres(event.position() - self._grip)
        rect = Rect(x, y, body.width_m, body.height_m)
        self.try_at(box, snapped(box, rect, self._others(box)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drop()

    # --- keys --------------------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, body, job = Qt.Key(event.key()), self.body, self.store.job
        ids = [other.id for other in self.bodies]
        if self.pointing is not None and self.plan is not None:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            if self.pointing.key(key, self.plan, fine):
                self._pointed()
                return
        if job is None or body is None:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            step = 1 if key == Qt.Key.Key_PageDown else -1
            kept = self.chosen in self.beside
            self.choose(ids[(ids.index(self.chosen) + step) % len(ids)], more=kept)
        elif key == Qt.Key.Key_Space:
            self.beside ^= {self.chosen}
            self.update()
        elif (
            key in STEPS
            and body.standing is not None
            and not event.modifiers() & Qt.KeyboardModifier.AltModifier
        ):
            by = FINE_M if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else NUDGE_M
            across, up = STEPS[key]
            at = body.standing
            self.put(at.wall, max(0.0, round(at.x_m + across * by, 3)), max(0.0, round(at.y_m + up * by, 3)))
        elif key == Qt.Key.Key_W and job.walls:
            walls = [wall.id for wall in job.walls]
            now = walls.index(body.standing.wall) if body.standing is not None else -1
            self.put(
                walls[(now + 1) % len(walls)], 0.0, 0.0 if body.on_floor or body.kind == "battery" else 1.2
            )
        elif key == Qt.Key.Key_Delete:
            self.take_off()
        elif key == Qt.Key.Key_Escape and self.held is not None:
            self.held, self._pressed = None, None
            self.update()
        else:
            super().keyPressEvent(event)

    # --- words -------------------------------------------------------------------------------------------
    def words_of(self, body: Body) -> str:
        """A part in a line: its size, where it stands."""
        size = f"{text_of(body.width_m, 'm')} × {text_of(body.height_m, 'm')} ({body.sized})"
        if body.standing is None or body.wall is None:
            return f"{body.name}, {size}: no place yet"
        at = f"{text_of(body.standing.x_m, 'm')} along, {text_of(body.standing.y_m, 'm')} up"
        return f"{body.name}, {size}: {body.wall.name}, {at}"

    def spoken(self) -> list[Spoken]:
        """Each part; pressed it is chosen."""
        if self.plan is None:
            return []
        return [
            Spoken(body.id, body.name, self.plan.box_of(body) or QRectF(), self.words_of(body),
                   chosen=body.id == self.chosen, press=partial(self.choose, body.id))
            for body in self.bodies
        ]  # fmt: skip

    def paint(self, painter: QPainter) -> None:
        paint_plan(painter, self)


def _spot(wall: str, x_m: float, y_m: float) -> tuple[str, float, float]:
    return wall, max(0.0, round(x_m, 3)), max(0.0, round(y_m, 3))


def standing_change(job: Job, spots: Mapping[str, tuple[str, float, float]]) -> Change:
    """The edit that puts parts somewhere (wall, along, up); what else is known of their places stays."""
    rows = {standing.id: standing.model_dump(mode="json") for standing in job.standing}
    for id, (wall, x_m, y_m) in spots.items():
        rows[id] = {**rows.get(id, {"id": id}), "wall": wall, "x_m": x_m, "y_m": y_m}
    return Change("standing", list(rows.values()))
