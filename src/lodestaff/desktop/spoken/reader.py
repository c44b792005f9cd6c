"""The drawings as Qt's accessible interfaces: a widget that speaks has its things as children."""

from collections.abc import Hashable
from typing import Any

import shiboken6
from PySide6.QtCore import QObject, QPoint, QRect
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleAnnouncementEvent,
    QAccessibleEvent,
    QAccessibleInterface,
)
from PySide6.QtWidgets import QAccessibleWidget, QWidget

from lodestaff.desktop.spoken.item import Pressed, Speaks, Spoken

PRESS = "Press"
KEPT = "spoken by"


class _Press(QAccessibleActionInterface):
    """Pressing a thing."""

    def __init__(self, thing: "_Thing") -> None:
        super().__init__()
        self.thing = thing

    def actionNames(self) -> list[str]:
        return [PRESS] if self.thing.item.press is not None else []

    def doAction(self, actionName: str) -> None:  # noqa: N803 - Qt's own name
        if self.thing.item.press is not None:
            self.thing.item.press()

    def keyBindingsForAction(self, actionName: str) -> list[str]:  # noqa: N803
        return []


class _Thing(QAccessibleInterface):
    """One thing of a drawing."""

    def __init__(self, whole: "_Drawing", item: Spoken) -> None:
        super().__init__()
        self.whole, self.item, self.there = whole, item, True
        self.press = _Press(self)

    def isValid(self) -> bool:
        return self.there and shiboken6.isValid(self.whole.drawn)

    def object(self) -> Any:
        return None

    def childCount(self) -> int:
        return 0

    def child(self, index: int) -> Any:
        return None

    def childAt(self, x: int, y: int) -> Any:
        return None

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return -1

    def parent(self) -> QAccessibleInterface:
        return self.whole

    def role(self) -> QAccessible.Role:
        return self.item.role

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        state.selectable = state.focusable = True
        state.selected = self.item.chosen
        state.focused = self.item.chosen and self.whole.drawn.hasFocus()
        state.checkable = self.item.on is not None
        state.checked = bool(self.item.on)
        return state

    def text(self, which: QAccessible.Text) -> str:
        if which == QAccessible.Text.Name:
            return self.item.name
        return self.item.value if which in (QAccessible.Text.Value, QAccessible.Text.Description) else ""

    def setText(self, which: QAccessible.Text, text: str) -> None:
        """Nothing is typed into a thing of a drawing."""

    def rect(self) -> QRect:
        widget = self.whole.drawn
        if not self.isValid():
            return QRect()
        at = self.item.rect.toRect()
        return QRect(widget.mapToGlobal(QPoint(0, 0)) + at.topLeft(), at.size())

    def interface_cast(self, kind: QAccessible.InterfaceType) -> Any:
        if kind == QAccessible.InterfaceType.ActionInterface:
            return shiboken6.VoidPtr(shiboken6.getCppPointer(self.press)[0])
        return shiboken6.VoidPtr(0)  # a None here ends the program where a screen reader asks from outside


class _Drawing(QAccessibleWidget):
    """A widget whose things are its children."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget, QAccessible.Role.List, widget.accessibleName())
        self.drawn = widget
        self._things: dict[Hashable, _Thing] = {}
        self._order: list[_Thing] = []

    def _now(self) -> list[_Thing]:
        """The things as they stand: one that stays keeps its interface."""
        assert isinstance(self.drawn, Speaks)
        items = self.drawn.spoken() if shiboken6.isValid(self.drawn) else []
        for thing in self._things.values():
            thing.there = False
        self._order = []
        for item in items:
            thing = self._things.setdefault(item.key, _Thing(self, item))
            thing.item, thing.there = item, True
            self._order.append(thing)
        return self._order

    def childCount(self) -> int:
        return len(self._now())

    def child(self, index: int) -> Any:
        things = self._order or self._now()
        return things[index] if 0 <= index < len(things) else None

    def childAt(self, x: int, y: int) -> Any:
        return next((thing for thing in self._now() if thing.rect().contains(x, y)), None)

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return next((place for place, thing in enumerate(self._order) if thing is child), -1)

    def focusChild(self) -> Any:
        chosen = next((thing for thing in self._now() if thing.item.chosen), None)
        return chosen if self.drawn.hasFocus() else None


class _Pressable(QAccessibleWidget):
    """A widget that is one thing to press."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget, QAccessible.Role.Button, widget.accessibleName())
        self.drawn = widget

    def actionNames(self) -> list[str]:
        return [PRESS]

    def doAction(self, actionName: str) -> None:  # noqa: N803
        if isinstance(self.drawn, Pressed):
            self.drawn.press()


def _made(key: str, thing: QObject) -> Any:
    """The interface of a widget that speaks; Qt's own for all others."""
    if not isinstance(thing, QWidget) or not isinstance(thing, Speaks | Pressed):
        return None
    made = _Drawing(thing) if isinstance(thing, Speaks) else _Pressable(thing)
    thing.setProperty(KEPT, made)  # it lives as long as its widget
    return made


def install() -> None:
    """Let drawings speak, from now on."""
    QAccessible.installFactory(_made)


def told(widget: QWidget) -> None:
    """Say that another thing of a drawing is where the keyboard is."""
    if not QAccessible.isActive() or not isinstance(widget, Speaks):
        return
    for place, item in enumerate(widget.spoken()):
        if item.chosen:
            event = QAccessibleEvent(widget, QAccessible.Event.Focus)
            event.setChild(place)
            QAccessible.updateAccessibility(event)


def announce(widget: QWidget, words: str) -> None:
    """Have words read out that a person must hear though nothing has the focus."""
    if QAccessible.isActive() and words:
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(widget, words))
