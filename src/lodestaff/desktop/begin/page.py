"""The page of a new job: starting points, choices, and the installation that they make."""

import contextlib

from PySide6.QtCore import QRect, QSize, Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from lodestaff.desktop.begin.chips import Chips
from lodestaff.desktop.begin.choices import Choices
from lodestaff.desktop.begin.preview import Preview
from lodestaff.desktop.flow import FlowLayout
from lodestaff.desktop.store import Store
from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.cabling import with_cables
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.templates import KINDS, Wanted, compose
from lodestaff.templates.at_parts import HEAD
from lodestaff.templates.typed import changed
from lodestaff.topology import answer, build
from lodestaff.topology.questions import asked, shown_states

WAIT_MS = 120
BESIDE_PX, ABOVE_PX = 12, 14  # of the words of a starting point: at each side, above and below together
EMPTY = "From nothing"


class NewJobPage(QWidget):
    """Nothing is made until it is begun; what can't stand together is said beside the choices."""

    closed = Signal()
    begun = Signal(object)

    def __init__(self, store: Store) -> None:
        super().__init__()
        self.setObjectName("surface")
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(WAIT_MS)
        self._soon.timeout.connect(self.refresh)
        self.job: Job | None = None
        self._start: Wanted | None = None
        self.points = QListWidget()
        self.points.setAccessibleName("Starting points")
        self.points.setWordWrap(True)
        self.points.addItem(EMPTY)
        self.points.addItems([point.words for point in KINDS.values()])
        self.points.setFixedWidth(250)
        self.points.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.points.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.points.currentRowChanged.connect(self._take_point)
        self.choices = Choices()
        self.choices.changed.connect(self._soon.start)
        self.choices.pack_chosen.connect(self._take_pack)
        self.area = QScrollArea()
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setWidget(self.choices)
        self.area.setWidgetResizable(True)
        self.area.setFixedWidth(292)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setVisible(False)
        self.preview = Preview(store)
        self.chips = Chips()
        for part in (self.preview, self.chips):
            part.picked.connect(self.choices.put)
        self.preview.wants_typing.connect(self._type)
        self.sets = QLabel("")
        self.sets.setObjectName("soft")
        self.sets.setWordWrap(True)
        self.words = QLabel("")
        self.words.setWordWrap(True)
        title = QLabel("A new job")
        title.setObjectName("title")
        made = QWidget()
        made.setObjectName("surface")
        inner = QVBoxLayout(made)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.addWidget(self.sets)
        inner.addWidget(self.preview, 1)
        inner.addWidget(self.chips)
        inner.addWidget(self.words)
        scroll = QScrollArea()  # with large text not all has room at once
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(made)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        right = QVBoxLayout()
        right.addWidget(self._head())
        right.addWidget(scroll, 1)
        right.addLayout(self._buttons())
        columns = QHBoxLayout()
        columns.setSpacing(12)
        columns.addWidget(self.points)
        columns.addWidget(self.area)
        columns.addLayout(right, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(20, 10, 16, 12)
        whole.addWidget(title)
        hint = QLabel(
            "Take a starting point, or none. Say where it is; click a part of the drawing to choose another, "
            "and add what else stands there or is wanted."
        )
        hint.setObjectName("soft")
        hint.setWordWrap(True)
        whole.addWidget(hint)
        whole.addLayout(columns, 1)

    def _head(self) -> QWidget:
        """Name, place and pack: what comes first, and no part shows."""
        head = QWidget()
        row = FlowLayout(head)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        head.setSizePolicy(policy)
        for key in HEAD:
            pair = QWidget()
            line = QHBoxLayout(pair)
            line.setContentsMargins(0, 0, 8, 0)
            line.addWidget(self.choices.labels[key])
            line.addWidget(self.choices.controls[key])
            self.choices.controls[key].setMinimumWidth(120 if key == "pack" else 190)
            row.addWidget(pair)
        self.choices.controls["pack"].setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        return head

    def _buttons(self) -> QHBoxLayout:
        self.begin = QPushButton("Begin this job")
        self.begin.clicked.connect(self._begin)
        back = QPushButton("Back")
        back.clicked.connect(self.closed)
        self.as_list = QPushButton("All choices as a list")
        self.as_list.setCheckable(True)
        self.as_list.toggled.connect(self.area.setVisible)
        line = QHBoxLayout()
        line.addWidget(self.begin)
        line.addWidget(back)
        line.addStretch(1)
        line.addWidget(self.as_list)
        return line

    def _type(self, key: str) -> None:
        """Open the list where a choice is typed."""
        self.as_list.setChecked(True)
        control = self.choices.controls[key]
        self.area.ensureWidgetVisible(control)
        control.setFocus()

    def _size_points(self) -> None:
        """As many lines for each starting point as its words take beside the list's bar."""
        beside = self.points.verticalScrollBar().sizeHint().width() + 2 * BESIDE_PX
        room = QRect(0, 0, self.points.width() - beside, 1000)
        for row in range(self.points.count()):
            item = self.points.item(row)
            words = self.points.fontMetrics().boundingRect(room, Qt.TextFlag.TextWordWrap, item.text())
            item.setSizeHint(QSize(room.width(), words.height() + ABOVE_PX))

    def open(self) -> None:
        """Show the page as it was left; with the first starting point the first time."""
        self._size_points()
        if self.points.currentRow() < 0:
            self.points.setCurrentRow(0)
        self.points.setFocus()

    def _take_point(self, row: int) -> None:
        self._start = list(KINDS.values())[row - 1].wanted if row > 0 else Wanted()
        self.choices.show_wanted(self._start)
        self.refresh()

    def _take_pack(self, pack: str) -> None:
        """Another pack: what the person chose stays, supply, earthing and sheets go by the pack."""
        start = self._start or Wanted()
        if pack == start.pack:
            return
        chosen = {key: value for key, value in self.choices.texts().items() if value != "" and key != "pack"}
        with contextlib.suppress(JobError):  # what doesn't go together is said when all is put together
            start = changed(start, [f"{key}={value}" for key, value in chosen.items()])
        self._start = changed(start, [f"pack={pack}"])
        self.choices.show_wanted(self._start)

    def refresh(self) -> None:
        """Put the choices together and show what comes of them, or why they don't go together."""
        self._soon.stop()
        try:
            texts = [f"{key}={value}" for key, value in self.choices.texts().items() if value != ""]
            wanted = changed(self._start, texts)
            self.job = compose(wanted)
        except JobError as trouble:
            self.job = None
            self.words.setText(f"Not possible so. {trouble}")
            self.begin.setEnabled(False)
            return
        self.begin.setEnabled(True)
        topology = build(self.job)
        states = shown_states(topology)
        self.preview.show_installation(topology, answer(topology, states[0]), wanted)
        self.chips.show_wanted(wanted)
        self.sets.setText(_set_by(wanted))
        questions = asked(topology)
        fed, all_of = len(questions.lives()), len(self.job.circuits)
        lives = (
            f"{fed} of {all_of} circuits fed {'in an outage' if self.job.mains.grid else 'without a grid'}"
        )
        lives = lives if questions.has_backup else "no backup"
        units = ", ".join(unit.name for unit in self.job.units)
        self.words.setText(
            f"{units}. {len(topology.parts)} parts, {len(topology.switches())} switches, {len(states)} "
            f"switching states; {lives}. Equipment and circuits are invented ones to begin with."
        )

    def _begin(self) -> None:
        if self._soon.isActive():  # what was typed last isn't made yet
            self._soon.stop()
            self.refresh()
        if self.job is not None:
            self.begun.emit(with_cables(Reckoner(), self.job))


def _set_by(wanted: Wanted) -> str:
    """What a new job takes from its pack until the place is known."""
    begins = wanted.begins
    north = f"{plain(abs(begins.latitude_deg))}° {'N' if begins.latitude_deg >= 0 else 'S'}"
    east = f"{plain(abs(begins.longitude_deg))}° {'E' if begins.longitude_deg >= 0 else 'W'}"
    cold = text_of(min(begins.temperature_low_c), "°C")
    return (
        f"The place sets weather, cold and clock: until it is typed at Site those of {north}, {east} are "
        f"assumed, coldest month {cold}, clock {begins.time_zone}, prices in {begins.currency}."
    )
