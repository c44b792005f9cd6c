"""The Commission station: the step in hand, what is proven, the live site; the table of all steps is its
equal."""

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QScrollArea, QSplitter, QTabWidget, QVBoxLayout, QWidget

from lodestaff.checks import Finding
from lodestaff.commissioning.places import places
from lodestaff.commissioning.reading import Reading as SiteReading
from lodestaff.commissioning.reading import Status
from lodestaff.commissioning.record import Proof, StepResult
from lodestaff.commissioning.settings_sheet import settings_sheet
from lodestaff.commissioning.snags import open_snags
from lodestaff.commissioning.step import Step
from lodestaff.commissioning.words import bounds_words, conditions_words, reading_words
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.commission.card import StepCard
from lodestaff.desktop.stations.commission.left_over import LeftOtherwise, Snags
from lodestaff.desktop.stations.commission.live import LiveStrip
from lodestaff.desktop.stations.commission.proof_diagram import ProofDiagram
from lodestaff.desktop.stations.commission.string_page import StringPage, string_rows
from lodestaff.desktop.stations.commission.strip import StepStrip
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Table, words
from lodestaff.reckoning.findings import site_findings
from lodestaff.reckoning.proof_readings import commission_readings
from lodestaff.reckoning.readings import Reading


class _Scroller(QScrollArea):
    """Page Up and Page Down are the station's: they go through the steps. The focus is the step's."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            event.ignore()
        else:
            super().keyPressEvent(event)


class _Framed(QWidget):
    """The strip above the step. The focus is the step's."""

    def __init__(self, card: StepCard) -> None:
        super().__init__()
        self.card = card

    def setFocus(self, *reason: object) -> None:
        self.card.first().setFocus()


class CommissionStation(StationView):
    """One step at a time. A pass goes on to the next open step; anything else stays."""

    id = "commission"
    hint = (
        "Proven parts are solid, unproven grey. Page Up and Page Down go through the steps; readings "
        "are in the journal at once."
    )

    def __init__(self, store: Store) -> None:
        self.at = ""  # the step in view
        super().__init__(store)
        self.split.setOrientation(Qt.Orientation.Horizontal)
        self.lay(self._make_drawing(), self._make_table())
        store.site.live_changed.connect(self.live.refresh)
        store.site.taken.connect(self._taken)

    def _make_drawing(self) -> QWidget:
        self.card, self.diagram, self.live = StepCard(), ProofDiagram(self.store), LiveStrip(self.store)
        self.site = QWidget()
        column = QVBoxLayout(self.site)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.live)
        column.addWidget(self.diagram, 1)
        whole = QSplitter(Qt.Orientation.Horizontal)
        whole.setChildrenCollapsible(False)
        whole.addWidget(self.card)
        whole.addWidget(self.site)
        whole.setSizes([430, 410])
        self.diagram.least = (240, 170)
        whole.setObjectName("surface")
        whole.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        scroller = _Scroller()  # large text scrolls; nothing is squeezed
        scroller.setWidgetResizable(True)
        scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroller.setWidget(whole)
        self.strip = StepStrip()
        self.strip.chosen.connect(self._go_to_id)
        framed = _Framed(self.card)
        column = QVBoxLayout(framed)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.strip)
        column.addWidget(scroller, 1)
        self.card.recorded.connect(self._record)
        self.card.take_wanted.connect(self.take)
        self.card.write_wanted.connect(self._write)
        self.card.step_wanted.connect(self._go)
        self.card.withdrawn.connect(self._withdraw)
        for part in (self.card, self.live):
            part.complained.connect(self._complain)
        self.diagram.asked.connect(self._go_to_part)
        return framed

    def _make_table(self) -> QWidget:
        """All steps, the strings on one page, and what the day leaves over."""
        store, who = self.store, self.card.who
        self.strings = StringPage(who, self._record, self._complain)
        self.snags, self.otherwise = Snags(store, who), LeftOtherwise(store, who)
        self.snags.complained.connect(self._complain)
        self.tabs = QTabWidget()
        for page, name in (
            (self._make_steps(), "Steps"),
            (self.strings, "Strings"),
            (self.snags, "Snags"),
            (self.otherwise, "As left"),
        ):
            self.tabs.addTab(page, name)
        return self.tabs

    def _complain(self, words: str) -> None:
        self.store.trouble.emit("commission", words)

    def _make_steps(self) -> QWidget:
        self.steps: Table[StepResult] = Table(
            "Steps of the procedure",
            (
                words("Step", lambda row: row.step.text, tip=lambda row: row.step.text, wide=True),
                words("Reading", reading_words, tip=reading_words),
                words("Passes", _passes, tip=_passes),
                words("Measured beside it", lambda row: conditions_words(row.reading)),
                words("Verdict", lambda row: str(row.status), tip=lambda row: row.judgement.words),
                words("By", lambda row: row.reading.by if row.reading else ""),
            ),
        )
        self.steps.setSelectionBehavior(Table.SelectionBehavior.SelectRows)
        self.steps.came_to.connect(self._go_to_step)
        return self.steps

    def _show_table(self, shown: bool) -> None:
        """The table takes the place of the site: it is its equal."""
        super()._show_table(shown)
        if shown:
            self.split.setSizes([self.split.width() // 2, self.split.width() // 2])
        self.site.setVisible(not shown)
        self.refresh()

    @property
    def step(self) -> Step | None:
        """The step in view."""
        return self.card.result.step if self.card.result is not None else None

    # --- where one is ------------------------------------------------------------------------------------
    def proof(self) -> Proof | None:
        """The procedure as the journal leaves it."""
        job = self.store.job
        return (
            self.store.site.proof(job, self.store.reckoner.wiring(job).topology) if job is not None else None
        )

    def _present(self, proof: Proof) -> StepResult | None:
        outcome = next((result for result in proof.results if result.step.id == self.at), None)
        return outcome or proof.first_open or next(iter(proof.results), None)

    def _go(self, step: int) -> None:
        proof = self.proof()
        if proof is None or not proof.results:
            return
        ids = [result.step.id for result in proof.results]
        here = ids.index(self.at) if self.at in ids else 0
        self.at = ids[min(len(ids) - 1, max(0, here + step))]
        self.refresh()

    def _go_to_step(self, result: StepResult) -> None:
        self._go_to_id(result.step.id)

    def _go_to_id(self, step: str) -> None:
        if step != self.at:
            self.at = step
            self.refresh()

    def _go_to_part(self, part: str) -> None:
        """To the first step of a part that is not passed, else its first."""
        proof = self.proof()
        steps = (
            [result for result in proof.results if part in result.step.proves] if proof is not None else []
        )
        if steps:
            good = (Status.PASSED, Status.DOUBTFUL)
            self.at = next((step for step in steps if step.status not in good), steps[0]).step.id
            self.refresh()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        move = {Qt.Key.Key_PageUp: -1, Qt.Key.Key_PageDown: 1}.get(Qt.Key(event.key()))
        if move is not None:
            self._go(move)
        else:
            super().keyPressEvent(event)

    # --- recording ---------------------------------------------------------------------------------------
    def _record(self, reading: SiteReading) -> None:
        """Into the journal; only what is on disk is acknowledged."""
        proof = self.proof()
        step = (
            next((result.step for result in proof.results if result.step.id == reading.step), None)
            if proof
            else None
        )
        if step is None or not self.store.site.record_reading(step, reading):
            return
        self.store.settled.emit("commission")
        self.card.forget_draft(reading.step)
        after = self.proof()
        good = (Status.PASSED, Status.DOUBTFUL)
        moved_on = after is not None and (after.result(reading.step).status in good or bool(reading.put_off))
        if moved_on and after is not None and self.at == reading.step:
            later = [result.step.id for result in after.results]
            rest = after.results[later.index(reading.step) + 1 :]
            ahead = next(
                (result for result in rest if result.status not in good and not result.step.needs), None
            )
            following = ahead or after.first_open
            self.at = following.step.id if following else reading.step
        self.refresh()
        self.reckoning_changed.emit()

    def take(self, simulated: bool) -> None:
        proof = self.proof()
        present = self._present(proof) if proof else None
        if present is not None:
            self.store.site.take(present.step, self.card.who.name, simulated)

    def _taken(self, reading: SiteReading) -> None:
        self._record(reading)
        if reading.state:
            self.store.trouble.emit("commission", f"No reading over the link: {reading.state}.")

    def _write(self) -> None:
        """Write the step's setting, then take it back as the reading."""
        proof = self.proof()
        present = self._present(proof) if proof else None
        job = self.store.job
        if present is None or job is None:
            return
        measure = present.step.measure
        setting = next(
            setting
            for setting in settings_sheet(job, self.store.reckoner.wiring(job).topology)
            if (setting.unit, setting.key) == (measure.unit, measure.subject)
        )
        value: Any = setting.numbers if len(setting.numbers) > 1 else setting.numbers[0]
        if setting.key == "clock":
            from lodestaff.desktop.site_record import wall_clock

            visit = self.store.site.visit
            value = visit.plant.right_clock() if visit else wall_clock(job)
        elif setting.key == "mode":
            value = setting.value

        def told(written: Any) -> None:
            if not written.equal:
                self.store.trouble.emit(
                    "commission", f"{setting.name} is not held as it was written: {written.state}."
                )
            self.store.site.record(
                "setting", f"{setting.name}: wrote {setting.shown}; {written.state}", self.card.who.name
            )
            self.store.site.take(present.step, self.card.who.name, False)

        self.store.site.write_setting(setting.unit, setting.key, value, told)

    def _withdraw(self) -> None:
        proof = self.proof()
        present = self._present(proof) if proof else None
        if present is not None and present.entry is not None:
            words = f"Withdrawn: {present.step.text}"
            self.store.site.record("correction", words, self.card.who.name, corrects=present.entry)
            self.refresh()
            self.reckoning_changed.emit()

    # --- showing -------------------------------------------------------------------------------------------
    def readings(self) -> list[Reading]:
        proof = self.proof()
        return commission_readings(proof) if proof else []

    def findings(self) -> list[Finding]:
        proof = self.proof()
        return list(site_findings(proof)) if proof else []

    def note(self) -> str:
        job = self.store.job
        return job.pack.caution("licence") if job else ""

    def refresh(self) -> None:
        proof, job = self.proof(), self.store.job
        if proof is None or job is None:
            return
        self.card.who.show_register(self.store.site.register)
        present = self._present(proof)
        if present is not None:
            self.at = present.step.id
            number = [result.step.id for result in proof.results].index(self.at) + 1
            site = self.store.site
            self.card.show_step(present, number, len(proof.results), site.connected, site.visit is not None)
        named = frozenset(name for result in proof.results for name in result.step.proves)
        self.diagram.refresh()
        step = present.step if present is not None else None
        topology = self.store.reckoner.wiring(job).topology
        self.diagram.show_proof(
            proof.proven(),
            named,
            frozenset(step.proves if step is not None else ()),
            places(job, topology, step) if step is not None else (),
        )
        self.live.refresh()
        self.strip.show_steps(proof.results, self.at)
        self._fill(proof)

    def _fill(self, proof: Proof) -> None:
        job = self.store.job
        if job is not None and self.tabs.isVisible():
            self.strings.show_rows(string_rows(job, proof, self.strings.lights))
            self.snags.step = self.at
            self.snags.refresh()
            self.otherwise.refresh()
            count = len(open_snags(self.store.site.entries))
            self.tabs.setTabText(2, f"Snags · {count}" if count else "Snags")
            left = len(self.otherwise.list.rows)
            self.tabs.setTabText(3, f"As left · {left}" if left else "As left")
        self.steps.show_rows(proof.results)
        self.steps.go_to(
            next((row for row, result in enumerate(proof.results) if result.step.id == self.at), 0)
        )


def _passes(result: StepResult) -> str:
    return bounds_words(result.judgement.expected) if result.judgement.expected else ""
