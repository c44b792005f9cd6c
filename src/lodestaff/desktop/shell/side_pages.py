"""Pages that take the station's place for a while: a new job, a comparison, the shelf. Each is made when it
is first needed."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QStackedWidget

from lodestaff.desktop.shell.notices import Notices
from lodestaff.desktop.store import Store

if TYPE_CHECKING:
    from lodestaff.desktop.backups.page import BackupsPage
    from lodestaff.desktop.begin.page import NewJobPage
    from lodestaff.desktop.findings.page import FindingsPage
    from lodestaff.desktop.help.page import HelpPage
    from lodestaff.desktop.merging.page import MergePage
    from lodestaff.desktop.meter.page import MeterPage
    from lodestaff.desktop.parts.page import PartsPage
    from lodestaff.desktop.roof_choices.page import RoofChoicesPage
    from lodestaff.desktop.shell.comparison import Comparison
    from lodestaff.desktop.shell.side_page import SidePage
    from lodestaff.desktop.standings.page import StandingsPage
    from lodestaff.job import Change
    from lodestaff.reckoning.compare import Row
    from lodestaff.shelf import Entry


class SidePages(QObject):
    """Opens, shows and closes them; what a comparison offers is taken here, as one named step."""

    closed = Signal()
    wide = Signal()  # a page that wants the room of the reckoning
    begun = Signal(object)  # a new job
    finding_chosen = Signal(object)

    def __init__(self, parent: QObject, store: Store, pages: QStackedWidget, notices: Notices) -> None:
        super().__init__(parent)
        self.store, self.pages, self.notices = store, pages, notices
        self.comparison: Comparison | None = None
        self.parts: PartsPage | None = None
        self.new: NewJobPage | None = None
        self.backups: BackupsPage | None = None
        self.meter: MeterPage | None = None
        self.findings: FindingsPage | None = None
        self.help: HelpPage | None = None
        self.roof: RoofChoicesPage | None = None
        self.standings: StandingsPage | None = None
        self.merging: MergePage | None = None
        self._offered: tuple[str, tuple[Change, ...]] | None = None
        self._from_parts = False  # whether the offer in view came from the shelf
        store.compared.connect(self._compared)
        store.job_changed.connect(self._follow)

    def _add(self, page: SidePage | NewJobPage | PartsPage) -> None:
        """A page that was made: its way back leads to the station."""
        page.closed.connect(self.closed)
        self.pages.addWidget(page)

    def _bring(self, page: SidePage | NewJobPage) -> None:
        """A page into view, with the room of the figures."""
        self.pages.setCurrentWidget(page)
        self.wide.emit()

    def _open(self, page: SidePage) -> None:
        """A page into view, asking for its figures."""
        self._bring(page)
        page.open()

    def open_new(self) -> None:
        """A new job; needs none that is open."""
        if self.new is None:
            from lodestaff.desktop.begin.page import NewJobPage

            self.new = NewJobPage(self.store)
            self._add(self.new)
            self.new.begun.connect(self.begun)
        self._bring(self.new)
        self.new.open()

    def open_backups(self) -> None:
        """Ways of backup side by side."""
        if self.store.job is None:
            return
        if self.backups is None:
            from lodestaff.desktop.backups.page import BackupsPage

            self.backups = BackupsPage(self.store)
            self._add(self.backups)
        self._open(self.backups)

    def open_meter(self) -> None:
        """Interval data of the meter."""
        if self.store.job is None:
            return
        if self.meter is None:
            from lodestaff.desktop.meter.page import MeterPage

            self.meter = MeterPage(self.store)
            self._add(self.meter)
        self._open(self.meter)

    def open_roof(self) -> None:
        """Arrangements of the roof's modules, and families."""
        if self.store.job is None:
            return
        if self.roof is None:
            from lodestaff.desktop.roof_choices.page import RoofChoicesPage

            self.roof = RoofChoicesPage(self.store)
            self._add(self.roof)
        self._open(self.roof)

    def open_standings(self) -> None:
        """Ways to stand it all side by side."""
        if self.store.job is None:
            return
        if self.standings is None:
            from lodestaff.desktop.standings.page import StandingsPage

            self.standings = StandingsPage(self.store)
            self._add(self.standings)
        self._open(self.standings)

    def open_merging(self) -> None:
        """Another copy of the job, to be put together with this one."""
        if self.store.job is None:
            return
        if self.merging is None:
            from lodestaff.desktop.merging.page import MergePage

            self.merging = MergePage(self.store)
            self._add(self.merging)
        self._open(self.merging)

    def open_findings(self) -> None:
        """All findings of the job."""
        if self.store.job is None:
            return
        if self.findings is None:
            from lodestaff.desktop.findings.page import FindingsPage

            self.findings = FindingsPage(self.store)
            self._add(self.findings)
            self.findings.chosen.connect(self.finding_chosen)
            self.store.results_changed.connect(self.findings.follow)
        self._bring(self.findings)
        self.findings.open()

    def open_help(self, key: str = "start", words: str = "") -> None:
        """A chapter of the help, or words of its own."""
        if self.help is None:
            from lodestaff.desktop.help.page import HelpPage

            self.help = HelpPage(lambda: self.store.results.findings if self.store.results else ())
            self._add(self.help)
        self._bring(self.help)
        if words:
            self.help.show_words(words)
        else:
            self.help.turn_to(key)

    def open_parts(self) -> None:
        """The shelf."""
        if self.store.job is None:
            return
        if self.parts is None:
            from lodestaff.desktop.parts.page import PartsPage

            self.parts = PartsPage(self.store)
            self._add(self.parts)
            self.parts.try_wanted.connect(self._try)
            self.parts.complained.connect(lambda words: self.notices.show_notice("shelf", words))
        self.pages.setCurrentWidget(self.parts)
        self.parts.open()

    def _try(self, old: str, entry: Entry) -> None:
        """Compare the job with the part replaced, off the window's thread."""
        from lodestaff.job import edit
        from lodestaff.quantities.errors import JobError
        from lodestaff.reckoning.compare import compare
        from lodestaff.shelf.replace import in_use, replacing

        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        try:
            changes = replacing(job, old, entry)
            made = edit(job, *changes)
        except JobError as trouble:
            self.notices.show_notice("shelf", f"{entry.name} can't take its place. {trouble}")
            return
        self.notices.settle("shelf")
        self._from_parts = True
        by_sheet, place = (entry.kind, old) in in_use(job), f" for {old}" if old else ""
        offered = (f"Replace {old} by {entry.id}" if by_sheet else f"Take {entry.id}{place}", changes)
        self.store.ask_compared(
            offered, lambda: compare(reckoner, job, reckoner, made), partial(self._try, old, entry)
        )

    def _follow(self) -> None:
        """The job has changed, by an edit or by undo: what is compared follows."""
        again = self.store.compared_again
        if (
            self.comparison is not None
            and self.pages.currentWidget() is self.comparison
            and again is not None
        ):
            again()

    def offer_edition(self) -> None:
        """The job with the newer edition of its rule pack, side by side with the job as it is."""
        from lodestaff.catalogue.editions import newer_edition
        from lodestaff.job import Change, edit
        from lodestaff.quantities.errors import JobError
        from lodestaff.reckoning.compare import compare

        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        newer = newer_edition(job.pack)
        if newer is None:
            self.notices.show_notice("edition", f"{job.pack.edition} is the edition that there is.")
            return
        change = Change("pack", newer.pack.model_dump(mode="json"))
        try:
            made = edit(job, change)
        except JobError as trouble:
            self.notices.show_notice("edition", f"{newer.pack.edition} can't be taken. {trouble}")
            return
        self.notices.settle("edition")
        offered = (f"Take {newer.pack.edition} in place of {job.pack.edition}", (change,))
        self.store.ask_compared(offered, lambda: compare(reckoner, job, reckoner, made), self.offer_edition)

    def _compared(self, what: str | tuple[str, tuple[Change, ...]], rows: tuple[Row, ...]) -> None:
        """A comparison is there: show it in the station's place."""
        from lodestaff.desktop.shell.comparison import Comparison

        if self.comparison is None:
            self.comparison = Comparison()
            self.comparison.closed.connect(self._back)
            self.comparison.taken.connect(self._take)
            self.pages.addWidget(self.comparison)
        self._offered = what if isinstance(what, tuple) else None
        a, b = ("this job", what[0]) if isinstance(what, tuple) else (what, "this job")
        self.comparison.show_rows(rows, a, b, self._offered is not None)
        self.pages.setCurrentWidget(self.comparison)

    def _take(self) -> None:
        if self._offered is not None:
            name, changes = self._offered
            self._offered, self._from_parts, self.store.compared_again = None, False, None
            self.store.edit(name, *changes)
            self.closed.emit()

    def _back(self) -> None:
        """From an offer back to the shelf, else to the station."""
        offered, self._offered = self._offered, None
        if offered is not None and self._from_parts:
            self._from_parts = False
            self.open_parts()
        else:
            self.closed.emit()

    def close(self) -> None:
        if self.meter is not None:
            self.meter.worker.stop()
        if self.parts is not None:
            self.parts.stop()
