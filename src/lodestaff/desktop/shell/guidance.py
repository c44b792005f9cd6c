"""What leads a person: help on what is in view, the tour, the finder, a finding shown where it stands, the
presentation for a customer."""

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QApplication, QWidget

from lodestaff.checks import Finding
from lodestaff.desktop.language import choose_language
from lodestaff.desktop.shell.finder import Finder
from lodestaff.desktop.shell.finding_cards import CauseCard
from lodestaff.desktop.shell.frame import Frame
from lodestaff.desktop.shell.tour import Stop, Tour
from lodestaff.desktop.shell.underway import UnderwayStrip
from lodestaff.desktop.theme import set_text_scale, text_scale
from lodestaff.reckoning.findings import station_of

PRESENTED = 1.35  # how much larger words are for a customer


class Guidance(QObject):
    """Made once, with its window."""

    def __init__(self, parent: QWidget, window: Frame) -> None:
        super().__init__(parent)
        self.whole, self.window = parent, window
        self.finder: Finder | None = None
        self.underway = UnderwayStrip(parent)
        self.tour = Tour()
        self.tour.stopped_at.connect(self._stop_at)
        self.tour.ended.connect(self._end_tour)
        self.presenting, self.scale_before = False, 1.0

    def find(self) -> None:
        """Open the finder."""
        from lodestaff.desktop.shell.finder_entries import all_entries

        finder = Finder(all_entries(self.window, self.show_finding), self.whole)
        finder.move(self.whole.rect().center().x() - finder.width() // 2, 90)
        finder.show()
        finder.raise_()
        finder.line.setFocus()
        self.finder = finder

    # --- help ----------------------------------------------------------------------------------------
    def help_here(self) -> None:
        """Help on what has the focus or is in view: a check, a step, a page, a station."""
        window = self.window
        finding = self._finding_in_view()
        if finding is not None:
            window.side.open_help(f"check {finding.code}")
        elif words := self._step_words():
            window.side.open_help(words=words)
        else:
            window.side.open_help(self._chapter())

    def _finding_in_view(self) -> Finding | None:
        """The finding that has the focus, or whose working is open."""
        focus = QApplication.focusWidget()
        if isinstance(focus, CauseCard):
            return focus.cause.worst
        return self.window.reckoning.finding_in_working()

    def _step_words(self) -> str:
        """The entry of the step in view, at Commission."""
        from lodestaff.desktop.help.entries import step_entry

        window = self.window
        station = window.stations.get("commission")
        if station is None or window.pages.currentWidget() is not station:
            return ""
        step = getattr(station, "step", None)
        return step_entry(step) if step is not None else ""

    def _chapter(self) -> str:
        window, page = self.window, self.window.pages.currentWidget()
        side = window.side
        named = {
            side.backups: "backups",
            side.meter: "meter",
            side.parts: "equipment",
            side.findings: "findings",
            side.roof: "array",
            side.standings: "place",
            side.merging: "files",
        }
        for widget, chapter in named.items():
            if widget is not None and page is widget:
                return chapter
        return window.station if page is window.stations.get(window.station) else "start"

    # --- the tour ------------------------------------------------------------------------------------
    def begin_tour(self) -> None:
        """Open the demo and begin."""
        if self.window.store.changed:
            self.window.notices.show_notice("tour", "Save the job first: the tour opens the demo.")
            return
        self.window.files.open_demo()
        self.tour.go(0)

    def _stop_at(self, stop: Stop) -> None:
        if self.window.store.job is None:
            return
        self.window.go(stop.station)
        self.window.store.set_moment(grid=stop.grid)
        self.tour.next.setFocus()

    def _end_tour(self) -> None:
        self.tour.hide()
        self.window.store.set_moment(grid=True)
        self.window.go(self.window.station)

    # --- findings, customers, pictures -----------------------------------------------------------
    def show_finding(self, finding: Finding) -> None:
        """Go to where a finding stands and open its working."""
        self.window.go(station_of(finding.code))
        self.window.reckoning.open_working(finding)

    def copy_drawing(self) -> None:
        """The drawing in view on the clipboard, as SVG, as pixels and as a table."""
        from lodestaff.desktop.pictures import picture_of
        from lodestaff.desktop.stations.surface import Surface

        page, job = self.window.pages.currentWidget(), self.window.store.job
        surfaces = page.findChildren(Surface) if page is not None else []
        shown = [surface for surface in surfaces if surface.isVisible()]
        if shown and job is not None:
            largest = max(shown, key=lambda surface: surface.width() * surface.height())
            QApplication.clipboard().setMimeData(picture_of(largest, job.title))
            words = f"{largest.accessibleName()}: on the clipboard, as SVG, as pixels, as a table."
            self.window.notices.show_notice("copied", words)

    def speak(self, language: str) -> None:
        """Speak a language from now on: what stands there is made anew."""
        window = self.window
        choose_language(language)
        window.files.change_settings(language=language)
        window.leave_stations()
        if window.store.job is not None:
            window.go(window.station)

    def present(self) -> None:
        """Big words, figures without the findings and their codes; the same again ends it."""
        window = self.window
        self.presenting = not self.presenting
        if self.presenting:
            self.scale_before = text_scale()
            set_text_scale(self.scale_before * PRESENTED)
        else:
            set_text_scale(self.scale_before)
        window.reckoning.show_findings_too(not self.presenting)
        window.state_line.setVisible(not self.presenting)
        for station in window.stations.values():
            if self.presenting:
                station.words.hide()
            else:
                station.explain(station.words.text())
        window.restyle()
