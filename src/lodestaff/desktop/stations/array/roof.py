"""The roof and the ladder: modules are dragged onto strings, strings onto trackers."""

from functools import partial

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QAccessible, QKeyEvent, QMouseEvent, QPainter

from lodestaff.desktop.charts import ChartHand, Mark, Value
from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.stations.array.corners import Corners
from lodestaff.desktop.stations.array.geometry import Bar, Key, ModuleBox, Roof, lay_roof, string_word
from lodestaff.desktop.stations.array.horizon import drawn, set_horizon, under_the_hand
from lodestaff.desktop.stations.array.painting import paint_roof, seen_sky
from lodestaff.desktop.stations.array.sky import marks_of, plot_of
from lodestaff.desktop.stations.array.things import Things
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import text_scale
from lodestaff.job import Change

DRAG_AFTER_PX = 4


class RoofView(Surface):
    """Modules: arrow keys choose, Shift adds, + and − change the string, Delete takes off. T takes up the
    strings."""

    least = (520, 440)

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "Faces and ladder of volts",
            "Arrow keys choose a module, plus and minus change its string, Delete takes it off; T goes to "
            "the strings, where Up and Down change the tracker; O to what stands on the faces, where arrows "
            "move it. The table beside it holds the same.",
        )
        self.roof: Roof | None = None
        self.selected: tuple[Key, ...] = ()
        self.string = ""  # the string that the keyboard holds, '' while it is at the modules
        self.dragging = False
        self.bar: Bar | None = None
        self.grip, self.at = QPointF(), QPointF()
        self.target: str | None = None  # a string id ('' for none) or a tracker name
        self._pressed: ModuleBox | None = None
        self.things, self.corners = Things(self), Corners(self)
        self.stroke: dict[float, float] = {}  # what is drawn of the horizon: azimuth to elevation
        self.hand = ChartHand(self)

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        self.roof = lay_roof(job, self.width(), self.height(), max(1.0, text_scale()))
        there = {(box.face, box.id) for box in self.roof.modules}
        self.selected = tuple(key for key in self.selected if key in there)
        if not self.selected and self.roof.modules:
            first = self.roof.modules[0]
            self.selected = ((first.face, first.id),)
        self.update()

    def axes(self) -> tuple[str, ...]:
        return ("month or unit", "standard time or string")

    def marks(self) -> list[Mark]:
        """The sun's hours in the sky over the chosen module, and each string of the ladder."""
        sky = seen_sky(self)
        hours = marks_of(sky[0], self.roof.sky) if sky and self.roof else []
        return hours + [
            Mark(
                (slot.name, bar.string.name),
                (Value("", bar.words), Value("open circuit at the record low", bar.voc_v, "V")),
                bar.rect,
            )
            for slot in (self.roof.slots if self.roof else ())
            for bar in slot.bars
        ]

    # --- changes -----------------------------------------------------------------------------------
    def module_changes(self, string: str) -> tuple[Change, ...]:
        return tuple(
            Change(f"faces/{face}/modules/{module}/string", string) for face, module in self.selected
        )

    def move_modules(self, string: str) -> None:
        """Put the chosen modules on a string ('' takes them off)."""
        job = self.store.job
        if job is None or not self.selected:
            return
        count = f"{len(self.selected)} module{'s' if len(self.selected) > 1 else ''}"
        name = next(
            (f"{string_word(job, each)} {each.name}" for each in job.strings if each.id == string), ""
        )
        words = f"Put {count} on {name}" if string else f"Take {count} off"
        self.store.edit(words, *self.module_changes(string))

    def move_string(self, string: str, tracker: str) -> None:
        job = self.store.job
        if job is None:
            return
        name = next(each.name for each in job.strings if each.id == string)
        self.store.edit(
            f"Put string {name} on tracker {tracker}", Change(f"strings/{string}/tracker", tracker)
        )

    # --- the mouse ---------------------------------------------------------------------------------
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.roof is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self.grip = self.at = event.position()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self._draw(event.position()):
            return
        if self.corners.take(event.position()):
            self.update()
            return
        self._pressed = self.roof.module_at(event.position())
        thing = None if self._pressed else self.things.at(event.position())
        if thing is not None:
            self.string = ""
            self.things.take(thing, event.position())
            self.update()
            return
        self.things.chosen = None
        self.bar = None if self._pressed else self.roof.bar_at(event.position())
        if self._pressed is not None:
            key = (self._pressed.face, self._pressed.id)
            self.string = ""
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.selected = tuple(dict.fromkeys([*self.selected, key]))
            elif key not in self.selected:
                self.selected = (key,)
        elif self.bar is not None:
            self.string = self.bar.string.id
        self.update()

    def _draw(self, point: QPointF) -> bool:
        """With Shift on the sky: the far horizon where the hand goes."""
        job, roof = self.store.job, self.roof
        if job is None or roof is None or roof.sky.isEmpty():
            return False
        sky = plot_of(roof.sky)
        if not self.stroke and not sky.contains(point):
            return False
        azimuth, high = under_the_hand(job, sky, point)
        self.stroke[azimuth] = high
        self.update()
        return True

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """A double click takes every module of the string."""
        box = self.roof.module_at(event.position()) if self.roof else None
        if self.roof is not None and box is not None:
            self.selected = tuple(
                (module.face, module.id) for module in self.roof.modules if module.string == box.string
            )
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.roof is None:
            return
        if self.stroke:
            self._draw(event.position())
            return
        if self.corners.carried:
            self.at = event.position()
            self.update()
            return
        if self.things.carried is not None:
            self.dragging, self.at = True, event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.update()
            return
        if self._pressed is None and self.bar is None:
            here = event.position()
            over = self.roof.module_at(here) or self.roof.bar_at(here) or self.things.at(here)
            self.setCursor(Qt.CursorShape.OpenHandCursor if over else Qt.CursorShape.ArrowCursor)
            return
        if not self.dragging and (event.position() - self.grip).manhattanLength() < DRAG_AFTER_PX:
            return
        self.dragging, self.at = True, event.position()
        self.setCursor(Qt.CursorShape.ClosedHandCursor)
        self._aim()
        self.update()

    def _aim(self) -> None:
        """What the hand is over: for modules a string's bar or module, for a string a tracker's slot."""
        assert self.roof is not None
        if self.bar is not None:
            slot = self.roof.slot_at(self.at)
            target = slot.tracker if slot is not None and slot.unit == self.bar.string.unit else None
            changes: tuple[Change, ...] = (
                (Change(f"strings/{self.bar.string.id}/tracker", target),) if target else ()
            )
            same = target == self.bar.string.tracker
        else:
            bar, box, slot = (
                self.roof.bar_at(self.at),
                self.roof.module_at(self.at),
                self.roof.slot_at(self.at),
            )
            target = (
                bar.string.id
                if bar
                else box.string
                if box and (box.face, box.id) not in self.selected
                else None
            )
            if target is None and slot is not None and slot.bars:
                target = slot.bars[0].string.id
            changes = self.module_changes(target) if target is not None else ()
            same = False
        if target == self.target:
            return
        self.target = target
        if not changes or same:
            self.store.end_try()
        else:
            self.store.try_out(*changes)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.stroke and self.store.job is not None:
            points, self.stroke = drawn(self.store.job, self.stroke), {}
            set_horizon(self.store, points, "Draw the horizon")
            return
        if self.corners.carried:
            self.corners.drop(event.position())
            return
        if self.things.carried is not None:
            moved = self.dragging
            self.dragging = False
            if moved:
                self.things.drop(event.position())
            self.things.carried = None
            self._let_go()
            return
        dragging, bar, target = self.dragging, self.bar, self.target
        self._let_go()
        if dragging and target is not None:
            if bar is None:
                self.move_modules(target)
            elif target != bar.string.tracker:
                self.move_string(bar.string.id, target)

    def _let_go(self) -> None:
        self.dragging, self.bar, self.target, self._pressed = False, None, None, None
        self.store.end_try()
        self.setCursor(Qt.CursorShape.ArrowCursor)
        self.update()

    # --- the keyboard --------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        job, key = self.store.job, Qt.Key(event.key())
        if job is None or self.roof is None:
            return
        strings = [string.id for string in job.strings]
        arrows = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
        if self.corners.key(key):
            told(self)
        elif key == Qt.Key.Key_Escape:
            self.things.chosen = self.things.carried = None
            self._let_go()
        elif key == Qt.Key.Key_O:
            self.things.next()
            told(self)
            self.update()
        elif self.things.chosen is not None and key in arrows:
            self.things.step(key)
        elif key == Qt.Key.Key_T and strings:
            self.string = strings[0] if not self.string else ""
            self.update()
        elif self.string:
            self._string_key(key, strings)
        elif key in arrows:
            self._walk(key, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Equal) and self.selected:
            now = next(box.string for box in self.roof.modules if (box.face, box.id) == self.selected[-1])
            places = ["", *strings]
            self.move_modules(
                places[(places.index(now) + (-1 if key == Qt.Key.Key_Minus else 1)) % len(places)]
            )
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.move_modules("")
        else:
            super().keyPressEvent(event)

    def _string_key(self, key: Qt.Key, strings: list[str]) -> None:
        assert self.store.job is not None
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 1 if key == Qt.Key.Key_Right else -1
            self.choose_string(strings[(strings.index(self.string) + step) % len(strings)])
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            string = next(string for string in self.store.job.strings if string.id == self.string)
            unit = next(unit for unit in self.store.job.units if unit.id == string.unit)
            names = [tracker.name for tracker in self.store.job.sheet_of(unit).trackers]
            at = names.index(string.tracker) + (1 if key == Qt.Key.Key_Down else -1)
            if 0 <= at < len(names):
                self.move_string(self.string, names[at])

    def _walk(self, key: Qt.Key, adding: bool) -> None:
        """To the nearest module in a direction."""
        assert self.roof is not None
        if not self.selected:
            return
        here = next(box for box in self.roof.modules if (box.face, box.id) == self.selected[-1]).rect.center()
        dx, dy = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }[key]
        best, nearest = None, 1e9
        for box in self.roof.modules:
            step = box.rect.center() - here
            along, aside = step.x() * dx + step.y() * dy, abs(step.x() * dy) + abs(step.y() * dx)
            if along > 2 and along + 3 * aside < nearest:
                best, nearest = (box.face, box.id), along + 3 * aside
        if best is not None:
            self.selected = tuple(dict.fromkeys([*self.selected, best])) if adding else (best,)
            told(self)
            self.update()

    def spoken(self) -> list[Spoken]:
        """Each module with its string, then each string with its volts; pressed it is chosen."""
        roof, job = self.roof, self.store.job
        if roof is None or job is None:
            return []
        faces = {face.id: face.name for face in job.faces}
        words = {string.id: string_word(job, string) for string in job.strings}
        names = {string.id: f"{words[string.id]} {string.name}" for string in job.strings}
        modules = [
            Spoken((box.face, box.id), f"module {box.id}, {faces[box.face]}", box.rect,
                   names.get(box.string, "on no string"), role=QAccessible.Role.Cell,
                   chosen=not self.string and (box.face, box.id) in self.selected,
                   press=partial(self.choose, (box.face, box.id)))
            for box in roof.modules
        ]  # fmt: skip
        bars = [
            Spoken(("bar", bar.string.id), f"{names[bar.string.id]} on {slot.name}", bar.rect, bar.words,
                   chosen=bar.string.id == self.string, press=partial(self.choose_string, bar.string.id))
            for slot in roof.slots
            for bar in slot.bars
        ]  # fmt: skip
        return modules + bars + self.things.spoken() + self.corners.spoken()

    def choose(self, key: Key) -> None:
        """Go to a module."""
        self.selected, self.string, self.things.chosen = (key,), "", None
        told(self)
        self.update()

    def choose_string(self, string: str) -> None:
        """Go to a string on the ladder."""
        self.string = string
        told(self)
        self.update()

    def paint(self, painter: QPainter) -> None:
        if self.roof is not None and self.store.job is not None:
            paint_roof(painter, self)
