"""The board that is worked on: pieces are dragged to another hour, day or hand; keys do the same."""

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter

from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.stations.visits.geometry import Board, Key, Rows, day_words, lay_board
from lodestaff.desktop.stations.visits.kept import kept_programme
from lodestaff.desktop.stations.visits.painting import hands_words, paint_board
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import text_scale
from lodestaff.job import Change, Job, edit
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.units import clock
from lodestaff.reckoning.visiting import Programme, programme
from lodestaff.visits import Conflict, Span

QUARTER = 0.25
DRAG_AFTER_PX = 4


class VisitsView(Surface):
    """Page Up and Page Down choose a piece, the arrows move it by a quarter of an hour or to the next hand,
    with Shift to the next day; H holds it there, Delete takes it off its day."""

    least = (520, 330)

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "Days with what is done on them",
            "Page Up and Page Down choose a piece of work, Left and Right move it by a quarter of an hour, "
            "with Shift to the next day, Up and Down to the next hand; H holds it there when days are laid "
            "anew, Delete takes it off its day. The table beside it holds the same.",
        )
        self.board: Board | None = None
        self.programme: Programme | None = None
        self.chosen: Key = ("", 1)
        self.day = ""
        self.held: tuple[str, float, tuple[str, ...]] | None = None
        self.told: list[Conflict] = []
        self._pressed: QPointF | None = None
        self._grip_h = 0.0

    # --- what there is -----------------------------------------------------------------------------------
    def keys(self) -> list[Key]:
        """Every piece in its order, then the tasks without a day."""
        if self.programme is None:
            return []
        laid = [(span.laid.task, span.laid.piece) for day in self.programme.days for span in day.spans]
        return laid + [(name, 1) for name in self.programme.unlaid if (name, 1) not in laid]

    def span_of(self, key: Key) -> Span | None:
        """A laid piece."""
        days = self.programme.days if self.programme is not None else ()
        spans = (span for day in days for span in day.spans)
        return next((span for span in spans if (span.laid.task, span.laid.piece) == key), None)

    def refresh(self) -> None:
        job = self.store.job
        if job is None:
            return
        self.programme = kept_programme(self.store)
        days = [day.visit.id for day in self.programme.days]
        if self.day not in days:
            self.day = days[0] if days else ""
        size = (float(self.width()), float(self.height()))
        self.board = lay_board(self.programme, job.visits, size, self.day, max(1.0, text_scale()))
        if self.chosen not in self.keys():
            self.chosen = next(iter(self.keys()), ("", 1))
        self.update()

    def choose(self, key: Key) -> None:
        """Go to a piece, and to its day."""
        self.chosen = key
        span = self.span_of(key)
        if span is not None:
            self.day = span.visit.id
        self.refresh()
        told(self)

    def go_to(self, visit: str) -> None:
        """Show a day large."""
        self.day = visit
        self.refresh()

    # --- moving ------------------------------------------------------------------------------------------
    def put(self, visit: str, at_h: float, hands: tuple[str, ...]) -> bool:
        """Put the chosen piece on a day, as one step; it is held there."""
        job = self.store.job
        if job is None or self.programme is None or not self.chosen[0]:
            return False
        task, day = self.programme.task(self.chosen[0]), job.visits.day(visit)
        words = f"Put {task.name} on {day_words(day.date)}, {clock(at_h)}"
        done = self.store.edit(words, laid_change(job, self.chosen, visit, at_h, hands))
        self.day = visit
        self.refresh()
        return done

    def take_off(self) -> bool:
        """Take the chosen piece off its day."""
        job = self.store.job
        if job is None or self.span_of(self.chosen) is None or self.programme is None:
            return False
        rows = [
            piece.model_dump(mode="json")
            for piece in job.visits.laid
            if (piece.task, piece.piece) != self.chosen
        ]
        name = self.programme.task(self.chosen[0]).name
        return self.store.edit(f"Take {name} off its day", Change("visits/laid", rows))

    def hold(self) -> bool:
        """Hold the chosen piece where it is when days are laid anew, or let it go."""
        job, span = self.store.job, self.span_of(self.chosen)
        if job is None or span is None:
            return False
        rows = [piece.model_dump(mode="json") for piece in job.visits.laid]
        for row in rows:
            if (row["task"], row["piece"]) == self.chosen:
                row["held"] = not row["held"]
        words = (
            f"{'Let go of' if span.laid.held else 'Hold'} {span.task.name} on {day_words(span.visit.date)}"
        )
        return self.store.edit(words, Change("visits/laid", rows))

    def _usual_hands(self, job: Job, visit: str) -> tuple[str, ...]:
        """As many hands of a day as the chosen task wants, those first who have its skill."""
        if self.programme is None:
            return ()
        task, there = self.programme.task(self.chosen[0]), job.visits.day(visit).hands
        able = sorted(there, key=lambda name: task.skill not in job.visits.hand(name).skills)
        return tuple(able[: task.people])

    # --- the mouse ---------------------------------------------------------------------------------------
    def at(self, point: QPointF) -> Key | None:
        """The piece or waiting task under a point."""
        if self.board is None or self.programme is None:
            return None
        for rows, gap in self._fields():
            day = next(day for day in self.programme.days if day.visit.id == rows.visit.id)
            for span in day.spans:
                if any(box.contains(point) for box in rows.boxes(span, gap)):
                    return (span.laid.task, span.laid.piece)
        for waiting in self.board.shelf:
            if waiting.rect.contains(point):
                return (waiting.task.id, 1)
        return None

    def _fields(self) -> list[tuple[Rows, float]]:
        if self.board is None:
            return []
        large = [(self.board.large, 4.0)] if self.board.large is not None else []
        return large + [(rows, 2.0) for rows in self.board.overview]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self.board is None:
            return
        key, rows = self.at(event.position()), self.board.rows_at(event.position())
        if key is not None:
            span = self.span_of(key)
            hour = rows.hour(event.position().x()) if rows is not None else 0.0
            self._grip_h = hour - span.from_h if span is not None and rows is not None else 0.0
            self._pressed = event.position()
            self.choose(key)
        elif rows is not None:
            self.go_to(rows.visit.id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        job = self.store.job
        if self._pressed is None or self.board is None or job is None:
            key = self.at(event.position())
            self.setCursor(Qt.CursorShape.OpenHandCursor if key else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self.words_of(key) if key else "")
            return
        if (event.position() - self._pressed).manhattanLength() < DRAG_AFTER_PX and self.held is None:
            return
        rows = self.board.rows_at(event.position())
        if rows is None:
            return
        span, visit = self.span_of(self.chosen), rows.visit
        hands = span.laid.hands if span is not None else self._usual_hands(job, visit.id)
        under = rows.hand_at(event.position().y())
        if len(hands) == 1 and under is not None and rows.rect.contains(event.position()):
            hands = (under.id,)
        at_h = min(max(visit.from_h, rows.hour(event.position().x()) - self._grip_h), visit.to_h - QUARTER)
        self._try(job, visit.id, at_h, hands)

    def _try(self, job: Job, visit: str, at_h: float, hands: tuple[str, ...]) -> None:
        """What would be wrong with the chosen piece there, without putting it."""
        if self.held == (visit, at_h, hands):
            return
        self.held = (visit, at_h, hands)
        try:
            there = edit(job, laid_change(job, self.chosen, visit, at_h, hands))
            conflicts = programme(self.store.reckoner, there, self.store.site.entries).conflicts
        except JobError:
            conflicts = ()
        self.told = [conflict for conflict in conflicts if conflict.task == self.chosen[0]]
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self.held, self.told, self._pressed = self.held, None, [], None
        if held is not None:
            self.put(*held)
        self.update()

    # --- keys --------------------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, keys = Qt.Key(event.key()), self.keys()
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if not keys:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            step = 1 if key == Qt.Key.Key_PageDown else -1
            self.choose(keys[(keys.index(self.chosen) + step) % len(keys)])
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._along(1 if key == Qt.Key.Key_Right else -1, shift)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._to_hand(1 if key == Qt.Key.Key_Down else -1)
        elif key == Qt.Key.Key_H:
            self.hold()
        elif key == Qt.Key.Key_Delete:
            self.take_off()
        elif key == Qt.Key.Key_Escape and self.held is not None:
            self.held, self.told, self._pressed = None, [], None
            self.update()
        else:
            super().keyPressEvent(event)

    def _along(self, step: int, by_day: bool) -> None:
        job, span = self.store.job, self.span_of(self.chosen)
        if job is None or not job.visits.days:
            return
        days = [day.id for day in job.visits.in_order]
        if span is None:
            visit = self.day or days[0]
            self.put(visit, job.visits.day(visit).from_h, self._usual_hands(job, visit))
        elif by_day:
            visit = days[(days.index(span.visit.id) + step) % len(days)]
            self.put(visit, max(span.from_h, job.visits.day(visit).from_h), span.laid.hands)
        else:
            low, high = span.visit.from_h, span.visit.to_h - QUARTER
            at_h = min(max(low, span.from_h + step * QUARTER), high)
            self.put(span.visit.id, at_h, span.laid.hands)

    def _to_hand(self, step: int) -> None:
        """Give the piece to the next hands of the day."""
        job, span = self.store.job, self.span_of(self.chosen)
        if job is None or span is None or not span.visit.hands:
            return
        there = list(span.visit.hands)
        first = span.laid.hands[0] if span.laid.hands and span.laid.hands[0] in there else there[0]
        at = there.index(first) + step
        hands = tuple(dict.fromkeys(there[(at + n) % len(there)] for n in range(span.task.people)))
        self.put(span.visit.id, span.from_h, hands)

    # --- words -------------------------------------------------------------------------------------------
    def words_of(self, key: Key) -> str:
        """A piece in a line."""
        if self.programme is None:
            return ""
        task, span = self.programme.task(key[0]), self.span_of(key)
        words = [f"{task.name}: {plain(task.hours, 2)} h, {hands_words(task.people)}"]
        if span is None:
            words.append("no day yet")
        else:
            names = [self._hand(hand) for hand in span.laid.hands]
            when = f"{day_words(span.visit.date)}, {clock(span.from_h)} to {clock(span.to_h)}"
            words.append(f"{when}, {', '.join(names) or 'nobody yet'}")
        words += [f"waits for {hold.words}" for hold in task.holds if not hold.there]
        words += [task.lift] if task.lift else []
        words += ["done"] if task.id in self.programme.done else []
        words += [
            conflict.words
            for conflict in self.programme.conflicts
            if conflict.task == task.id and (span is None or conflict.visit == span.visit.id)
        ]
        return "; ".join(words)

    def _hand(self, hand: str) -> str:
        job = self.store.job
        return job.visits.hand(hand).name if job is not None else hand

    def spoken(self) -> list[Spoken]:
        """Each day, each piece of the large one, each task without a day."""
        if self.board is None or self.programme is None:
            return []
        things = [
            Spoken(rows.visit.id, f"Day {day_words(rows.visit.date)}", rows.rect, self._day_words(rows),
                   chosen=rows.visit.id == self.day, press=partial(self.go_to, rows.visit.id))
            for rows in self.board.overview
        ]  # fmt: skip
        for key in self.keys():
            span = self.span_of(key)
            rect = self._rect(key)
            name = self.programme.task(key[0]).name + (f", part {key[1]}" if key[1] > 1 else "")
            if span is None or span.visit.id == self.day:
                things.append(
                    Spoken(
                        f"{key[0]} {key[1]}",
                        name,
                        rect,
                        self.words_of(key),
                        chosen=key == self.chosen,
                        press=partial(self.choose, key),
                    )
                )
        return things

    def _day_words(self, rows: Rows) -> str:
        days = self.programme.days if self.programme is not None else ()
        day = next((day for day in days if day.visit.id == rows.visit.id), None)
        if day is None:
            return ""
        off = f", {plain(day.dark_h)} h without power" if day.dark_h else ""
        return f"{len(day.spans)} pieces of work{off}. {day.evening.feeds}"

    def _rect(self, key: Key) -> QRectF:
        span = self.span_of(key)
        if self.board is None:
            return QRectF()
        if span is not None and self.board.large is not None and self.board.large.visit.id == span.visit.id:
            return self.board.large.boxes(span, 4.0)[0]
        return next((wait.rect for wait in self.board.shelf if wait.task.id == key[0]), QRectF())

    def paint(self, painter: QPainter) -> None:
        paint_board(painter, self)


def laid_change(job: Job, key: Key, visit: str, at_h: float, hands: tuple[str, ...]) -> Change:
    """The edit that puts a piece on a day and holds it there."""
    rows = [piece.model_dump(mode="json") for piece in job.visits.laid if (piece.task, piece.piece) != key]
    rows.append(
        {"task": key[0], "piece": key[1], "visit": visit, "at_h": at_h, "hands": list(hands), "held": True}
    )
    return Change("visits/laid", rows)
