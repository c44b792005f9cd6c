"""The page of a new job: starting points, choices, and the installation that they make."""

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QPushButton, QScrollArea, QVBoxLayout, QWidget

from lodestaff.desktop.begin.choices import Choices
from lodestaff.desktop.begin.preview import Preview
from lodestaff.desktop.store import Store
from lodestaff.job import Job
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.cabling import with_cables
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.templates import KINDS, Wanted, compose
from lodestaff.templates.typed import changed
from lodestaff.topology import answer, build
from lodestaff.topology.questions import asked, shown_states

WAIT_MS = 120
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
        area = QScrollArea()
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidget(self.choices)
        area.setWidgetResizable(True)
        area.setFixedWidth(292)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.preview = Preview(store)
        self.words = QLabel("")
        self.words.setWordWrap(True)
        self.begin = QPushButton("Begin this job")
        self.begin.clicked.connect(self._begin)
        back = QPushButton("Back")
        back.clicked.connect(self.closed)
        title = QLabel("A new job")
        title.setObjectName("title")
        buttons = QHBoxLayout()
        buttons.addWidget(self.begin)
        buttons.addWidget(back)
        buttons.addStretch(1)
        right = QVBoxLayout()
        right.addWidget(self.preview, 1)
        right.addWidget(self.words)
        right.addLayout(buttons)
        columns = QHBoxLayout()
        columns.setSpacing(12)
        columns.addWidget(self.points)
        columns.addWidget(area)
        columns.addLayout(right, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(20, 10, 16, 12)
        whole.addWidget(title)
        hint = QLabel(
            "Take a starting point, or none; say what stands there and what is wanted. Every choice can "
            "be changed."
        )
        hint.setObjectName("soft")
        hint.setWordWrap(True)
        whole.addWidget(hint)
        whole.addLayout(columns, 1)

    def open(self) -> None:
        """Show the page as it was left; with the first starting point the first time."""
        if self.points.currentRow() < 0:
            self.points.setCurrentRow(0)
        self.points.setFocus()

    def _take_point(self, row: int) -> None:
        self._start = list(KINDS.values())[row - 1].wanted if row > 0 else Wanted()
        self.choices.show_wanted(self._start)
        self.refresh()

    def refresh(self) -> None:
        """Put the choices together and show what comes of them, or why they don't go together."""
        self._soon.stop()
        try:
            texts = [f"{key}={value}" for key, value in self.choices.texts().items() if value != ""]
            self.job = compose(changed(self._start, texts))
        except JobError as trouble:
            self.job = None
            self.words.setText(f"Not possible so. {trouble}")
            self.begin.setEnabled(False)
            return
        self.begin.setEnabled(True)
        topology = build(self.job)
        states = shown_states(topology)
        self.preview.show_installation(topology, answer(topology, states[0]))
        found = asked(topology)
        fed, all_of = len(found.lives()), len(self.job.circuits)
        lives = (
            f"{fed} of {all_of} circuits fed {'in an outage' if self.job.mains.grid else 'without a grid'}"
        )
        lives = lives if found.has_backup else "no backup"
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
