"""What each way of backup leaves on and off, as a small picture: a block for every circuit."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen
from PySide6.QtWidgets import QSizePolicy

from lodestaff.desktop.backups.months import LEFT
from lodestaff.desktop.charts import Chart, Mark, Value
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, hatch
from lodestaff.job import Job
from lodestaff.reckoning.strategies import Strategies, Strategy

HELD = {
    "on": "stays on",
    "shed": "stays on, is shed first",
    "by hand": "is switched by hand",
    "off": "goes off",
}
ROW, GAP, NAMED, MOST_ROWS = 17.0, 6.0, 110.0, 11
BLOCK = 13.0


def state_of(way: Strategy, circuit: str) -> str:
    """What becomes of a circuit in an outage: a key of HELD."""
    if circuit in way.by_hand:
        return "by hand"
    if circuit in way.shed:
        return "shed"
    return "on" if circuit in way.held else "off"


class CircuitPictures(Chart):
    """A column for each way: filled blocks stay on, hatched are shed first, half ones are switched by hand,
    crossed ones are off."""

    def __init__(self) -> None:
        self.strategies: Strategies | None = None
        self.circuits: tuple[tuple[str, str], ...] = ()
        super().__init__("Circuits that each way leaves on and off")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)

    def sizeHint(self) -> QSize:
        rows = min(MOST_ROWS, max(3, -(-len(self.circuits) // 2)))
        return QSize(800, round(rows * ROW * max(1.0, text_scale())) + 8)

    def minimumSizeHint(self) -> QSize:
        return QSize(480, min(self.sizeHint().height(), round(6 * ROW) + 8))

    def show_found(self, job: Job | None, strategies: Strategies | None) -> None:
        """Show the ways of a job, or none."""
        self.strategies = strategies
        self.circuits = tuple((circuit.id, circuit.name) for circuit in job.circuits) if job else ()
        self.updateGeometry()
        self.update()

    def _places(self) -> list[tuple[Strategy, str, str, QRectF]]:
        """Every block: its way, its circuit's id and name, and where it stands with its name."""
        if self.strategies is None or not self.circuits:
            return []
        left = LEFT * max(1.0, text_scale())
        boxes, width = [], (self.width() - left) / len(self.strategies.strategies)
        high = ROW * max(1.0, text_scale())
        rows = max(1, int((self.height() - 6) // high))
        roomy = max(1, int((width - 12) // (NAMED * text_scale())))
        columns = max(-(-len(self.circuits) // rows), min(roomy, len(self.circuits)))
        rows = -(-len(self.circuits) // columns)
        wide = (width - 12) / columns
        for place, way in enumerate(self.strategies.strategies):
            for index, (circuit, name) in enumerate(self.circuits):
                x = left + place * width + index // rows * wide
                boxes.append((way, circuit, name, QRectF(x, 4 + index % rows * high, wide - GAP, high)))
        return boxes

    def axes(self) -> tuple[str, ...]:
        return ("way", "circuit")

    def marks(self) -> list[Mark]:
        return [
            Mark((way.name, name), (Value("", HELD[state_of(way, circuit)]),), box)
            for way, circuit, name, box in self._places()
        ]

    def paint(self, painter: QPainter) -> None:
        look = current()
        painter.setFont(font("label"))
        metrics = QFontMetricsF(painter.font())
        for way, circuit, name, box in self._places():
            state = state_of(way, circuit)
            at = QRectF(box.left(), box.top() + (box.height() - BLOCK) / 2, BLOCK, BLOCK)
            _block(painter, state, at)
            room = box.width() - BLOCK - 6
            if room > 30:
                painter.setPen(colour(look.soft if state == "off" else look.ink))
                words = metrics.elidedText(name, Qt.TextElideMode.ElideRight, room)
                painter.drawText(box.adjusted(BLOCK + 6, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)


def _block(painter: QPainter, state: str, at: QRectF) -> None:
    """The sign of what becomes of a circuit: each its own shape."""
    look = current()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(look.edge if state == "off" else look.ink), 1))
    if state == "on":
        painter.fillRect(at, colour(look.battery))
    elif state == "shed":
        painter.fillRect(at, hatch(look, "battery", "slant"))
    elif state == "by hand":
        painter.fillRect(at.adjusted(0, at.height() / 2, 0, 0), colour(look.battery))
    else:
        painter.drawLine(at.topLeft(), at.bottomRight())
        painter.drawLine(at.bottomLeft(), at.topRight())
    painter.drawRect(at)
