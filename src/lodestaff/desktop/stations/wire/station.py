"""The Wire station: what is live from what, in every state that a hand can reach."""

from PySide6.QtWidgets import QButtonGroup, QComboBox, QLabel, QPushButton, QTabWidget, QWidget

from lodestaff.checks import Finding
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.wire.cables import CableTable, PackTableView
from lodestaff.desktop.stations.wire.diagram import DiagramView
from lodestaff.desktop.stations.wire.moves import AdjustmentsTable, FailuresTable, MovesTable
from lodestaff.desktop.stations.wire.proposing import Proposing
from lodestaff.desktop.stations.wire.schedules import Schedules
from lodestaff.desktop.stations.wire.table import WireTable
from lodestaff.desktop.store import Store
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.passing import passing
from lodestaff.reckoning.readings import Reading
from lodestaff.reckoning.wire_readings import wire_readings
from lodestaff.reckoning.wired import Wiring
from lodestaff.topology import State
from lodestaff.wiring import LEVELS
from lodestaff.wiring.cautions import state_caution

USUAL = ("grid", "island", "outage", "bypass", "generator", "all off")
MORE = "further states"
LEVEL_HINTS = {
    "overview": "Sources, boards and what joins them. Double-click a part to come closer.",
    "boards": "Every device and circuit. Double-click a part for its terminals; a right click adjusts.",
    "terminals": "One part with what is near it: ports and cores at each end. Double-click another part "
    "to go there.",
}

LINES = {
    "grid": "grid whole",
    "generator": "generator dash and dots",
    "battery": "battery dashed",
    "array": "sun dotted",
}


class WireStation(StationView):
    """States, diagram, table."""

    id = "wire"
    crowded = True
    hint = "A conductor carries a line for each source; dead pale. Click a switch to work it."

    def __init__(self, store: Store) -> None:
        self.run = ""  # the run of cable last asked about
        self.part = ""  # the part last asked about
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())
        self._shown: tuple[Wiring, State] | None = None
        self.states = QButtonGroup(self)
        self.more = QComboBox()
        self.more.setAccessibleName("Further switching states")
        self.more.textActivated.connect(self._choose)
        self.own = QLabel("")
        self.own.hide()
        self.own.setObjectName("soft")
        self.level = QComboBox()
        self.level.setAccessibleName("How much of the installation is shown")
        self.level.addItems(list(LEVELS))
        self.level.textActivated.connect(self._choose_level)
        for combo in (self.more, self.level):
            combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            combo.setMinimumContentsLength(11)
        self.proposing = Proposing(store, self)
        self.proposing.said.connect(self.refresh)
        for widget in (self.more, self.level, self.proposing.button, self.own):
            self.buttons.addWidget(widget)

    def _make_drawing(self) -> QWidget:
        self.diagram = DiagramView(self.store)
        self.diagram.asked.connect(self._asked)
        self.diagram.level_changed.connect(self._show_level)
        return self.diagram

    def _make_table(self) -> QWidget:
        self.wires, self.cables, self.pack = (
            WireTable(self.store),
            CableTable(self.store),
            PackTableView(self.store),
        )
        self.schedules = Schedules(self.store)
        self.moves, self.failures = MovesTable(self.store), FailuresTable(self.store)
        self.adjustments = AdjustmentsTable(self.store)
        tabs = QTabWidget()
        tabs.setAccessibleName("Tables of the wiring")
        tabs.tabBar().setAccessibleName("Tables of the wiring")
        tabs.addTab(self.wires, "Switches and conductors")
        tabs.addTab(self.moves, "Next moves")
        tabs.addTab(self.failures, "If one fails")
        tabs.addTab(self.adjustments, "Adjustments")
        tabs.addTab(self.cables, "Cables")
        tabs.addTab(self.schedules, "Schedules")
        tabs.addTab(self.pack, "Values of the pack")
        tabs.currentChanged.connect(lambda _: self._fill_tables())
        self.cables.came_to.connect(lambda row: self.proposing.choose(row.id))
        self.tabs = tabs
        return tabs

    def _fill_tables(self) -> None:
        """Only the table in view is filled."""
        shown = self.tabs.currentWidget()
        if shown is not self.wires and shown.isVisible():
            shown.refresh()  # type: ignore[attr-defined]

    def _choose(self, name: str) -> None:
        state = next((state for state in self.store.states() if self.store.state_words(state) == name), None)
        if state is not None:
            self.store.set_state(state)

    def _choose_level(self, name: str) -> None:
        self.diagram.show_level(name)  # type: ignore[arg-type]
        self.explain(LEVEL_HINTS[self.diagram.present_level()])

    def _offer_states(self) -> None:
        """A button for each of the usual states that this installation has, the others in a list."""
        names = [self.store.state_words(state) for state in self.store.states()]
        usual = [name for name in names if name in USUAL]
        if [button.text() for button in self.states.buttons()] != usual:
            for button in self.states.buttons():
                self.states.removeButton(button)
                self.buttons.removeWidget(button)
                button.hide()
                button.deleteLater()
            for index, name in enumerate(usual):
                button = QPushButton(name)
                button.setCheckable(True)
                button.setAccessibleName(f"Switching state {name}")
                button.clicked.connect(lambda _=False, name=name: self._choose(name))
                self.states.addButton(button)
                self.buttons.insert_widget(index, button)
        others = [MORE, *(name for name in names if name not in USUAL)]
        if [self.more.itemText(index) for index in range(self.more.count())] != others:
            self.more.clear()
            self.more.addItems(others)
        self.more.setVisible(len(others) > 1)
        now = self.store.state_words(self.store.state)
        self.more.setCurrentText(now if now in others else MORE)

    def _asked(self, name: str) -> None:
        """Show what is known of a part or conductor; a conductor's run brings its findings to the top."""
        self.say(" ".join(filter(None, (self.diagram.words_of(name), self._more_of(name)))))
        if self.store.job is None:
            return
        topology = self.store.reckoner.wiring(self.store.job).topology
        self.run = next((conductor.run for conductor in topology.conductors if conductor.id == name), "")
        self.part = name if name in topology.parts else ""
        self.proposing.choose(self.run)
        self.reckoning_changed.emit()

    def _more_of(self, name: str) -> str:
        """The sources themselves and the currents of a conductor that was clicked."""
        job, answer = self.store.job, self.store.answer()
        if job is None or answer is None or not answer.sources.get(name):
            return ""
        topology = self.store.reckoner.wiring(job).topology
        sources = ", ".join(topology.parts[source].name for source in sorted(answer.sources[name]))
        through = passing(self.store.reckoner.wiring(job), job, answer).conductors.get(name)
        amps = (
            f" Up to {plain(through.load_a, 0)} A to loads, {plain(through.source_a, 0)} A back."
            if through
            else ""
        )
        return f"Sources: {sources}.{amps}"

    def _show_level(self) -> None:
        self.level.setCurrentText(self.diagram.present_level())

    def findings(self) -> list[Finding]:
        """Of the run that was asked about, then of the bonds; without one, all."""
        gathered = super().findings()
        return [
            finding
            for finding in gathered
            if not self.run or self.run in finding.subjects or not finding.subjects
        ]

    def readings(self) -> list[Reading]:
        answer = self.store.answer()
        return wire_readings(answer, self.store.state_words(self.store.state)) if answer else []

    def note(self) -> str:
        """The caution of the present state, and of the part last asked about."""
        job = self.store.job
        if job is None:
            return ""
        cable = next((cable for cable in job.cables if cable.id == self.run), None)
        if cable is not None:
            device = f", {cable.curve or ''}{plain(cable.device_a)} A" if cable.device_a else ""
            return (
                f"{self.run}: {plain(cable.size_mm2)} mm², {plain(cable.length_m)} m, "
                f"{cable.table}{device}. Click beside it for all runs."
            )
        part = self.store.reckoner.wiring(job).topology.parts.get(self.part)
        if part is not None and part.caution:
            return f"{part.name}: {job.pack.caution(part.caution)}"
        return state_caution(job, self.store.reckoner.wiring(job).topology, self.store.state.name)

    def _hint(self) -> str:
        """What the lines mean, of the sources that stand here."""
        if self.store.job is None:
            return self.hint
        there = {source.kind for source in self.store.reckoner.wiring(self.store.job).topology.sources}
        lines = ", ".join(words for kind, words in LINES.items() if kind in there)
        return f"A conductor carries a line for each source: {lines}; dead pale. Click a switch to work it."

    def refresh(self) -> None:
        job = self.store.job
        shown = (self.store.reckoner.wiring(job), self.store.state) if job else None
        if (
            self._shown is None
            or shown is None
            or shown[0] is not self._shown[0]
            or shown[1] != self._shown[1]
        ):  # figures that come in leave the graph as it is
            self._shown = shown
            self.diagram.refresh()
            self.wires.refresh()
        self._fill_tables()
        state: State = self.store.state
        self._offer_states()
        self._show_level()
        self.states.setExclusive(False)
        for button in self.states.buttons():
            button.setChecked(button.text() == self.store.state_words(state))
        self.states.setExclusive(True)
        own = state.name == "own positions"
        self.own.setText("switched by hand" if own else "")
        self.own.setVisible(own)  # with nothing to say it takes no line of its own
        if self.proposing.words:
            self.say(self.proposing.words)
        elif not self.diagram.hovered and not self.run and not own:
            self.explain(self._hint())
