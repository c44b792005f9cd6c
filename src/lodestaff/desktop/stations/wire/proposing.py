"""Cables proposed by the pack's tables: for all runs that have none, or for the run that was asked about."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QPushButton

from lodestaff.desktop.store import Store
from lodestaff.desktop.worker import Worker
from lodestaff.job import Job
from lodestaff.reckoning.cabling import Proposed, proposed, with_proposals

ALL, ONE = "Propose all", "Propose this run"


class Proposing(QObject):
    """A button; `words` say what was proposed and what is left, until another run is chosen."""

    said = Signal()

    def __init__(self, store: Store, parent: QObject) -> None:
        super().__init__(parent)
        self.store, self.run, self.words = store, "", ""
        self.button = QPushButton(ALL)
        self.button.clicked.connect(lambda: self._ask(self.run))
        self.worker = Worker(store.unexpected.emit, self)
        self.choose("")

    def choose(self, run: str) -> None:
        """The run that the button is for; '' for all that have none."""
        self.run, self.words = run, ""
        self.button.setText(ONE if run else ALL)
        self.button.setToolTip(
            "Size this run anew, from its length and way"
            if run
            else "Conductor, device and protective conductor for every run that has none"
        )

    def _ask(self, run: str) -> None:
        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return

        def search() -> tuple[Job, tuple[Proposed, ...]]:
            return job, proposed(reckoner, job, only=run)

        self.worker.ask("cables", search, self._arrived, lambda error: self._say(str(error)))

    def _arrived(self, answer: tuple[Job, tuple[Proposed, ...]]) -> None:
        job, proposals = answer
        if job is not self.store.job:
            self._say("The job has changed: propose again.")
            return
        words = [f"{proposal.run.name}: {proposal.why_not}." for proposal in proposals if proposal.why_not]
        taken = [proposal for proposal in proposals if proposal.cable is not None]
        names = ", ".join(proposal.run.name for proposal in taken)
        words += [finding.text for proposal in taken for finding in proposal.left]
        if not proposals:
            words = ["Every run has a cable; click one, and it can be sized anew."]
        elif taken:
            words.insert(0, f"Proposed for {len(taken)} run{'s' if len(taken) > 1 else ''}: {names}.")
        self._say(" ".join(words))
        if taken:
            self.store.edit(f"Propose {names}"[:120], *with_proposals(job, proposals))

    def _say(self, words: str) -> None:
        self.words = words
        self.said.emit()
