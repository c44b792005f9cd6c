"""One thing in a drawing, as it is said."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Protocol, runtime_checkable

from PySide6.QtCore import QRectF
from PySide6.QtGui import QAccessible


@dataclass(frozen=True)
class Spoken:
    """What a thing is called, what it shows, where it stands in its widget, and what pressing it does.

    `chosen` is where the keyboard is; `on` says of a switch or a page whether it is, None of anything else.
    """

    key: Hashable
    name: str
    rect: QRectF
    value: str = ""
    role: QAccessible.Role = QAccessible.Role.ListItem
    chosen: bool = False
    on: bool | None = None
    press: Callable[[], object] | None = None


@runtime_checkable
class Pressed(Protocol):
    """A widget that is one thing to press, and no button of Qt's."""

    def press(self) -> None: ...


@runtime_checkable
class Speaks(Protocol):
    """A drawing that says what is in it."""

    def spoken(self) -> list[Spoken]: ...
