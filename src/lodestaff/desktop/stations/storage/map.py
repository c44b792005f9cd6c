"""The map: inverter size along, battery modules up, each cell a simulated year; adopt one by a click."""

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QAccessible, QKeyEvent, QMouseEvent, QPainter, QPen

from lodestaff.desktop.charts import ChartHand, Mark, Value
from lodestaff.desktop.language import tr
from lodestaff.desktop.spoken import Spoken, told
from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.storage import BETTER_UP, UNITS, Cell, StorageMap, adopt

LEFT, TOP, BOTTOM = 96.0, 26.0, 58.0

SHADE = 110  # of 255, of the best cell
LOW_PX = 56  # below this a cell has one line


class MapView(Surface):
    """Arrow keys walk, Enter or a click adopts."""

    least = (500, 320)

    def __init__(self, store: Store) -> None:
        super().__init__(store, tr("Battery modules by inverter sizes"), "")
        self.sizes: StorageMap | None = None
        self.outcome = "bill"
        self.stale = False
        self.instead = ""  # said in the map's place where there is none
        self.chosen: tuple[str, int] | None = None
        self.hand = ChartHand(self)

    def show_map(self, sizes: StorageMap) -> None:
        self.sizes, self.stale, self.instead = sizes, False, ""
        if self.chosen not in sizes.cells:
            self.chosen = sizes.now
        self.update()

    def cell_rect(self, key: tuple[str, int]) -> QRectF:
        """Where a cell stands."""
        assert self.sizes is not None
        w = (self.width() - LEFT - 12) / len(self.sizes.hybrids)
        h = (self.height() - TOP - BOTTOM) / len(self.sizes.modules)
        column, row = self.sizes.hybrids.index(key[0]), self.sizes.modules.index(key[1])
        return QRectF(LEFT + column * w, self.height() - BOTTOM - (row + 1) * h, w, h)

    def _cell_at(self, point: QPointF) -> tuple[str, int] | None:
        if self.sizes is None:
            return None
        return next((key for key in self.sizes.cells if self.cell_rect(key).contains(point)), None)

    def adopt(self, key: tuple[str, int]) -> None:
        """Make a cell the job's."""
        job = self.store.job
        if job is None or self.sizes is None:
            return
        self.chosen, cell = key, self.sizes.cells[key]
        self.update()
        if cell.adoptable:
            words = f"Take {plain(self.sizes.rated_kva[key[0]])} kVA with {key[1]} battery modules"
            self.store.edit(words, *adopt(job, job.unit(self.sizes.unit), cell.hybrid, cell.modules))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        cell = self._cell_at(event.position())
        if cell is not None and not self.stale:
            self.adopt(cell)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        cell = self._cell_at(event.position())
        self.setCursor(Qt.CursorShape.PointingHandCursor if cell else Qt.CursorShape.ArrowCursor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        if self.sizes is None or self.chosen is None:
            super().keyPressEvent(event)
        elif key in steps:
            dx, dy = steps[key]
            column = self.sizes.hybrids.index(self.chosen[0]) + dx
            row = self.sizes.modules.index(self.chosen[1]) + dy
            if 0 <= column < len(self.sizes.hybrids) and 0 <= row < len(self.sizes.modules):
                self.chosen = (self.sizes.hybrids[column], self.sizes.modules[row])
                self.setAccessibleDescription(self.words_of(self.chosen))
                told(self)
                self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and not self.stale:
            self.adopt(self.chosen)
        else:
            super().keyPressEvent(event)

    def value_text(self, cell: Cell) -> str:
        value, unit = cell.value(self.outcome), UNITS[self.outcome]
        if value is None or value != value:
            return "–"
        if self.outcome in ("bill", "saved over years") and self.store.job is not None:
            return text_of(value, self.store.job.tariff.currency)
        return text_of(value, unit)

    def words_of(self, key: tuple[str, int]) -> str:
        """A cell in a line."""
        assert self.sizes is not None
        cell = self.sizes.cells[key]
        why = f"; forbidden: {', '.join(cell.barred)}" if cell.barred else ""
        if not cell.adoptable:
            why += "; further units need a place in the wiring first, so it can be read, not adopted"
        against = f" ({change} against now)" if (change := self.change_text(cell)) else ""
        if cell.cost is not None and self.store.job is not None:
            why += f"; costs {text_of(cell.cost, self.store.job.tariff.currency)}"
        return (
            f"{self.column_text(key[0])}, {cell.modules} modules: {self.outcome} "
            f"{self.value_text(cell)}{against}, gives {text_of(cell.discharge_kw, 'kW')}{why}"
        )

    def column_text(self, column: str) -> str:
        """A column's rating, as people say it."""
        assert self.sizes is not None
        units = self.sizes.cells[column, self.sizes.modules[0]].units
        each = f"{plain(self.sizes.rated_kva[column] / units)} kVA"
        return f"{units} × {each}" if units > 1 else each

    def change_text(self, cell: Cell) -> str:
        """What is otherwise against the job as it stands; empty for that."""
        assert self.sizes is not None
        now = self.sizes.cells[self.sizes.now]
        value, present = cell.value(self.outcome), now.value(self.outcome)
        if cell is now or value is None or present is None or value != value or present != present:
            return ""
        change = text_of(abs(value - present), UNITS[self.outcome])
        if change == text_of(0.0, UNITS[self.outcome]):
            return tr("the same")
        return f"{'+' if value > present else '−'}{change}"

    def spoken(self) -> list[Spoken]:
        """Each cell; pressed it is adopted."""
        if self.sizes is None:
            return []
        return [
            Spoken(key, self.words_of(key), self.cell_rect(key), self.value_text(cell),
                   role=QAccessible.Role.Cell, chosen=key == self.chosen, on=key == self.sizes.now,
                   press=partial(self.adopt, key) if cell.adoptable and not self.stale else None)
            for key, cell in self.sizes.cells.items()
        ]  # fmt: skip

    def axes(self) -> tuple[str, ...]:
        return ("inverter", "modules")

    def marks(self) -> list[Mark]:
        """Each cell with its outcome, power and price."""
        sizes = self.sizes
        if sizes is None:
            return []
        money = self.store.job.tariff.currency if self.store.job else ""
        unit = money if self.outcome in ("bill", "saved over years") else UNITS[self.outcome]
        return [
            Mark(
                (self.column_text(key[0]), f"{key[1]}"),
                (
                    Value(self.outcome, cell.value(self.outcome), unit),
                    Value("against now", self.change_text(cell) or "–"),
                    Value("gives", cell.discharge_kw, "kW"),
                    Value("costs", cell.cost, money),
                    Value("forbidden", ", ".join(cell.barred) or "no"),
                ),
                self.cell_rect(key),
            )
            for key, cell in sizes.cells.items()
        ]

    # --- painting --------------------------------------------------------------------------------------
    def paint(self, painter: QPainter) -> None:
        look = current()
        if self.sizes is None:
            painter.setFont(font("text"))
            painter.setPen(colour(look.soft))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, self.instead or tr("The map is being reckoned…")
            )
            return
        values = [
            v for cell in self.sizes.cells.values() if (v := cell.value(self.outcome)) is not None and v == v
        ]
        low, high = (min(values), max(values)) if values else (0.0, 1.0)
        best = self.sizes.best(self.outcome)
        painter.setOpacity(0.45 if self.stale else 1.0)
        for key, cell in self.sizes.cells.items():
            self._paint_cell(painter, key, cell=cell, low=low, high=high, best=best is cell)
        self._axes(painter)
        self._limits(painter)
        painter.setOpacity(1.0)
        if self.hasFocus() and self.chosen is not None:
            focus_frame(painter, look, self.cell_rect(self.chosen).adjusted(3, 3, -3, -3))

    def _paint_cell(
        self, painter: QPainter, key: tuple[str, int], cell: Cell, low: float, high: float, best: bool
    ) -> None:
        look, box = current(), self.cell_rect(key)
        value = cell.value(self.outcome)
        share = 0.0 if value is None or value != value or high == low else (value - low) / (high - low)
        good = share if BETTER_UP[self.outcome] else 1 - share
        painter.setPen(QPen(colour(look.line), look.stroke))
        painter.setBrush(colour(look.panel))
        painter.drawRect(box)
        if value is not None and value == value:
            painter.fillRect(box.adjusted(1, 1, 0, 0), colour(look.battery, round(SHADE * good)))
        if not cell.barred:  # a bar at the cell's foot, longer where the outcome is better
            painter.fillRect(
                QRectF(box.left() + 8, box.bottom() - 10, (box.width() - 16) * good, 4),
                colour(look.passed if best else look.battery),
            )
        else:
            painter.fillRect(box.adjusted(1, 1, 0, 0), colour(look.rest, 110))
        assert self.sizes is not None
        if key == self.sizes.now:
            painter.setPen(QPen(colour(look.ink), 2.5 * look.stroke))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(2, 2, -2, -2))
        painter.setFont(font("strong" if key == self.sizes.now or best else "text"))
        painter.setPen(colour(look.soft if cell.barred else look.ink))
        text = self.value_text(cell)
        now = key == self.sizes.now
        label = f" {tr('and')} ".join(tr(word) for word, is_so in (("now", now), ("best", best)) if is_so)
        beside = bool(label) and box.height() < LOW_PX  # no room for the label above the value
        wide = painter.fontMetrics().horizontalAdvance
        if beside and wide(text) + wide(label) + 18 > box.width():
            label, beside = "", False  # frame and bar say it
        painter.drawText(
            box.adjusted(6, 0, -6, -10),
            Qt.AlignmentFlag.AlignVCenter
            | (Qt.AlignmentFlag.AlignRight if beside else Qt.AlignmentFlag.AlignHCenter),
            f"({text})" if cell.barred else text,
        )
        painter.setFont(font("small"))
        if (change := self.change_text(cell)) and box.height() >= LOW_PX:
            painter.drawText(
                box.adjusted(6, 0, -6, -14),
                Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom,
                change,
            )
        painter.setPen(colour(look.passed if best else look.ink))
        painter.drawText(box.adjusted(8, 6, -6, 0), Qt.AlignmentFlag.AlignLeft, label)

    def _axes(self, painter: QPainter) -> None:
        assert self.sizes is not None
        look = current()
        painter.setFont(font("label"))
        painter.setPen(colour(look.ink))
        for name in self.sizes.hybrids:
            box = self.cell_rect((name, self.sizes.modules[0]))
            painter.drawText(
                QRectF(box.left(), box.bottom() + 4, box.width(), 16),
                Qt.AlignmentFlag.AlignCenter,
                self.column_text(name),
            )
        for modules in self.sizes.modules:
            box = self.cell_rect((self.sizes.hybrids[0], modules))
            words = tr("{modules} modules" if modules > 1 else "{modules} module", modules=modules)
            painter.drawText(
                QRectF(0, box.top(), LEFT - 10, box.height()),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                words,
            )

    def _limits(self, painter: QPainter) -> None:
        """The site's limits across the map: permission, held circuits, and where modules feed the
        inverter."""
        assert self.sizes is not None
        sizes, look = self.sizes, current()
        top, bottom = TOP - 6, self.height() - BOTTOM
        painter.setFont(font("label"))
        rows = []
        if sizes.permitted_kva is not None:
            beyond = next(
                (name for name in sizes.hybrids if sizes.rated_kva[name] > sizes.permitted_kva + 1e-9), None
            )
            if beyond is not None:
                rows.append(
                    (
                        self.cell_rect((beyond, sizes.modules[0])).left(),
                        tr("permitted {permitted_kva} kVA", permitted_kva=plain(sizes.permitted_kva)),
                        look.blocks,
                    )
                )
        enough = next((name for name in sizes.hybrids if sizes.rated_kva[name] >= sizes.held_kva), None)
        if enough is not None and sizes.held_kva > 0:
            rows.append(
                (
                    self.cell_rect((enough, sizes.modules[0])).left(),
                    tr("backed up {held_kva} kVA", held_kva=plain(sizes.held_kva, 2)),
                    look.hand,
                )
            )
        if len(rows) == 2 and rows[0][0] == rows[1][0]:  # one line for both
            rows = [(rows[0][0], f"{rows[0][1]} · {rows[1][1]}", rows[0][2])]
        for x, words, ink in rows:
            painter.setPen(QPen(colour(ink), 2 * look.stroke, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))
            painter.drawText(QPointF(x + 5, TOP - 8), words)
        painter.setPen(QPen(colour(look.battery), 2 * look.stroke))
        for name in sizes.hybrids:  # from here up the modules feed this inverter fully
            box = self.cell_rect((name, sizes.modules[0]))
            needed = sizes.feeding(name)
            if needed is not None:
                y = self.cell_rect((name, needed)).bottom()
                painter.drawLine(QPointF(box.left() + 2, y), QPointF(box.right() - 2, y))
        painter.setPen(colour(look.battery))
        words = tr("thick line: from here up the modules feed the inverter fully")
        painter.drawText(
            QRectF(LEFT, self.height() - BOTTOM + 24 * min(1.2, text_scale()), self.width() - LEFT, 30),
            Qt.AlignmentFlag.AlignLeft,
            words,
        )
