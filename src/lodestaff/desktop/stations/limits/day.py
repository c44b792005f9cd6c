"""The day from noon to noon: limits are lines to drag, charge windows blocks to drag."""

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QAccessible, QKeyEvent, QMouseEvent, QPainter

from lodestaff.desktop.charts import ChartHand, Mark, Value
from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.stations.limits.geometry import Day, Line, WindowBlock, lay_day
from lodestaff.desktop.stations.limits.painting import kinds_of, paint_day
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.energy.calendar import STEP_H, STEPS_PER_DAY
from lodestaff.job import Change, Job
from lodestaff.quantities.convention import plain
from lodestaff.quantities.units import clock
from lodestaff.reckoning.flows import DayFlows, mean_flows
from lodestaff.reckoning.results import Results

NAMES = {
    "import_kw": "import limit",
    "export_kw": "export limit",
    "charge_kw": "charge limit",
    "reserve_soc": "reserve",
}
CHANGING = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Plus, Qt.Key.Key_Minus)
STEPS = {"import_kw": 0.1, "export_kw": 0.05, "charge_kw": 0.1, "reserve_soc": 0.01}


class DayView(Surface):
    """Up and Down choose a limit or a window, Left and Right change it, with Shift the window's end."""

    least = (500, 340)
    chose = Signal(str)  # a limit by its field, or a window by its id

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "One day from noon to noon",
            "Up and Down choose a limit or a charge window; Left and Right lower and raise or move it. The "
            "table beside it holds the same.",
        )
        self.day: Day | None = None
        self.chosen = "reserve_soc"
        self.dragged: Line | None = None
        self.block: WindowBlock | None = None
        self.value: float | None = None
        self.grip = QPointF()
        self.shift = 0.0
        self.mean = False  # whether the month's mean day is shown
        self._mean: tuple[Job, int, DayFlows] | None = None
        self.hand = ChartHand(self)

    def flows(self, results: Results | None) -> DayFlows | None:
        """The day that is shown: the moment's, or the mean of its month."""
        if results is None or not self.mean:
            return results.flows if results else None
        reckoner, job, month = self.store.reckoner, results.job, self.store.moment.month
        if self._mean is None or self._mean[0] is not job or self._mean[1] != month:
            year, summer = reckoner.year(job), results.flows.summer_time
            self._mean = (job, month, mean_flows(year, reckoner.converters(job), month, summer))
        return self._mean[2]

    def refresh(self) -> None:
        """Lay out anew from the store; while a line is dragged the scale stays."""
        if self.store.job is None:
            return
        if self.dragged is None and self.block is None:
            self.day = lay_day(
                self.store.job,
                self.flows(self.store.results),
                self.width(),
                self.height(),
                month=self.store.moment.month,
            )
        self.update()

    def axes(self) -> tuple[str, ...]:
        return ("clock",)

    def marks(self) -> list[Mark]:
        """Each quarter of an hour: what flows in and out, and the state of charge."""
        day, flows = self.day, self.flows(self.store.preview or self.store.results)
        if day is None or flows is None:
            return []
        series = [(words, getattr(flows, field)) for field, words in kinds_of(self)]
        return [
            Mark(
                (clock((12 + step * STEP_H) % 24),),
                (
                    *(Value(words, float(kw[step]), "kW") for words, kw in series),
                    Value("charge", 100 * float(flows.soc[step]), "%"),
                ),
                QRectF(day.x(step * STEP_H), day.plot.top(), day.plot.width() / STEPS_PER_DAY,
                       day.soc.bottom() - day.plot.top()),
            )
            for step in range(STEPS_PER_DAY)
        ]  # fmt: skip

    # --- the mouse ---------------------------------------------------------------------------------
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.day is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self.block = self.day.block_at(event.position())
        self.dragged = None if self.block else self.day.line_at(event.position())
        self.grip, self.shift = event.position(), 0.0
        if self.dragged is not None or self.block is not None:
            self.choose(self.dragged.field if self.dragged else self.block.id if self.block else "")
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.day is None:
            return
        if self.dragged is not None:
            self._drag_line(event.position().y())
        elif self.block is not None:
            self._drag_block(event.position().x())
        else:
            line, block = self.day.line_at(event.position()), self.day.block_at(event.position())
            shape = (
                Qt.CursorShape.SizeVerCursor
                if line
                else Qt.CursorShape.SizeHorCursor
                if block
                else Qt.CursorShape.ArrowCursor
            )
            self.setCursor(shape)

    def _drag_line(self, y: float) -> None:
        assert self.day is not None
        assert self.dragged is not None
        value = self.day.value_at(self.dragged.field, y)
        if value != self.value:
            self.value = value
            self.store.try_out(Change(f"limits/{self.dragged.field}", value))
            self.update()

    def _drag_block(self, x: float) -> None:
        assert self.day is not None
        shift = round((x - self.grip.x()) / self.day.plot.width() * 24 * 4) / 4
        if shift != self.shift:
            self.shift = shift
            self.store.try_out(*self._shifted())
            self.update()

    def _shifted(self) -> tuple[Change, ...]:
        """The dragged window, moved by the shift."""
        assert self.block is not None
        assert self.store.job is not None
        window = next(window for window in self.store.job.limits.windows if window.id == self.block.id)
        path = f"limits/windows/{window.id}"
        moved = window.model_copy(
            update={"start_h": (window.start_h + self.shift) % 24, "end_h": (window.end_h + self.shift) % 24}
        )
        return (Change(path, moved.model_dump(mode="json")),)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        line, value, block, shift = self.dragged, self.value, self.block, self.shift
        changes = self._shifted() if block is not None and shift else ()
        self._let_go()
        if line is not None and value is not None:
            self.set_limit(line.field, value)
        elif changes:
            assert self.store.job is not None
            window = changes[0].value
            self.store.edit(f"Move the charge window to {clock(window['start_h'])}", *changes)
        self.refresh()

    def _let_go(self) -> None:
        self.dragged, self.value, self.block, self.shift = None, None, None, 0.0
        self.store.end_try()

    def spoken(self) -> list[Spoken]:
        """Each limit and each charge window; pressed it is chosen."""
        if self.day is None:
            return []
        plot = self.day.plot
        lines = [
            Spoken(line.field, NAMES.get(line.field, line.field),
                   QRectF(plot.left(), line.y - 4, plot.width(), 8), line.words,
                   role=QAccessible.Role.Slider, chosen=line.field == self.chosen,
                   press=partial(self.choose, line.field))
            for line in self.day.lines
        ]  # fmt: skip
        windows = [
            Spoken(block.id, f"window {block.id}", block.rects[0], block.words,
                   chosen=block.id == self.chosen, press=partial(self.choose, block.id))
            for block in self.day.blocks
        ]  # fmt: skip
        return lines + windows

    def choose(self, what: str) -> None:
        """Go to a limit by its field, or to a charge window by its id."""
        self.chosen = what
        self.chose.emit(what)
        told(self)
        self.update()

    # --- the keyboard --------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, job = Qt.Key(event.key()), self.store.job
        if job is None or self.day is None:
            return
        windows = [block.id for block in self.day.blocks]
        fields = [*(line.field for line in self.day.lines), *windows]
        if not fields:
            super().keyPressEvent(event)
            return
        if self.chosen not in fields:
            self.chosen = fields[0]
        if key == Qt.Key.Key_Escape:
            self._let_go()
            self.refresh()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if key == Qt.Key.Key_Down else -1
            self.choose(fields[(fields.index(self.chosen) + step) % len(fields)])
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self.chosen in windows:
            longer = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.move_window(self.chosen, 0.25 if key == Qt.Key.Key_Right else -0.25, longer)
        elif key in CHANGING and self.chosen not in windows:
            up = key in (Qt.Key.Key_Right, Qt.Key.Key_Plus)
            value = getattr(job.limits, self.chosen) + (STEPS[self.chosen] if up else -STEPS[self.chosen])
            self.set_limit(self.chosen, max(0.0, round(value, 3)))
        else:
            super().keyPressEvent(event)

    def move_window(self, name: str, hours: float, end_only: bool = False) -> None:
        """Move a charge window along the day, or its end alone."""
        assert self.store.job is not None
        window = next(window for window in self.store.job.limits.windows if window.id == name)
        times = {"end_h": (window.end_h + hours) % 24}
        if not end_only:
            times["start_h"] = (window.start_h + hours) % 24
        made = window.model_copy(update=times)
        if made.start_h % 24 == made.end_h % 24:
            return  # a window that begins where it ends is none
        words = (
            f"End the charge window at {clock(made.end_h)}"
            if end_only
            else (f"Move the charge window to {clock(made.start_h)}")
        )
        self.store.edit(words, Change(f"limits/windows/{name}", made.model_dump(mode="json")))

    def set_limit(self, field: str, value: float) -> None:
        shown = f"{plain(value * 100, 0)} %" if field == "reserve_soc" else f"{plain(value, 2)} kW"
        self.store.edit(f"Set the {NAMES[field]} to {shown}", Change(f"limits/{field}", value))

    def paint(self, painter: QPainter) -> None:
        if self.day is not None and self.store.job is not None:
            paint_day(painter, self)
