"""The cards of the findings: one for a cause, with its sign, codes, words and a link to each remedy."""

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from lodestaff.checks import Remedy
from lodestaff.desktop.language import present_language, said, tr
from lodestaff.desktop.link_button import LinkButton
from lodestaff.desktop.theme import current, font, text_scale
from lodestaff.desktop.theme.paint import colour, focus_frame, mark
from lodestaff.reckoning.gathered import Cause

INDENT = 14  # of an answer below its cause


class Clickable(QWidget):
    """Clicked by the mouse, or by Enter or the space bar while it has the focus."""

    clicked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Click for the working")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()

    def press(self) -> None:
        """What a click does."""
        self.clicked.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.clicked.emit()
        else:
            super().keyPressEvent(event)


class CauseCard(Clickable):
    """A cause with how many answers it has; a click shows each, or the working where there is one.

    `inner` stands below the card of its cause, `opened` has its answers below it.
    """

    remedy_chosen = Signal(object)

    def __init__(self, cause: Cause, inner: bool = False, opened: bool = False) -> None:
        super().__init__()
        self.cause, self.inner, self.opened = cause, inner, opened
        self.language, keys = present_language(), rules_of(cause)
        times = f", {cause.count} answers, {'shown' if self.opened else 'folded'}" if cause.count > 1 else ""
        self.setAccessibleName(f"{cause.codes} {tr(cause.status)}{times}: {said(cause.text, *keys)}")
        if cause.count > 1:
            self.setToolTip("Click to fold them" if self.opened else "Click to see each")
        column = QVBoxLayout(self)
        column.setContentsMargins(12 + (INDENT if inner else 0), round(4 + 18 * text_scale()), 8, 6)
        column.setSpacing(0)
        column.addWidget(_wrapped(said(cause.text, *keys)))
        if cause.count == 1 and cause.worst.open:
            because = cause.worst.open_because
            words = ", ".join(said(reason, *keys) for reason in because[:2]) + (
                "…" if len(because) > 2 else ""
            )
            column.addWidget(_wrapped(f"{tr('Open')}: {words}", "soft"))
        if cause.status != "passed":
            for remedy in cause.remedies:
                column.addWidget(self._link(remedy))

    def shows(self, cause: Cause, inner: bool, opened: bool) -> bool:
        """Whether this card reads the same for a cause (its working may differ)."""
        mine = (self.inner, self.opened, self.language, _read(self.cause))
        return mine == (inner, opened, present_language(), _read(cause))

    def _link(self, remedy: Remedy) -> LinkButton:
        name = said(remedy.name, *rules_of(self.cause))
        button = LinkButton(name)
        button.setAccessibleName(f"Apply: {name}")
        button.clicked.connect(lambda: self.remedy_chosen.emit(remedy))
        return button

    def paintEvent(self, event: QPaintEvent) -> None:
        look, status, cause = current(), self.cause.status, self.cause
        painter = QPainter(self)
        left = INDENT if self.inner else 0
        box = QRectF(self.rect()).adjusted(left + 0.5, 0.5, -0.5, -0.5)
        painter.setPen(QPen(colour(look.line), look.stroke))
        painter.setBrush(colour(look.panel))
        painter.drawRect(box)
        painter.fillRect(QRectF(left, 0, 4, self.height()), colour(getattr(look, status)))
        mark(painter, look, status, QRectF(left + 12, 7, 10, 10))
        painter.setFont(font("label"))
        painter.setPen(colour(getattr(look, status)))
        line = QRectF(left + 27, 4, self.width() - left - 36, 16 * text_scale())
        count = f"{cause.count} {'▴' if self.opened else '▾'}" if cause.count > 1 else ""
        room = line.width() - QFontMetricsF(painter.font()).horizontalAdvance(count) - 6
        state = f", {cause.worst.state}" if cause.worst.state and cause.count == 1 else ""
        words = QFontMetricsF(painter.font()).elidedText(
            f"{cause.codes} {tr(status)}{state}", Qt.TextElideMode.ElideRight, room
        )
        painter.drawText(line, Qt.AlignmentFlag.AlignLeft, words)
        painter.drawText(line, Qt.AlignmentFlag.AlignRight, count)
        if self.hasFocus():
            focus_frame(painter, look, box.adjusted(1, 1, -1, -1))
        painter.end()


def _read(cause: Cause) -> tuple[object, ...]:
    worst = cause.worst
    shown = (cause.codes, cause.count, cause.status, cause.text, cause.remedies)
    return (*shown, worst.state, worst.open_because)


def rules_of(cause: Cause) -> tuple[str, ...]:
    """The keys under which a cause's words are said."""
    return (cause.worst.rule, cause.worst.code)


def _wrapped(text: str, name: str = "") -> QLabel:
    label = QLabel(text)
    label.setWordWrap(True)
    label.setObjectName(name)
    return label
