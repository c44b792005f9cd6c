"""The day's stack of circuits against the sun: a hand moves a circuit's runs, and money and endurance move
with it."""

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen

from lodestaff.desktop.charts import ChartHand, Mark, Value
from lodestaff.desktop.charts.axes import paint_heights
from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.stations.loads.day_geometry import DayPlan, Layer, lay_stack
from lodestaff.desktop.stations.loads.painting import KIND, changes
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font
from lodestaff.desktop.theme.paint import colour, focus_frame, hatch
from lodestaff.energy.calendar import MONTH_NAMES
from lodestaff.job import Change, Circuit, Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import grouped, plain
from lodestaff.quantities.units import clock
from lodestaff.reckoning.day_stack import HOURS, DayStack, can_move, day_stack, moved_changes


class DayView(Surface):
    """Up and Down choose a circuit, Shift+Left and Shift+Right move its runs by an hour; W turns to the
    weekend."""

    least = (500, 420)

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "The day's circuits against the sun",
            "Up and Down choose a circuit; Shift with Left or Right moves its runs by an hour.",
        )
        self.plan: DayPlan | None = None
        self.stack: DayStack | None = None
        self.chosen = ""
        self.weekend = False
        self.shift = 0
        self._pressed: Layer | None = None
        self._from = QPointF()
        self._shown: object = None
        self._laid: Job | None = None  # the job that the plan shows
        self.hand = ChartHand(self)

    def refresh(self) -> None:
        """Lay out anew from the store, once its figures are there."""
        job, results = self.store.job, self.store.results
        if job is None or results is None or not self.isVisible():
            return  # what stands is painted by the job that it was laid for
        shown = (job, self.store.moment.month, self.weekend, self.width(), self.height())
        if shown != self._shown:
            self._shown, self._laid = shown, job
            self.stack = day_stack(self.store.reckoner, job, self.store.moment.month, self.weekend)
            self.plan = lay_stack(job, self.stack, self.width(), self.height(), QFontMetricsF(font("label")))
        movable = [circuit for circuit, _ in self.stack.layers] if self.stack else []
        if self.chosen not in movable:
            self.chosen = next((c for c in movable if can_move(job.circuit(c))), "")
        self.update()

    def showEvent(self, event: object) -> None:
        self.refresh()

    # --- the mouse -----------------------------------------------------------------------------------------
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.plan is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed = self.plan.layer_at(event.position())
        self._from = event.position()
        if self._pressed is not None:
            self.chosen = self._pressed.circuit
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        job = self.store.job
        if self.plan is None or job is None:
            return
        if self._pressed is None:
            over = self.plan.layer_at(event.position())
            circuit = job.circuit(over.circuit) if over else None
            movable = circuit is not None and can_move(circuit)
            self.setCursor(Qt.CursorShape.SizeHorCursor if movable else Qt.CursorShape.ArrowCursor)
            return
        shift = round((event.position().x() - self._from.x()) / self.plan.hour_px)
        self._try(job.circuit(self._pressed.circuit), max(-HOURS + 1, min(HOURS - 1, shift)))

    def _try(self, circuit: Circuit, shift: int) -> None:
        """Ask what moving the circuit's runs by so many hours would bring."""
        if shift == self.shift:
            return
        self.shift = shift
        moved = moved_changes(circuit, shift)
        self.store.try_out(*moved) if moved else self.store.end_try()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, shift = self._pressed, self.shift
        self._let_go()
        if pressed is not None and shift:
            self.move_runs(pressed.circuit, shift)

    def _let_go(self) -> None:
        self._pressed, self.shift = None, 0
        self.store.end_try()
        self.update()

    def move_runs(self, circuit_id: str, hours: int) -> bool:
        """Begin a circuit's runs later or earlier, as one named step."""
        job = self.store.job
        if job is None:
            return False
        circuit = job.circuit(circuit_id)
        moved: tuple[Change, ...] = moved_changes(circuit, hours)
        if not moved:
            if hours:
                self.store.trouble.emit(
                    "edit", f"Not moved. {circuit.name} runs at any hour; give it a timetable first."
                )
            return False
        later = hours if abs(hours) <= HOURS // 2 else hours - HOURS if hours > 0 else hours + HOURS
        return self.store.edit(
            f"Run {circuit.name} {abs(later)} h {'later' if later > 0 else 'earlier'}", *moved
        )

    # --- the keyboard -----------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, shift = Qt.Key(event.key()), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        ids = [circuit for circuit, _ in self.stack.layers] if self.stack else []
        if key == Qt.Key.Key_Escape and self._pressed is not None:
            self._let_go()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and ids:
            step = 1 if key == Qt.Key.Key_Up else -1
            self.chosen = ids[(ids.index(self.chosen) + step) % len(ids)] if self.chosen in ids else ids[0]
            if self.store.job is not None:
                self.setAccessibleDescription(self.words_of(self.store.job.circuit(self.chosen)))
            self.update()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and shift and self.chosen:
            self.move_runs(self.chosen, 1 if key == Qt.Key.Key_Right else -1)
        elif key == Qt.Key.Key_W and not event.modifiers():
            self.weekend = not self.weekend
            self.refresh()
        else:
            super().keyPressEvent(event)

    def words_of(self, circuit: Circuit) -> str:
        """A circuit in words: its energy on this day, and what can be done."""
        kw = next((kw for id, kw in self.stack.layers if id == circuit.id), None) if self.stack else None
        energy = f", {text_of(float(kw.sum()), 'kWh')} a day" if kw is not None else ""
        peak = (
            f", most at {clock(float(kw.argmax()))}"
            if kw is not None and can_move(circuit)
            else ", at any hour"
        )
        return f"{circuit.name} ({circuit.role}){energy}{peak}"

    def spoken(self) -> list[Spoken]:
        """Each circuit of the day's stack; pressed it is chosen."""
        job, plan = self._laid, self.plan
        if job is None or plan is None:
            return []
        return [
            Spoken(layer.circuit, job.circuit(layer.circuit).name, _around(layer.boxes),
                   self.words_of(job.circuit(layer.circuit)), chosen=layer.circuit == self.chosen,
                   press=partial(self.choose, layer.circuit))
            for layer in plan.layers
        ]  # fmt: skip

    def choose(self, circuit: str) -> None:
        """Go to a circuit."""
        self.chosen = circuit
        told(self)
        self.update()

    def axes(self) -> tuple[str, ...]:
        return ("hour",)

    def marks(self) -> list[Mark]:
        """Each hour: every circuit, their sum, and the sun."""
        plan, stack, job = self.plan, self.stack, self._laid
        if plan is None or stack is None or job is None:
            return []
        return [
            Mark(
                (clock(float(hour)),),
                (
                    Value("sun", float(stack.sun_kw[hour]), "kW"),
                    Value("all circuits", float(stack.total_kw[hour]), "kW"),
                    *(
                        Value(job.circuit(circuit).name, float(kw[hour]), "kW")
                        for circuit, kw in stack.layers
                        if kw[hour] >= 0.005
                    ),
                ),
                QRectF(plan.x(hour), plan.plot.top(), plan.hour_px, plan.plot.height()),
            )
            for hour in range(HOURS)
        ]

    # --- painting ---------------------------------------------------------------------------------------
    def paint(self, painter: QPainter) -> None:
        look, job = current(), self._laid
        if self.plan is None or self.stack is None or job is None:
            painter.setFont(font("label"))
            painter.setPen(colour(look.soft))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "The day is being reckoned…")
            return
        plan = self.plan
        self._head(painter)
        for box in plan.sun:
            painter.fillRect(box, hatch(look, "sun"))
        self._scale(painter)
        for layer in plan.layers:
            self._layer(painter, layer, job.circuit(layer.circuit))
        self._sun_line(painter)
        self._low(painter)
        if self._pressed is not None and self.shift:
            self._ghost(painter)

    def _head(self, painter: QPainter) -> None:
        look, stack = current(), self.stack
        assert stack is not None
        painter.setFont(font("strong"))
        painter.setPen(colour(look.ink))
        title = f"A {'weekend' if stack.weekend else 'weekday'} in {MONTH_NAMES[stack.month - 1]}"
        painter.drawText(QPointF(4, 15), title)
        x = 4 + QFontMetricsF(painter.font()).horizontalAdvance(title) + 12
        painter.setFont(font("label"))
        painter.setPen(colour(look.soft))
        used, total = stack.under_sun_kwh(), float(stack.total_kw.sum())
        words = (
            f"mean by the household's clock; {text_of(total, 'kWh')} a day, {text_of(used, 'kWh')} under "
            "the sun of "
            f"{text_of(float(stack.sun_kw.sum()), 'kWh')}   W: {'weekday' if stack.weekend else 'weekend'}"
        )
        room = max(40.0, self.width() - x - 4)
        painter.drawText(
            QPointF(x, 15), QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, room)
        )

    def _scale(self, painter: QPainter) -> None:
        plan = self.plan
        assert plan is not None
        paint_heights(painter, plan.plot, plan.most_kw, "kW")
        for hour in range(0, HOURS + 1, 3):
            x = plan.x(hour)
            painter.drawText(
                QRectF(x - 20, plan.plot.bottom() + 2, 40, 13), Qt.AlignmentFlag.AlignCenter, f"{hour}"
            )

    def _layer(self, painter: QPainter, layer: Layer, circuit: Circuit) -> None:
        look = current()
        kind, style = KIND[circuit.role]
        faded = self._pressed is not None and self.shift != 0 and layer.circuit == self._pressed.circuit
        painter.setOpacity(0.3 if faded else 1.0)
        brush, ink = hatch(look, kind, style), colour(getattr(look, kind))
        chosen = layer.circuit == self.chosen
        for box in layer.boxes:
            if box.height() > 0:
                painter.fillRect(box, colour(look.panel))
                painter.fillRect(box, colour(look.hand_ground) if chosen else brush)
                painter.setPen(QPen(ink, look.stroke if box.height() > 2 else 0.5))
                painter.drawLine(box.topLeft(), box.topRight())
        if layer.label is not None:
            painter.setFont(font("label"))
            painter.fillRect(layer.label.adjusted(-2, 1, -2, 0), colour(look.panel, 215))
            painter.setPen(colour(look.ink))
            painter.drawText(layer.label, Qt.AlignmentFlag.AlignVCenter, circuit.name)
        painter.setOpacity(1.0)
        if chosen:
            self._frame(painter, layer, circuit)

    def _frame(self, painter: QPainter, layer: Layer, circuit: Circuit) -> None:
        """The chosen circuit: its outline, its name beside its highest hour where it has no label of its
        own."""
        look = current()
        painter.setPen(QPen(colour(look.hand), 1.6 * look.stroke))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for box in layer.boxes:
            if box.height() > 0.5:
                painter.drawLine(box.topLeft(), box.topRight())
                painter.drawLine(box.bottomLeft(), box.bottomRight())
        highest = max(layer.boxes, key=lambda box: box.height())
        painter.setFont(font("strong"))
        words = circuit.name
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words) + 8
        assert self.plan is not None
        x = min(highest.left(), self.plan.plot.right() - wide)
        at = QRectF(x, max(self.plan.plot.top() - 4, highest.top() - 18), wide, 16)
        painter.fillRect(at, colour(look.panel, 235))
        painter.setPen(colour(look.hand))
        painter.drawText(at.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
        if self.hasFocus():
            focus_frame(painter, look, at)

    def _sun_line(self, painter: QPainter) -> None:
        look, plan = current(), self.plan
        assert plan is not None
        painter.setPen(QPen(colour(look.sun), 2 * look.stroke))
        painter.drawPolyline([point for box in plan.sun for point in (box.topLeft(), box.topRight())])

    def _low(self, painter: QPainter) -> None:
        """The cheap hours as a strip under the hours."""
        look, plan, stack, job = current(), self.plan, self.stack, self._laid
        assert plan is not None
        assert stack is not None
        assert job is not None
        for hour, low in enumerate(stack.low):
            if low:
                painter.fillRect(
                    QRectF(plan.x(hour), plan.low.top(), plan.hour_px, plan.low.height()), hatch(look, "grid")
                )
        painter.setFont(font("small"))
        painter.setPen(colour(look.soft))
        tariff = job.tariff
        price = self.store.reckoner.import_price(job)
        words = (
            f"cheap hours from {plain(float(price.min()))}, else up to {plain(float(price.max()))}, export "
            f"{plain(tariff.export)} {tariff.currency} a kWh"
        )
        painter.drawText(QPointF(plan.low.left(), plan.low.bottom() + 12), words)

    def _ghost(self, painter: QPainter) -> None:
        """The moved circuit on top of what stays, and what the move would bring."""
        look, plan, stack = current(), self.plan, self.stack
        assert plan is not None
        assert stack is not None
        assert self._pressed is not None
        kw = next(kw for id, kw in stack.layers if id == self._pressed.circuit)
        rest = stack.total_kw - kw
        painter.setBrush(colour(look.hand_ground, 200))
        painter.setPen(QPen(colour(look.hand), 2))
        for hour in range(HOURS):
            there = float(kw[(hour - self.shift) % HOURS])
            if there > 0:
                top = plan.y(float(rest[hour]) + there)
                painter.drawRect(QRectF(plan.x(hour), top, plan.hour_px, there * plan.px_per_kw))
        lines = self.try_words()
        painter.setFont(font("label"))
        metrics = QFontMetricsF(painter.font())
        wide = max(metrics.horizontalAdvance(line) for line in lines) + 12
        box = QRectF(plan.plot.right() - wide - 4, plan.plot.top() + 4, wide, 16.0 * len(lines) + 6)
        painter.fillRect(box, colour(look.panel, 235))
        painter.setPen(QPen(colour(look.hand), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        painter.setPen(colour(look.ink))
        for index, line in enumerate(lines):
            painter.drawText(QPointF(box.left() + 6, box.top() + 14 + 16 * index), line)

    def try_words(self) -> list[str]:
        """The shift, and from the try-out the money and the endurance."""
        job, new, old = self.store.job, self.store.preview, self.store.results
        assert job is not None
        name = job.circuit(self._pressed.circuit).name if self._pressed else ""
        words = [f"{name}: {abs(self.shift)} h {'later' if self.shift > 0 else 'earlier'}"]
        if new is None or old is None:
            return words
        currency = job.tariff.currency
        if new.figures.off_grid:
            words.append(
                f"unserved {grouped(new.figures.unserved_kwh)} kWh a year; now "
                f"{grouped(old.figures.unserved_kwh)}"
            )
        else:
            words.append(
                f"bill {grouped(new.figures.bill)} {currency} a year; now {grouped(old.figures.bill)}"
            )
        return words + [
            line
            for line in changes(old, new)
            if line.startswith(("lasts", "night", "the reserve", "the promise"))
        ]


def _around(boxes: tuple[QRectF, ...]) -> QRectF:
    """What holds all boxes."""
    whole = QRectF()
    for box in boxes:
        whole = whole.united(box)
    return whole
