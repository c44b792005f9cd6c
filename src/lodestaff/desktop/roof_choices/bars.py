"""What each family makes of the same light, as bars: what reaches the building, and where the rest goes."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QPainter, QPen
from PySide6.QtWidgets import QSizePolicy

from lodestaff.desktop.charts import Chart, Mark, Value
from lodestaff.desktop.charts.axes import paint_lengths
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, hatch
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.roof_families import Family, OnRoof

ROW, FOOT = 44.0, 42.0


class FamilyBars(Chart):
    """A bar for each family, all to one scale: the year without shade."""

    def __init__(self) -> None:
        self.on_roof: OnRoof | None = None
        super().__init__("Families on this roof")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        rows = len(self.on_roof.families) if self.on_roof is not None else 4
        return QSize(700, round((rows * ROW + FOOT) * max(1.0, text_scale())))

    def minimumSizeHint(self) -> QSize:
        return QSize(420, self.sizeHint().height())

    def show_found(self, family: OnRoof | None) -> None:
        """Paint these; None for nothing yet."""
        self.on_roof = family
        self.setAccessibleDescription("; ".join(map(words_of, family.families)) if family is not None else "")
        self.updateGeometry()
        self.update()

    def axes(self) -> tuple[str, ...]:
        return ("family",)

    def marks(self) -> list[Mark]:
        on_roof, k = self.on_roof, max(1.0, text_scale())
        return [
            Mark(
                (family.name,),
                (
                    Value("to the building", family.kwh_ac, "kWh"),
                    Value("lost by conversion", family.lost_conversion_kwh, "kWh"),
                    Value("lost by mismatch", family.lost_mismatch_kwh, "kWh"),
                    Value("lost by shade", on_roof.shade_kwh, "kWh"),
                    Value("cost", family.cost),
                ),
                QRectF(0, row * ROW * k, self.width(), ROW * k),
            )
            for row, family in enumerate(on_roof.families if on_roof else ())
            if on_roof is not None
        ]

    def paint(self, painter: QPainter) -> None:
        on_roof, k = self.on_roof, max(1.0, text_scale())
        if on_roof is None:
            return
        rows = len(on_roof.families) * ROW * k
        paint_lengths(
            painter, QRectF(4, 18 * k, self.width() - 8, rows - 16 * k), on_roof.unshaded_kwh, "kWh"
        )
        for row, family in enumerate(on_roof.families):
            self._row(painter, on_roof, family, QRectF(0, row * ROW * k, self.width(), ROW * k))
        painter.setFont(font("label"))
        painter.setPen(colour(current().soft))
        words = (
            f"Full width: {text_of(on_roof.unshaded_kwh, 'kWh', 0)} a year without shade. Then, from the "
            "left: to the building, lost by conversion, by mismatch, by shade."
        )
        cut = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, self.width() - 8)
        painter.drawText(QPointF(4, rows + 34 * k), cut)

    def _row(self, painter: QPainter, on_roof: OnRoof, family: Family, box: QRectF) -> None:
        look, k = current(), max(1.0, text_scale())
        painter.setFont(font("strong" if family.present else "label"))
        painter.setPen(colour(look.ink))
        cut = painter.fontMetrics().elidedText(
            words_of(family), Qt.TextElideMode.ElideRight, int(box.width()) - 8
        )
        painter.fillRect(QRectF(0, box.top(), box.width(), 18 * k), colour(look.paper))
        painter.drawText(QPointF(4, box.top() + 14 * k), cut)
        bar = QRectF(4, box.top() + 20 * k, box.width() - 8, 14 * k)
        whole, left = max(on_roof.unshaded_kwh, 1e-9), bar.left()
        parts: tuple[tuple[float, QBrush], ...] = (
            (family.kwh_ac, hatch(look, "sun")),
            (family.lost_conversion_kwh, QBrush(colour(look.rest))),
            (family.lost_mismatch_kwh, hatch(look, "lost")),
            (on_roof.shade_kwh, QBrush(colour(look.ink, 150), Qt.BrushStyle.FDiagPattern)),
        )
        for kwh, brush in parts:
            part = QRectF(left, bar.top(), max(0.0, kwh) / whole * bar.width(), bar.height())
            painter.fillRect(part, colour(look.panel))
            painter.fillRect(part, brush)
            painter.setPen(QPen(colour(look.ink), look.stroke))
            painter.drawLine(part.topRight(), part.bottomRight())
            left = part.right()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(
            QPen(colour(look.hand if family.present else look.ink), 2.4 if family.present else 1.2)
        )
        painter.drawRect(bar)


def words_of(family: Family) -> str:
    """A family in one line."""
    name = family.name[0].upper() + family.name[1:] + (", as planned" if family.present else "")
    words = f"{name}: {text_of(family.kwh_ac, 'kWh', 0)} a year"
    away = plain(100 * family.unit_fails_share, 0)
    module = plain(100 * family.module_fails_share, 0)
    words += f"; {away} % away while a unit fails, {module} % while a module does"
    if family.on_roof:
        cost = "cost open" if family.cost is None else f"cost {plain(family.cost, 0)}"
        words += f"; {family.on_roof} converter{'' if family.on_roof == 1 else 's'} on the roof, {cost}"
    return words
