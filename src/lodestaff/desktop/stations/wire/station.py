"""The Wire station: what is live from what, in every state that a hand can reach."""

from PySide6.QtWidgets import QButtonGroup, QLabel, QPushButton, QWidget

from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.wire.diagram import DiagramView
from lodestaff.desktop.stations.wire.table import WireTable
from lodestaff.desktop.store import Store
from lodestaff.reckoning.readings import Reading, wire_readings
from lodestaff.reckoning.reckoner import Wiring
from lodestaff.topology import STATES, State

STATE_CAUTIONS = {"bypass": "bypass", "all off": "all_off", "island": "tncs"}


class WireStation(StationView):
    """States, diagram, table."""

    id = "wire"
    hint = "A conductor carries a line for each source: grid whole, battery dashed, sun dotted; dead pale. Click a switch to work it."

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self._shown: tuple[Wiring, State] | None = None
        self.states = QButtonGroup(self)
        for index, name in enumerate(STATES):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setAccessibleName(f"Switching state {name}")
            button.clicked.connect(lambda _=False, name=name: self._choose(name))
            self.states.addButton(button)
            self.head.insertWidget(index + 1, button)
        self.own = QLabel("")
        self.own.setObjectName("soft")
        self.head.insertWidget(len(STATES) + 1, self.own)

    def make_drawing(self) -> QWidget:
        self.diagram = DiagramView(self.store)
        self.diagram.asked.connect(self._asked)
        return self.diagram

    def make_table(self) -> QWidget:
        self.wires = WireTable(self.store)
        return self.wires

    def _choose(self, name: str) -> None:
        self.store.set_state(next(state for state in self.store.states() if state.name == name))

    def _asked(self, name: str) -> None:
        self.words.setText(self.diagram.words_of(name))

    def readings(self) -> list[Reading]:
        answer = self.store.answer()
        return wire_readings(answer) if answer else []

    def note(self) -> str:
        """The caution of the present state, and of the part last asked about."""
        job = self.store.job
        if job is None:
            return ""
        name = STATE_CAUTIONS.get(self.store.state.name)
        if name == "tncs" and job.site.supply.earthing.value != "TN-C-S":
            name = None
        return job.pack.cautions[name] if name else job.pack.cautions["prove_dead"]

    def refresh(self) -> None:
        job = self.store.job
        shown = (self.store.reckoner.wiring(job), self.store.state) if job else None
        if (
            self._shown is None or shown is None or shown[0] is not self._shown[0] or shown[1] != self._shown[1]
        ):  # figures that come in leave the graph as it is
            self._shown = shown
            self.diagram.refresh()
            self.wires.refresh()
        state: State = self.store.state
        self.states.setExclusive(False)
        for button in self.states.buttons():
            button.setChecked(button.text() == state.name)
        self.states.setExclusive(True)
        own = state.name not in STATES
        self.own.setText("switched by hand" if own else "")
        if not self.diagram.hovered:
            self.words.setText(self.hint if not own else self.words.text())
