"""The diagram as it stands on the screen: its level, its place and scale, its painting."""

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF

from lodestaff.desktop.stations.surface import Surface
from lodestaff.desktop.stations.wire.labels import fitting
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame
from lodestaff.topology import Answer, Topology
from lodestaff.wiring import Drawing, Level, Shape, draw, seen_at, usual_level
from lodestaff.wiring.spread import AS_IT_IS, spread_to

SOURCE_ORDER = ("grid", "generator", "battery", "array")
ROLE = {"grid": "grid", "generator": "generator", "battery": "battery", "array": "sun"}
DASH = {"grid": None, "generator": [6.0, 1.2, 1.2, 1.2], "battery": [4.0, 1.6], "array": [1.2, 1.4]}
ALERTS = ("OPEN", "OFF", "GRID", "GENERATOR", "RUNNING", "SECOND")  # labels of switches that are not as usual
LABEL_MM = 4.4
READABLE_PX, CROWDED_BELOW_PX, OVERVIEW_BELOW_PX = 12.0, 11.0, 7.5
LEAST_TEXT_PX, MOST_TEXT_MM = 12.0, 5.5
MOST_ZOOM = 4.0


class DiagramSurface(Surface):
    """What is drawn of an installation in a state, on one of three levels, to fit or nearer."""

    level_changed = Signal()

    least = (500, 300)

    def __init__(self, store: Store) -> None:
        super().__init__(
            store,
            "Live diagram",
            "Left and Right choose a switch, Enter works it. Plus, minus and Home zoom; Page Down "
            "comes closer, Page Up goes back; the Menu key adjusts.",
        )
        self.drawing: Drawing | None = None
        self.level: Level | None = None  # None is the one that suits the installation
        self.focus_part = ""  # the part that the level of terminals shows
        self._suited: tuple[Topology | None, QSize, Level] = (None, QSize(), "boards")
        self._seen: tuple[Topology, Level, str, Topology] | None = None
        self.answer: Answer | None = None
        self._shown_at: object = None  # what was drawn for which size
        self.zoom = 1.0
        self.shift = QPointF()
        self.hovered = ""
        self.chosen = ""

    def refresh(self) -> None:
        """Draw anew from the store's job and switching state."""
        answer, topology = self.present(), self.topology()
        if answer is None or topology is None:
            return
        self.answer = answer
        self._suit(topology, answer)
        seen = self.seen(topology)
        shown = (seen, tuple(sorted(answer.positions.items())), self.width(), self.height(), text_scale())
        if self.drawing is None or shown != self._shown_at:
            self._shown_at = shown
            self._draw(seen, answer.positions)
        switches = self._switches()
        if self.chosen not in switches and switches:
            self.chosen = switches[0]
        self.update()

    def _draw(self, seen: Topology, positions: dict[str, str]) -> None:
        """Draw so that the labels can be read and the drawing takes the shape of its surface."""
        terminals = self.present_level() == "terminals"
        self.drawing = draw(seen, positions, terminals=terminals)
        wanted, text_mm = LEAST_TEXT_PX * min(1.5, text_scale()), self.drawing.text_mm
        scale, _ = self._fit()
        if text_mm * scale < wanted:  # a small window: larger labels, more room between the lines
            text_mm = min(MOST_TEXT_MM, wanted / scale)
            self.drawing = draw(seen, positions, text_mm, terminals)
        width, height = self._extent()
        left, right, size = self._margins()
        aspect = (self.width() - left - right) / max(1.0, self.height() - size)
        spread = spread_to(width, height, self.drawing.channels, aspect)
        if spread is not AS_IT_IS:
            self.drawing = draw(seen, positions, text_mm, terminals, spread)

    def _extent(self) -> tuple[float, float]:
        """Width from the first part to the last, and height, mm."""
        assert self.drawing is not None
        boxes = self.drawing.boxes.values()
        return max(x + w for x, _, w, _ in boxes) - min(x for x, *_ in boxes), self.drawing.height

    def _margins(self) -> tuple[float, float, int]:
        """Room for labels at the left and the right, px, and the height of a label at the foot."""
        assert self.drawing is not None
        size, boxes = round(LEAST_TEXT_PX), self.drawing.boxes.values()
        metrics = QFontMetricsF(self._label_font(size))
        first, last = min(x for x, *_ in boxes), max(x + w for x, _, w, _ in boxes)
        left, right = metrics.horizontalAdvance("operators") / 2, 28.0
        for shape in self.drawing.shapes:
            if shape.kind != "text" or shape.style != "small":
                continue
            wide, x = metrics.horizontalAdvance(shape.text), shape.points[0][0]
            if shape.align == "left":
                right = max(right, wide)
            elif shape.align == "middle":  # half of it beyond what stands outermost; a mm is a pixel at least
                right, left = max(right, wide / 2 - (last - x)), max(left, wide / 2 - (x - first))
        return left, right + 12, size

    def present_level(self) -> Level:
        """The level that is shown: the one chosen, else the one that suits the installation."""
        return self.level or self._suited[2]

    def _suit(self, topology: Topology, answer: Answer) -> None:
        """Which level suits the installation in this room: devices where their labels can be read, else the
        overview."""
        if self._suited[0] is topology and self._suited[1] == self.size():
            return
        level = usual_level(topology)
        if level == "boards":
            self.drawing = draw(topology, answer.positions)
            scale, _ = self._fit()
            self.drawing = draw(
                topology, answer.positions, min(MOST_TEXT_MM, max(2.8, LEAST_TEXT_PX / scale))
            )
            if self.drawing.text_mm * self._fit()[0] < OVERVIEW_BELOW_PX:
                level = "overview"
        self._suited = (topology, self.size(), level)

    def show_level(self, level: Level, focus: str = "") -> None:
        """Show a level; that of terminals around a part."""
        self.level, self.focus_part = level, focus or self.focus_part or self.chosen
        self.zoom, self.shift = 1.0, QPointF()
        self.refresh()
        if level == "boards" and self.drawing is not None:
            self._come_to(focus if focus in self.drawing.boxes else self._middle())
        self.level_changed.emit()

    def _middle(self) -> str:
        """The part to look at first: the first unit."""
        assert self.drawing is not None
        assert self.answer is not None
        return next(
            (name for name in self.answer.unit_modes if name in self.drawing.boxes),
            next(iter(self.drawing.boxes)),
        )

    def _come_to(self, part: str) -> None:
        """Bring a part to the middle, with labels of a readable size."""
        assert self.drawing is not None
        scale, _ = self._fit()
        wanted = READABLE_PX / (scale * self.drawing.text_mm)
        if wanted > 1.05:
            self._zoom_by(min(MOST_ZOOM, wanted))
            self.shift += QPointF(self.rect().center()) - self.part_rect(part).center()

    def closer(self, part: str) -> None:
        """From the overview to the devices, from these to a part's terminals."""
        here = self.present_level()
        self.show_level("boards" if here == "overview" else "terminals", part)

    def further(self) -> None:
        """Back by one level."""
        self.show_level("boards" if self.present_level() == "terminals" else "overview")

    def seen(self, topology: Topology) -> Topology:
        """What is drawn of the whole on the present level."""
        key = (topology, self.present_level(), self.focus_part)
        if self._seen is None or self._seen[0] is not topology or self._seen[1:3] != key[1:]:
            self._seen = (*key, seen_at(topology, key[1], self.focus_part))
        return self._seen[3]

    def present(self) -> Answer | None:
        """The switching state that is drawn."""
        return self.store.answer()

    def topology(self) -> Topology | None:
        """What is drawn."""
        return self.store.reckoner.wiring(self.store.job).topology if self.store.job is not None else None

    def _switches(self) -> list[str]:
        topology = self.topology()
        if topology is None or self.drawing is None:
            return []
        boxes, parts = self.drawing.boxes, topology.switches()
        return sorted(
            (part.id for part in parts if part.id in boxes), key=lambda name: (boxes[name][0], boxes[name][1])
        )

    # --- place ---------------------------------------------------------------------------------------
    def _fit(self) -> tuple[float, QPointF]:
        """Pixels per millimetre that show everything, and the corner that centres it."""
        assert self.drawing is not None
        left_mm, (wide, tall) = min(x for x, *_ in self.drawing.boxes.values()), self._extent()
        # Labels have a least size in pixels, so their room at both ends is reckoned in pixels too.
        left, right, size = self._margins()
        high = self.height() - size  # the lowest label may be taller than its room in millimetres
        scale = min((self.width() - left - right) / wide, high / tall)
        spare = self.width() - left - right - wide * scale
        corner = QPointF(left + spare / 2 - left_mm * scale, (high - self.drawing.height * scale) / 2)
        return scale, corner

    def _pixel_size(self, style: str, pixels_per_mm: float) -> int:
        assert self.drawing is not None
        size = (LABEL_MM if style == "label" else self.drawing.text_mm) * pixels_per_mm
        return round(min(22.0, max(LEAST_TEXT_PX, size)))

    def _label_font(self, pixels: int) -> QFont:
        made = QFont(font("label"))
        made.setPixelSize(pixels)
        return made

    def _to_mm(self, point: QPointF) -> QPointF:
        scale, corner = self._fit()
        moved = (point - corner - self.shift) / (scale * self.zoom)
        return QPointF(moved)

    def part_rect(self, part: str) -> QRectF:
        """Where a part stands on the widget, in pixels."""
        assert self.drawing is not None
        scale, corner = self._fit()
        x, y, w, h = self.drawing.boxes[part]
        k = scale * self.zoom
        return QRectF(corner.x() + self.shift.x() + x * k, corner.y() + self.shift.y() + y * k, w * k, h * k)

    def at(self, point: QPointF) -> str:
        """The part or conductor under a point of the widget; '' where there is none."""
        if self.drawing is None:
            return ""
        mm = self._to_mm(point)
        for name, (x, y, w, h) in self.drawing.boxes.items():
            if QRectF(x - 1, y - 1, w + 2, max(h, 4) + 2).contains(mm):
                return name
        best, nearest = "", 1.6
        for shape in self.drawing.shapes:
            if shape.style == "conductor":
                for a, b in zip(shape.points, shape.points[1:], strict=False):
                    distance = _distance(mm, a, b)
                    if distance < nearest:
                        best, nearest = shape.owner, distance
        return best

    def _zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        zoom = min(MOST_ZOOM, max(1.0, self.zoom * factor))
        if self.drawing is None:
            return
        point = at or QPointF(self.rect().center())
        before = self._to_mm(point)
        self.zoom = zoom
        scale, corner = self._fit()
        self.shift = QPointF() if zoom == 1.0 else point - corner - before * scale * zoom
        self.update()

    # --- painting --------------------------------------------------------------------------------------
    def paint(self, painter: QPainter) -> None:
        if self.drawing is None or self.answer is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale, corner = self._fit()
        painter.translate(corner + self.shift)
        painter.scale(scale * self.zoom, scale * self.zoom)
        for shape in self.drawing.shapes:
            self._paint_shape(painter, shape, scale * self.zoom)
        to_px = painter.transform().map
        painter.resetTransform()
        if self._crowded(scale * self.zoom):
            self._few_labels(painter, to_px)
        if self.hasFocus() and self.chosen in self.drawing.boxes:
            focus_frame(painter, current(), self.part_rect(self.chosen).adjusted(-3, 0, 3, 2))

    def _paint_shape(self, painter: QPainter, shape: Shape, pixels: float) -> None:
        look = current()
        points = [QPointF(x, y) for x, y in shape.points]
        ink = self.ink_of(shape.owner)
        painter.setBrush(
            ink
            if shape.style == "fill"
            else colour(look.panel)
            if shape.style == "board"
            else Qt.BrushStyle.NoBrush
        )
        painter.setPen(QPen(ink, (0.16 if shape.style == "thin" else 0.34) * look.stroke))
        if shape.kind == "text":
            self._text(painter, shape, points[0], pixels)
        elif shape.kind == "circle":
            radius = abs(points[1].x() - points[0].x())
            painter.drawEllipse(points[0], radius, radius)
        elif shape.style == "conductor":
            self._conductor(painter, shape, points)
        elif shape.kind == "polygon":
            painter.drawPolygon(QPolygonF(points))
        else:
            painter.drawPolyline(points)

    def ink_of(self, owner: str) -> QColor:
        """The colour of a part's symbol."""
        return colour(current().hand if owner == self.hovered else current().ink)

    def text_ink_of(self, shape: Shape) -> QColor:
        """The colour of a label; a switch that is not as usual says so."""
        return colour(current().blocks if shape.text in ALERTS else current().ink)

    def _crowded(self, pixels: float) -> bool:
        """Whether labels of all parts would run together."""
        assert self.drawing is not None
        return self.drawing.text_mm * pixels < CROWDED_BELOW_PX

    def _few_labels(self, painter: QPainter, to_px: Callable[[QPointF], QPointF]) -> None:
        """The labels that fit where not all do: the others come by zoom."""
        topology = self.topology()
        assert self.drawing is not None
        if topology is None:
            return
        made = self._label_font(round(READABLE_PX))
        painter.setFont(made)
        painter.setPen(colour(current().ink))
        for owner, words, row in fitting(
            self.drawing, topology, QFontMetricsF(made), to_px, QRectF(self.rect())
        ):
            if owner != self.hovered:
                painter.fillRect(row, colour(current().paper))
                painter.drawText(row, Qt.AlignmentFlag.AlignCenter, words)

    def _text(self, painter: QPainter, shape: Shape, at: QPointF, pixels: float) -> None:
        """Text is painted in pixels, so that hinting and the person's scale hold; none where it would run
        together."""
        assert self.drawing is not None
        if shape.style == "small" and self._crowded(pixels) and shape.owner != self.hovered:
            return
        painter.save()
        at = painter.transform().map(at)
        painter.resetTransform()
        painter.setFont(self._label_font(self._pixel_size(shape.style, pixels)))
        painter.setPen(self.text_ink_of(shape))
        width = painter.fontMetrics().horizontalAdvance(shape.text)
        back = {"middle": width / 2, "right": width}.get(shape.align, 0)
        painter.drawText(QPointF(at.x() - back, at.y()), shape.text)
        painter.restore()

    def _conductor(self, painter: QPainter, shape: Shape, points: list[QPointF]) -> None:
        """A line for each source it is live from, side by side; a dead one is thin and pale."""
        assert self.answer is not None
        look = current()
        kinds = [kind for kind in SOURCE_ORDER if kind in self.answer.live.get(shape.owner, ())]
        wide = 0.75 if shape.owner == self.hovered else 0.5
        if not kinds:
            painter.setPen(QPen(colour(look.line), 0.4))
            painter.drawPolyline(points)
            return
        for index, kind in enumerate(kinds):
            shift = (index - (len(kinds) - 1) / 2) * 0.72
            pen = QPen(colour(getattr(look, ROLE[kind])), wide * look.stroke**0.5)
            pen.setCapStyle(Qt.PenCapStyle.FlatCap)
            if (dash := DASH[kind]) is not None:
                pen.setDashPattern(dash)
            painter.setPen(pen)
            moved = [
                points[0] + QPointF(0, shift),
                *(point + QPointF(shift, shift) for point in points[1:-1]),
                points[-1] + QPointF(0, shift),
            ]
            painter.drawPolyline(moved)


def _distance(point: QPointF, a: tuple[float, float], b: tuple[float, float]) -> float:
    """From a point to a stretch of line, mm."""
    (ax, ay), (bx, by) = a, b
    length = (bx - ax) ** 2 + (by - ay) ** 2
    along = (
        0.0
        if length == 0
        else max(0.0, min(1.0, ((point.x() - ax) * (bx - ax) + (point.y() - ay) * (by - ay)) / length))
    )
    return math.hypot(point.x() - ax - along * (bx - ax), point.y() - ay - along * (by - ay))
