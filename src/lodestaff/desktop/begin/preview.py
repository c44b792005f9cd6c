"""The installation that the choices make, as an overview; the choices of each part are offered on it."""

from dataclasses import replace
from functools import partial

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QAccessible, QAction, QKeyEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QMenu

from lodestaff.desktop.spoken import Spoken
from lodestaff.desktop.stations.wire.diagram import DiagramView
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import colour
from lodestaff.templates import Wanted
from lodestaff.templates.at_parts import choices_at, words_of
from lodestaff.templates.typed import options_of
from lodestaff.topology import Answer, Topology

UNITS = ("1", "2", "3", "4")
LOW_PX = 330


class Preview(DiagramView):
    """A diagram of an installation that is no job yet; nothing is switched here, each part says what can be
    chosen of it."""

    picked = Signal(str, str)  # a choice and its new value
    wants_typing = Signal(str)  # a choice that is typed

    least = (300, 260)

    def __init__(self, store: Store) -> None:
        self._installation: tuple[Topology, Answer] | None = None
        self._wanted = Wanted()
        self.menu: QMenu | None = None
        super().__init__(store)
        self.setAccessibleName("What the choices make")
        self.setAccessibleDescription(
            "Left and Right choose a part, Enter offers what can be chosen of it. Plus, minus and Home zoom."
        )
        self.level = "overview"

    def sizeHint(self) -> QSize:
        """Low, so that what else can be chosen stands below it; it takes the height that is left."""
        return QSize(super().sizeHint().width(), LOW_PX)

    def show_installation(self, topology: Topology, answer: Answer, wanted: Wanted) -> None:
        """Show another installation, made of what is wanted."""
        self._installation, self._wanted = (topology, answer), wanted
        self.refresh()

    def topology(self) -> Topology | None:
        return self._installation[0] if self._installation else None

    def present(self) -> Answer | None:
        return self._installation[1] if self._installation else None

    def has_something(self) -> bool:
        return self._installation is not None

    def _switches(self) -> list[str]:
        """What is worked here: every part that has choices, from left to right."""
        topology = self._shown_topology()
        if topology is None or self.drawing is None:
            return []
        boxes = self.drawing.boxes
        there = [name for name in boxes if name in topology.parts and self._choices_of(name)]
        return sorted(there, key=lambda name: (boxes[name][0], boxes[name][1]))

    def _shown_topology(self) -> Topology | None:
        topology = self.topology()
        return self.seen(topology) if topology is not None else None

    def _choices_of(self, name: str) -> tuple[str, ...]:
        topology = self._shown_topology()
        if topology is None or name not in topology.parts:
            return ()
        return choices_at(topology.parts[name].kind)

    def words_of(self, name: str) -> str:
        """A part by its name, with what can be chosen of it."""
        topology = self._shown_topology()
        if not name or topology is None or name not in topology.parts:
            return super().words_of(name)
        part, keys = topology.parts[name], self._choices_of(name)
        what = ", ".join(words_of(key).lower() for key in keys)
        return f"{part.name}: click to choose {what}" if keys else part.name

    def work(self, part_id: str) -> None:
        """Offer what can be chosen of a part."""
        self.offer(part_id)

    def closer(self, part: str) -> None:
        """An overview it stays."""

    def offer(self, name: str) -> QMenu | None:
        """The choices of a part in a menu beside it: each with its values, the present one marked."""
        keys = self._choices_of(name)
        if not keys:
            return None
        self.menu = QMenu(self)
        for key in keys:
            options = options_of(key) or (UNITS if key == "units" else ())
            value = getattr(self._wanted, key)
            if options == ("no", "yes"):
                self._entry(self.menu, words_of(key), key, "no" if value else "yes").setChecked(bool(value))
            elif options:
                inner = self.menu.addMenu(words_of(key))
                for option in options:
                    self._entry(inner, option, key, option).setChecked(str(value) == option)
            else:
                self.menu.addAction(f"{words_of(key)}…").triggered.connect(
                    partial(self.wants_typing.emit, key)
                )
        self.menu.popup(self.mapToGlobal(self._below(name)))
        return self.menu

    def spoken(self) -> list[Spoken]:
        """Each part; pressed it offers its choices."""
        mine = self._switches()
        return [
            replace(item, press=partial(self.offer, str(item.key)), role=QAccessible.Role.ButtonMenu)
            if item.key in mine
            else item
            for item in super().spoken()
        ]

    def _entry(self, menu: QMenu, words: str, key: str, value: str) -> QAction:
        action = menu.addAction(words)
        action.setCheckable(True)
        action.triggered.connect(partial(self.picked.emit, key, value))
        return action

    def _below(self, name: str) -> QPoint:
        return self.part_rect(name).bottomLeft().toPoint()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Menu:
            self.offer(self.chosen)
        else:
            super().keyPressEvent(event)

    def paint(self, painter: QPainter) -> None:
        """The installation, with a small sign at every part that can be changed."""
        super().paint(painter)
        look, topology = current(), self._shown_topology()
        painter.setPen(QPen(colour(look.hand), 1))
        for name in self._switches():
            box = self.part_rect(name)
            at = QRectF(box.right() - 2, box.top() - 9, 10, 7)
            if topology is not None and topology.parts[name].kind == "board":  # its name stands above it
                at.moveTopLeft(QPointF(box.right() + 3, box.top() + 1))
            painter.setBrush(colour(look.hand if name in (self.hovered, self.chosen) else look.paper))
            tip = QPointF(at.center().x(), at.bottom())
            painter.drawPolygon(QPolygonF([at.topLeft(), at.topRight(), tip]))
