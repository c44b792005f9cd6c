"""The card of one step, large: what to do, the caution, what is measured beside it, the reading, who took
it."""

from __future__ import annotations

import contextlib
from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from lodestaff.commissioning.expect import Conditions
from lodestaff.commissioning.reading import NOT_MEASURED, Status
from lodestaff.commissioning.record import StepResult
from lodestaff.commissioning.rules import Asked, Confirmed, Named, SettingIs
from lodestaff.commissioning.tools import tool_of
from lodestaff.commissioning.words import conditions_words, reading_words
from lodestaff.desktop.language import STEP, said
from lodestaff.desktop.stations.commission.draft import (
    ASKED_UNITS,
    FIELD_WORDS,
    STATUS_ROLE,
    STATUS_WORDS,
    Draft,
    held_against,
)
from lodestaff.desktop.stations.commission.scale import ExpectedScale
from lodestaff.desktop.stations.commission.timer import StepTimer
from lodestaff.desktop.stations.commission.who import Who
from lodestaff.desktop.understood import as_number, understand
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number

BY_HAND_S = 2.0  # what is shorter isn't timed by hand
GLOVED_PX = 48  # of a target that is hit on a ladder, in gloves


class StepCard(QWidget):
    """Shows a step; emits the reading that the person records. It judges nothing."""

    recorded = Signal(object)
    take_wanted = Signal(bool)  # whether at the simulated site; else over the link
    write_wanted = Signal()
    step_wanted = Signal(int)
    withdrawn = Signal()
    complained = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.result: StepResult | None = None
        self.drafts: dict[str, Draft] = {}
        self.who = Who()
        self.person, self.instrument = self.who.person, self.who.instrument
        self.timer = StepTimer()
        self.timer.timed.connect(self._timed)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 8, 0)
        column.setSpacing(6)
        column.addWidget(self._make_words(), 1)
        column.addWidget(self._make_doing())
        for kind in (QPushButton, QLineEdit, QComboBox):
            for widget in self.findChildren(kind):
                if not isinstance(widget.parentWidget(), QComboBox):  # the line within a choice is no target
                    widget.setMinimumHeight(GLOVED_PX)

    # --- parts -------------------------------------------------------------------------------------------
    def _make_head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.before = self._button("◀", "The step before (Page Up)", lambda: self.step_wanted.emit(-1))
        self.after = self._button("▶", "The next step (Page Down)", lambda: self.step_wanted.emit(1))
        self.place = QLabel()
        self.place.setObjectName("heading")
        self.place.setWordWrap(True)
        self.status = QLabel()
        self.status.setObjectName("strong")
        self.status.setWordWrap(True)
        for widget in (self.before, self.after, self.place):
            row.addWidget(widget)
        row.setStretch(2, 1)
        return row

    def _make_words(self) -> QWidget:
        """What to do, large, and what to mind."""
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addLayout(self._make_head())
        column.addWidget(self.status)
        body = QWidget()
        body.setObjectName("surface")
        inside = QVBoxLayout(body)
        inside.setContentsMargins(0, 2, 4, 2)
        inside.setSpacing(6)
        self.text, self.caution, self.needs, self.expected, self.last = (QLabel() for _ in range(5))
        self.text.setObjectName("title")
        self.caution.setObjectName("caution")
        self.last.setObjectName("soft")
        for label in (self.text, self.caution, self.needs, self.expected, self.last):
            label.setWordWrap(True)
            label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        for label in (self.text, self.caution, self.needs, self.expected):
            inside.addWidget(label)
        inside.addStretch(1)
        scroller = QScrollArea()
        scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroller.setWidgetResizable(True)
        scroller.setFrameShape(QFrame.Shape.NoFrame)
        scroller.setWidget(body)
        column.addWidget(scroller, 1)
        return side

    def _make_doing(self) -> QWidget:
        """What is measured, read and recorded."""
        side = QWidget()
        inside = QVBoxLayout(side)
        inside.setSizeConstraint(QLayout.SizeConstraint.SetMinimumSize)  # what is pressed is never squeezed
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(3)
        self.fields: dict[Asked, QLineEdit] = {}
        grid = QGridLayout()
        grid.setVerticalSpacing(2)
        grid.setHorizontalSpacing(6)
        self.field_labels: dict[Asked, QLabel] = {}
        for row, (name, words) in enumerate(FIELD_WORDS.items()):
            self.field_labels[name], edit = QLabel(words), QLineEdit()
            edit.setAccessibleName(words)
            edit.textEdited.connect(lambda text, name=name: self._typed(name, text))
            understand(edit, partial(as_number, ASKED_UNITS[name]))
            self.field_labels[name].setBuddy(edit)
            self.fields[name] = edit
            grid.addWidget(self.field_labels[name], 2 * (row // 2), row % 2)
            grid.addWidget(edit, 2 * (row // 2) + 1, row % 2)
        inside.addLayout(grid)
        self.scale = ExpectedScale()
        inside.addWidget(self.scale)
        line = QHBoxLayout()
        line.setSpacing(6)
        self.reading = QLineEdit()
        self.reading.setObjectName("reading")
        self.reading.setAccessibleName("Reading")
        self.reading.setPlaceholderText("reading")
        self.reading.textEdited.connect(self._typed_reading)
        understand(self.reading, lambda: as_number(self.unit.text()))
        self.reading.returnPressed.connect(self.record)
        self.unit = QLabel()
        self.unit.setObjectName("title")
        self.yes = self._button("Done and right", "Confirm this step (Enter)", lambda: self._confirm(True))
        self.no = self._button("Found wrong", "This step fails", lambda: self._confirm(False))
        for widget in (self.reading, self.unit, self.yes, self.no):
            line.addWidget(widget)
        inside.addLayout(line)
        inside.addWidget(self.timer)
        inside.addWidget(self.last)
        inside.addWidget(self.who)
        inside.addLayout(self._make_buttons())
        return side

    def _make_buttons(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setHorizontalSpacing(6)
        self.record_button = self._button("Record", "Put the reading into the journal (Enter)", self.record)
        self.link_button = self._button("Over link", "Read the device", lambda: self.take_wanted.emit(False))
        self.site_button = self._button(
            "Simulate", "Do the step at the simulated site", lambda: self.take_wanted.emit(True)
        )
        self.write_button = self._button(
            "Write", "Write the setting, then read it back", self.write_wanted.emit
        )
        self.withdraw = self._button("Withdraw", "Mark the last reading as wrong", self.withdrawn.emit)
        self.later = QLineEdit()
        self.later.setPlaceholderText("put off: what does it need?")
        self.later.setAccessibleName("What the step needs, if it is put off")
        self.later.returnPressed.connect(self.put_off)
        self.later_button = self._button("Put off", "Leave this step open, with what it needs", self.put_off)
        row = QHBoxLayout()
        row.setSpacing(6)
        for button in (self.record_button, self.link_button, self.write_button, self.site_button):
            row.addWidget(button)
        grid.addLayout(row, 0, 0, 1, 3)
        for column, widget in enumerate((self.later, self.later_button, self.withdraw)):
            grid.addWidget(widget, 1, column)
        return grid

    def first(self) -> QWidget:
        """Where the keys go when one comes to the step: its first field, the reading, or its yes."""
        fields = (edit for edit in self.fields.values() if not edit.isHidden())
        return next(fields, self.yes if self.by_word else self.reading)

    @staticmethod
    def _button(words: str, tip: str, action: object) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.setAccessibleName(tip.split(" (")[0] or words)
        button.clicked.connect(lambda: action())  # type: ignore[operator]
        return button

    # --- showing ------------------------------------------------------------------------------------------
    def show_step(
        self, result: StepResult, number: int, count: int, connected: bool, simulated: bool
    ) -> None:
        """Show a step as it stands; what was typed for it before comes back."""
        fresh = self.result is None or self.result.step.id != result.step.id
        self.result = result
        step, confirm = result.step, self.by_word
        tool = tool_of(step)
        done = " · passed" if result.status is Status.PASSED else ""  # what isn't has a line of its own
        self.place.setText(f"{number} of {count} · {step.stage}{f' · {tool}' if tool else ''}{done}")
        self.text.setText(said(step.text, STEP))
        self.caution.setText(said(step.caution, STEP))
        self.caution.setVisible(bool(step.caution))
        words = STATUS_WORDS[result.status]
        self.status.setText(words if result.status is Status.PASSED else f"{words}: {result.judgement.words}")
        self.status.setToolTip(result.judgement.words)
        self.status.setVisible(not done)
        self.status.setProperty("role", STATUS_ROLE[result.status])
        self.status.style().unpolish(self.status)
        self.status.style().polish(self.status)
        self.needs.setText(f"Needs: {step.needs}." if step.needs else "")
        self.needs.setVisible(bool(step.needs))
        for name, edit in self.fields.items():
            edit.setVisible(name in step.rule.asks)
            self.field_labels[name].setVisible(name in step.rule.asks)
        for shown in (self.reading, self.unit, self.record_button):
            shown.setVisible(not confirm)
        plate = isinstance(step.rule, Named)
        self.yes.setVisible(confirm or plate)
        self.yes.setText("As designed" if plate else "Done and right")
        self.no.setVisible(confirm)
        self.reading.setPlaceholderText("as the plate reads" if plate else "reading")
        high = getattr(step.rule, "high", None) if step.measure.kind == "transfer" else None
        self.timer.show_step(step.id, step.wait_s, high is not None and high >= BY_HAND_S)
        self.unit.setText(step.rule.unit)
        self.instrument.setEnabled(not confirm)
        self.link_button.setVisible(step.measure.over_link)
        self.link_button.setEnabled(connected)
        self.write_button.setVisible(step.measure.kind == "setting")
        self.write_button.setEnabled(connected)
        self.site_button.setVisible(simulated)
        self.withdraw.setEnabled(result.entry is not None)
        self.last.setText(self._last_words(result))
        if fresh:
            if self.isAncestorOf(QApplication.focusWidget() or self.window()):
                (self.yes if confirm else self.reading).setFocus()
            draft = self.drafts.get(step.id, Draft())
            self.reading.setText(draft.reading)
            self.later.setText(draft.put_off)
            for name, edit in self.fields.items():
                edit.setText(draft.conditions.get(name, ""))
        self._show_expected()

    @property
    def by_word(self) -> bool:
        """Whether the step is answered by yes or no."""
        if self.result is None:
            return True
        rule = self.result.step.rule
        return isinstance(rule, Confirmed) or (isinstance(rule, SettingIs) and len(rule.wanted) > 1)

    @staticmethod
    def _last_words(result: StepResult) -> str:
        reading = result.reading
        if reading is None:
            return ""
        beside = conditions_words(reading)
        by = ", ".join(part for part in (reading.by, reading.instrument if reading.numbers else "") if part)
        how = " over the link" if reading.way == "link" else ""
        how += ", rehearsed" if reading.simulated else ""
        parts = (f"Last: {reading_words(result)}{how}", f"at {beside}" if beside else "",
                 f"by {by}" if by else "",
                 reading.at[:16].replace("T", " "))  # fmt: skip
        return "; ".join(part for part in parts if part)

    def _show_expected(self) -> None:
        assert self.result is not None
        step = self.result.step
        self.scale.show_band(None, None)
        try:
            conditions = self._conditions()
        except JobError as trouble:
            self.expected.setText(f"Not understood. {trouble}.")
            self.expected.setVisible(True)
            return
        typed = any(edit.text() for edit in self.fields.values()) or self.reading.text()
        last = None if typed else self.result.judgement.expected
        words, band = ("", None) if self.by_word else held_against(step, conditions, last)
        if isinstance(step.rule, Named):
            words = f"The design has: {step.rule.name}"
        self.expected.setText(words)
        self.expected.setVisible(bool(words))
        self.scale.show_band(None if isinstance(step.rule, SettingIs) else band, self._typed_number())

    def _typed_number(self) -> float | None:
        """The reading that is typed, else the last that was taken; None where neither is a number."""
        assert self.result is not None
        with contextlib.suppress(JobError):
            return read_number(self.reading.text(), self.unit.text())
        last = self.result.reading
        return last.numbers[0] if last is not None and last.numbers and not self.reading.text() else None

    # --- typing -------------------------------------------------------------------------------------------
    def _draft(self) -> Draft:
        assert self.result is not None
        return self.drafts.setdefault(self.result.step.id, Draft())

    def _typed(self, name: Asked, text: str) -> None:
        self._draft().conditions[name] = text
        self._show_expected()

    def _typed_reading(self, text: str) -> None:
        self._draft().reading = text
        self._show_expected()

    def _conditions(self) -> Conditions:
        """What was typed beside the reading. Raises JobError where something is no number."""
        values: dict[str, float] = {}
        assert self.result is not None
        for name in self.result.step.rule.asks:
            if text := self.fields[name].text().strip():
                values[name] = read_number(text, ASKED_UNITS[name])
        return Conditions(**values)

    def record(self) -> None:
        """Make a reading of what was typed; what can't be one is said, and stays typed."""
        if self.result is None or self.by_word:
            return
        if isinstance(self.result.step.rule, Named):
            self._emit_said()
            return
        try:
            number = read_number(self.reading.text(), self.unit.text())
            conditions = self._conditions()
        except JobError as trouble:
            self.complained.emit(f"Not recorded. {trouble}; readings are in {self.unit.text() or 'no unit'}.")
            return
        self._emit((number,), None, conditions)

    def _emit_said(self) -> None:
        """What stands on a plate, as it is typed."""
        said = " ".join(self.reading.text().split())
        if not said:
            self.complained.emit("Not recorded. Type what the plate says, or press As designed.")
            return
        self._emit((), None, NOT_MEASURED, said)

    def _timed(self, seconds: float) -> None:
        """What was timed, as if it were typed."""
        self.reading.setText(plain(seconds, 1))
        self._typed_reading(self.reading.text())

    def _confirm(self, right: bool) -> None:
        self._emit((), right, NOT_MEASURED)

    def put_off(self) -> None:
        """Leave the step open, dated, with what it needs."""
        text = self.later.text().strip()
        if self.result is None or not text:
            self.complained.emit("Not put off. Say what the step needs.")
            return
        self.recorded.emit(replace(self.who.reading(self.result.step.id), put_off=text))

    def _emit(
        self, numbers: tuple[float, ...], confirmed: bool | None, conditions: Conditions, said: str = ""
    ) -> None:
        assert self.result is not None
        try:
            reading = self.who.reading(self.result.step.id, numbers, confirmed, conditions, said)
        except ValueError as trouble:
            self.complained.emit(f"Not recorded. {trouble}.")
            return
        self.recorded.emit(reading)

    def forget_draft(self, step: str) -> None:
        """The reading is on disk: what was typed for it is not needed any more."""
        self.drafts.pop(step, None)
        if self.result is not None and self.result.step.id == step:
            self.reading.clear()
            self.later.clear()
            for edit in self.fields.values():
                edit.clear()
