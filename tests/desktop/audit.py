"""What every screen owes a person without a mouse, without good eyes, or on a small screen: found by going
through the window as it stands, so that new screens are asked too."""

import time
from collections.abc import Iterator

from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QMenuBar,
    QPushButton,
    QScrollArea,
    QSplitterHandle,
    QToolButton,
    QWidget,
)

PAGES = ("backups", "standings", "merging", "meter", "roof", "parts", "findings", "help", "new")
LEAST_PX = 32  # of a target
AROUND = 4  # pixels about a widget in which its focus may show
MOST_STOPS = 400
PATIENCE_S = 60.0


def said(widget: QWidget) -> str:
    """A widget in a message."""
    text = widget.text() if isinstance(widget, QAbstractButton | QLabel) else ""
    return f"{type(widget).__name__} {widget.accessibleName() or text or widget.objectName() or '?'!r}"


def open_page(window, page: str) -> QWidget:
    """A station or a page beside the stations, in view."""
    if page in PAGES:
        getattr(window.side, f"open_{page}")()
    else:
        window.go(page)
    until = time.monotonic() + PATIENCE_S
    while window.store.worker.busy and time.monotonic() < until:  # what a page asks for has come
        QApplication.processEvents()
        time.sleep(0.005)
    for _ in range(5):
        QApplication.processEvents()
    return window.pages.currentWidget()


def stops(window) -> list[QWidget]:
    """What Tab comes to from the first stop until it is there again; a stop that holds it stands twice at the
    end."""
    window.activateWindow()
    first = QApplication.focusWidget()
    found: list[QWidget] = []
    while len(found) < MOST_STOPS:
        focus = QApplication.focusWidget()
        if focus is None:
            break
        QTest.keyClick(focus, Qt.Key.Key_Tab)
        reached = QApplication.focusWidget()
        assert reached is not None
        found.append(reached)
        if reached is first or reached is focus:
            break
    return found


def in_view(widget: QWidget, window: QWidget) -> QRect:
    """Where a widget is seen in the window: cut by all that it stands in."""
    seen = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size())
    above = widget.parentWidget()
    while above is not None and above is not window:
        seen &= QRect(above.mapTo(window, QPoint(0, 0)), above.size())
        above = above.parentWidget()
    return seen


def looks(window, place: QRect) -> QImage:
    return window.grab(place).toImage()


def unseen_focus(window, widget: QWidget, elsewhere: QWidget) -> bool:
    """Whether nothing changes where a widget gets the focus."""
    elsewhere.setFocus(Qt.FocusReason.TabFocusReason)
    QApplication.processEvents()
    widget.setFocus(Qt.FocusReason.TabFocusReason)
    above = widget.parentWidget()
    while above is not None:
        if isinstance(above, QScrollArea) and widget.height() <= above.viewport().height():
            above.ensureWidgetVisible(widget)
        above = above.parentWidget()
    QApplication.processEvents()
    place = in_view(widget, window).adjusted(-AROUND, -AROUND, AROUND, AROUND) & window.rect()
    with_it = looks(window, place)
    elsewhere.setFocus(Qt.FocusReason.TabFocusReason)
    QApplication.processEvents()
    return looks(window, place) == with_it


def seen_widgets(page: QWidget) -> Iterator[QWidget]:
    """What a page shows now."""
    for widget in page.findChildren(QWidget):
        if widget.isVisibleTo(page) and widget.width() > 0 and not _within_scroll_bar(widget):
            yield widget


def _within_scroll_bar(widget: QWidget) -> bool:
    return isinstance(widget, QSplitterHandle | QMenuBar)


def nameless(page: QWidget) -> list[str]:
    """Stops without a name that could be read out."""
    return [
        said(widget)
        for widget in seen_widgets(page)
        if widget.focusPolicy() & Qt.FocusPolicy.TabFocus
        and widget.isEnabled()
        and not isinstance(widget, QScrollArea)
        and not widget.accessibleName()
        and not (isinstance(widget, QAbstractButton) and widget.text())
        and not (widget.parentWidget() and isinstance(widget.parentWidget(), QComboBox | QAbstractSpinBox))
    ]


def small(page: QWidget) -> list[str]:
    """Targets that a finger misses; links within running text are spared (WCAG 2.5.8)."""
    kinds = (QPushButton, QToolButton, QComboBox, QCheckBox, QLineEdit)
    return [
        f"{said(widget)} {widget.width()}x{widget.height()}"
        for widget in seen_widgets(page)
        if isinstance(widget, kinds) and widget.objectName() != "link" and widget.height() < LEAST_PX
        and not isinstance(widget.parentWidget(), QComboBox | QAbstractSpinBox)
    ]  # fmt: skip


def clipped(page: QWidget) -> list[str]:
    """Words that don't fit where they stand."""
    found = []
    for widget in seen_widgets(page):
        if isinstance(widget, QLabel) and widget.text() and not widget.pixmap().isNull():
            continue
        if isinstance(widget, QLabel) and widget.text() and widget.textFormat() != Qt.TextFormat.RichText:
            need = widget.heightForWidth(widget.width()) if widget.wordWrap() else widget.sizeHint().height()
            lines = widget.text().split() if widget.wordWrap() else [widget.text()]
            wide = max(widget.fontMetrics().horizontalAdvance(line) for line in lines)
            if widget.height() + 2 < need or widget.contentsRect().width() + 1 < wide:
                found.append(f"{said(widget)} {widget.width()}x{widget.height()} needs {wide}x{need}")
        elif isinstance(widget, QPushButton) and widget.text():
            need = max(widget.fontMetrics().horizontalAdvance(line) for line in widget.text().split("\n"))
            high = widget.fontMetrics().height() * (widget.text().count("\n") + 1)
            if widget.height() < high:
                found.append(f"{said(widget)} {widget.height()} high needs {high}")
            if widget.width() < need + (0 if widget.objectName() == "link" else 8):
                found.append(f"{said(widget)} {widget.width()} needs {need}")
        parent = widget.parentWidget()
        if isinstance(widget, QPushButton | QComboBox | QLineEdit) and parent is not None:
            inside = parent.rect().contains(widget.geometry())
            if isinstance(parent.parentWidget(), QAbstractItemView):
                continue  # a cell that is scrolled to
            if not inside and not isinstance(parent, QComboBox | QAbstractSpinBox) and parent is not page:
                found.append(f"{said(widget)} stands outside of {type(parent).__name__}")
    return found
