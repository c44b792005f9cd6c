"""The window: staff at the left, moment above, the station in the middle, the reckoning at the right."""

from __future__ import annotations

from functools import partial
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, Qt
from PySide6.QtGui import QCloseEvent, QGuiApplication, QIcon, QPixmap
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from lodestaff.desktop.actions import STATIONS
from lodestaff.desktop.language import LANGUAGES, choose_language, tr
from lodestaff.desktop.settings import load_settings
from lodestaff.desktop.shell.menus import Doing, Menus
from lodestaff.desktop.shell.notices import Notices
from lodestaff.desktop.shell.staff import Staff
from lodestaff.desktop.shell.welcome import Welcome
from lodestaff.desktop.theme import current, font, look_of, set_look, set_text_scale, text_scale
from lodestaff.desktop.theme.style import sheet
from lodestaff.quantities.errors import OurError
from lodestaff.quantities.faults import write_trace

if TYPE_CHECKING:
    from lodestaff.checks import Remedy
    from lodestaff.desktop.stations.base import StationView
    from lodestaff.desktop.store import Store

EXPLAINED = 3  # starts of the program in which a station shows its hint
USUAL_DPI = 96  # at which the system's own words aren't enlarged
MOST_LISTED = 30  # steps in the menu of those that can be taken back
FIRST_STATION = "loads"


def make_station(name: str, store: Store) -> StationView:
    """A station's view, imported when it is first needed."""
    module = import_module(f"lodestaff.desktop.stations.{name}.station")
    made: StationView = getattr(module, f"{name.capitalize()}Station")(store)
    return made


class Window(QMainWindow):
    """One window, one job.

    The frame (staff and first screen) needs nothing but Qt and is painted at once; `fill` then brings
    the store and everything that computes. With `at_once` both are done here.
    """

    def __init__(self, at_once: bool = True) -> None:
        super().__init__()
        self.settings_at_start = load_settings()
        choose_language(self.settings_at_start.language)
        set_look(self.settings_at_start.look or look_of(QGuiApplication.styleHints().colorScheme()))
        set_text_scale(self.settings_at_start.text_scale or self.logicalDpiY() / USUAL_DPI)
        self.stations: dict[str, StationView] = {}
        self.station = ""
        self.filled = False
        self._build_frame()
        self.setStyleSheet(sheet(current()))
        self.resize(1280, 800)
        self.setMinimumSize(1024, 700)
        self.restoreGeometry(QByteArray.fromBase64(self.settings_at_start.window.encode()))
        self.welcome.show_recent(self.settings_at_start.recent, self.settings_at_start.states)
        if at_once:
            self.fill()

    def _build_frame(self) -> None:
        self.staff, self.notices, self.welcome = Staff(), Notices(), Welcome()
        self.pages = QStackedWidget()
        self.pages.addWidget(self.welcome)
        self.state_line = QLabel("")
        self.state_line.setObjectName("soft")
        self.state_line.setWordWrap(True)
        self.state_line.setContentsMargins(20, 1, 20, 2)
        self.middle, self.right = QHBoxLayout(), QVBoxLayout()
        self.middle.setSpacing(0)
        self.middle.addWidget(self.pages, 1)
        self.right.setSpacing(0)
        self.right.addWidget(self.notices)
        self.right.addLayout(self.middle, 1)
        self.right.addWidget(self.state_line)
        whole = QWidget()
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.staff)
        row.addLayout(self.right, 1)
        self.setCentralWidget(whole)
        icon = QPixmap()
        icon.loadFromData(QByteArray(_icon()), "SVG")
        self.setWindowIcon(QIcon(icon))

    def fill(self) -> None:
        """Bring the store, the moment, the reckoning and the actions. Done once."""
        if self.filled:
            return
        from lodestaff.desktop.shell.dropping import Dropping
        from lodestaff.desktop.shell.files import Files
        from lodestaff.desktop.shell.guidance import Guidance
        from lodestaff.desktop.shell.moment_bar import MomentBar
        from lodestaff.desktop.shell.reckoning import Reckoning
        from lodestaff.desktop.shell.sharing import Sharing
        from lodestaff.desktop.shell.side_pages import SidePages
        from lodestaff.desktop.store import Store

        self.filled = True
        self.store = Store(self)
        self.bar, self.reckoning = MomentBar(self.store), Reckoning()
        self.right.insertWidget(0, self.bar)
        self.middle.addWidget(self.reckoning)
        self.reckoning.hide()
        self.files = Files(self, self.store, self.notices, self.settings_at_start)
        self.sharing = Sharing(self.files, self.store, self.notices)
        self.side = SidePages(self, self.store, self.pages, self.notices)
        self.side.closed.connect(self._back_from_side)
        self.side.wide.connect(self.reckoning.hide)
        self.side.begun.connect(self.files.begin)
        self.pages.currentChanged.connect(self._page_changed)
        self.dropping = Dropping(self, self)
        self.guidance = Guidance(self, self)
        self.right.insertWidget(1, self.guidance.tour)
        self.menus = Menus(self, self._doing(), self.go)
        self.actions_by_id = self.menus.actions
        self.menus.submenu("Job", "Recent jobs", self._fill_recent)
        self.menus.submenu("Edit", "Undo several steps", self._fill_steps)
        self._connect()
        self.restyle()
        self._saved_changed()
        self.files.offer_rescued()

    def _doing(self) -> Doing:
        """What each action does."""
        return {
            "new": self.side.open_new,
            "open": self.files.browse,
            "demo": self.files.open_demo,
            "save": self.files.save,
            "save-as": self.files.save_as,
            "print": self.files.print_pack,
            "report": self.files.report,
            "labels": self.files.labels,
            "compare": self.files.browse_other,
            "compare-saved": self.files.compare_saved,
            "parts": self.side.open_parts,
            "backups": self.side.open_backups,
            "meter": self.side.open_meter,
            "roof": self.side.open_roof,
            "standings": self.side.open_standings,
            "merge": self.side.open_merging,
            "own-pack": self.files.browse_pack,
            "newer-pack": self.side.offer_edition,
            "quit": self.close,
            "undo": self.store.undo,
            "redo": self.store.redo,
            "copy-figure": self.reckoning.copy_working,
            "copy-drawing": self.guidance.copy_drawing,
            "find": self.guidance.find,
            "findings": self.side.open_findings,
            "stop": self.guidance.underway.halt,
            "table": self.toggle_table,
            "look-day": lambda: self.choose_look("day"),
            "look-dusk": lambda: self.choose_look("dusk"),
            "look-full sun": lambda: self.choose_look("full sun"),
            **{f"language-{code}": partial(self.guidance.speak, code) for code in LANGUAGES},
            "text-larger": lambda: self.scale_text(0.1),
            "text-smaller": lambda: self.scale_text(-0.1),
            "full-screen": lambda: self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen),
            "present": self.guidance.present,
            "grid": lambda: self.store.set_moment(grid=not self.store.moment.grid),
            "hour-later": lambda: self._turn_hour(0.25),
            "hour-earlier": lambda: self._turn_hour(-0.25),
            "month-later": lambda: self._turn_month(1),
            "month-earlier": lambda: self._turn_month(-1),
            "help": self.guidance.help_here,
            "guide": self.side.open_help,
            "tour": self.guidance.begin_tour,
            "words": lambda: self.side.open_help("words"),
            "news": lambda: self.side.open_help("news"),
            "about": lambda: self.side.open_help("about"),
        }

    def _fill_recent(self, menu: QMenu) -> None:
        """The recent jobs that are still there."""
        for path in self.files.recent():
            menu.addAction(path.name, partial(self.files.open_path, path)).setToolTip(str(path))

    def _fill_steps(self, menu: QMenu) -> None:
        """The steps that can be taken back, the last one first; a click takes back all down to it."""
        names = self.store.history.done_names if self.store.history else ()
        for count, name in enumerate(names[:MOST_LISTED], start=1):
            menu.addAction(name, partial(self.store.undo, count))

    def _connect(self) -> None:
        store = self.store
        store.job_changed.connect(self._job_changed)
        store.saved_changed.connect(self._saved_changed)
        for signal in (
            store.results_changed,
            store.preview_changed,
            store.state_changed,
            store.moment_changed,
            store.site.changed,
        ):
            signal.connect(self._refresh)
        store.trouble.connect(self.notices.show_notice)
        store.settled.connect(self.notices.settle)
        store.unexpected.connect(self.our_fault)
        self.staff.chosen.connect(self.go)
        self.reckoning.remedy_chosen.connect(self.apply)
        self.side.finding_chosen.connect(self.guidance.show_finding)
        self.welcome.tour.connect(self.guidance.begin_tour)
        self.welcome.fault.connect(self.our_fault)
        self.welcome.fill()
        self.welcome.demo.connect(self.files.open_demo)
        self.welcome.new.connect(self.side.open_new)
        self.welcome.sample.connect(self.files.open_sample)
        self.welcome.browse.connect(self.files.browse)
        self.welcome.recent.connect(lambda path: self.files.open_path(Path(path)))

    # --- ending ------------------------------------------------------------------------------------
    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.filled:
            super().closeEvent(event)
            return
        if (focus := QApplication.focusWidget()) is not None:
            focus.clearFocus()  # what is being typed is taken before it is asked whether all is saved
        if self.store.changed and not self.files.leaving:
            event.ignore()
            self.files.ask_before_closing()
            return
        splits = {name: station.split_now() for name, station in self.stations.items()}
        self.files.keep_view(self.saveGeometry(), splits)
        self.leave_stations()
        self.side.close()
        self.welcome.samples.stop()
        self.store.close()
        super().closeEvent(event)

    def our_fault(self, error: BaseException) -> None:
        """A fault of the program: rescue the work first, then keep the trace, then say so."""
        kept = self.store.rescue.write_now() if self.filled else False
        trace = write_trace(error, aloud=True)
        words = f"{OurError(type(error).__name__ + ': ' + str(error) + '.')}"
        words += " Your work is in the rescue file." if kept else ""
        self.notices.show_notice("fault", f"{words} The trace: {trace}." if trace else words)

    # --- showing ------------------------------------------------------------------------------------
    def go(self, name: str) -> None:
        """Go to a station."""
        if self.store.job is None:
            return
        if name not in self.stations:
            self.stations[name] = make_station(name, self.store)
            self.pages.addWidget(self.stations[name])
            self.stations[name].reckoning_changed.connect(self._refresh)
            self.stations[name].action_wanted.connect(lambda action: self.actions_by_id[action].trigger())
            self.stations[name].kept_split = self.files.settings.splits.get(name, [])
            self._explain(name)
        self.station = name
        self.store.in_view, self.store.with_promise = name, name == "loads"
        self.staff.show_station(name)
        self.pages.setCurrentWidget(self.stations[name])
        self._page_changed()
        self.reckoning.show()
        self.reckoning.setCurrentIndex(0)
        self._refresh()
        self.stations[name].drawing.setFocus()

    def leave_stations(self) -> None:
        """End all stations: those that are gone to again are made anew."""
        for station in self.stations.values():
            station.close_station()
            self.pages.removeWidget(station)
            station.deleteLater()
        self.stations.clear()

    def _explain(self, name: str) -> None:
        """Hints stand on the first visits to a station; each start counts once."""
        visits = self.files.settings.visits
        self.stations[name].explains = visits.get(name, 0) < EXPLAINED
        self.stations[name].explain(self.stations[name].words.text())
        self.files.change_settings(visits={**visits, name: visits.get(name, 0) + 1})

    def _page_changed(self) -> None:
        """The bar names the station in view; pages beside the stations bear their own title."""
        aside = self.pages.currentWidget() is not self.stations.get(self.station)
        name = next((row.name for row in STATIONS if row.id == self.station), "")
        self.bar.show_station("" if aside else tr(name))

    def _back_from_side(self) -> None:
        """To the station, or to the first screen where no job is open."""
        if self.store.job is None:
            self.pages.setCurrentWidget(self.welcome)
        else:
            self.go(self.station)

    def _job_changed(self) -> None:
        if self.store.job is not None and self.pages.currentWidget() is self.side.new:
            self.go("site")  # a job that begins, begins with what is still to read
            site = self.stations["site"]
            site.walk()  # type: ignore[attr-defined]
        elif not self.station:
            self.go(FIRST_STATION)
        self._refresh()

    def _saved_changed(self) -> None:
        store = self.store
        self.staff.show_job(store.job.title if store.job else "", store.changed)
        name = f"{store.job.title}{' (unsaved)' if store.changed else ''} · " if store.job else ""
        self.setWindowTitle(f"{name}Lodestaff")
        history = store.history
        self.menus.show_history(history, store.job is not None)
        self.staff.setToolTip(f"Undo: {history.undo_name}" if history and history.undo_name else "")

    def _refresh(self) -> None:
        """Show the store anew: the current station only; the others when they are gone to."""
        self.state_line.setText(self._state_words())
        from lodestaff.checks.finding import ORDER
        from lodestaff.desktop.shell.worst import read_by_station, worst_by_station

        station = self.stations.get(self.station)
        if station is None or self.store.job is None:
            return
        station.refresh()
        if self.store.results is not None:
            self.staff.show_worst(worst_by_station(self.store), read_by_station(self.store))
            if self.reckoning.currentIndex() == 0:
                findings = sorted(
                    station.findings(), key=lambda finding: (ORDER.index(finding.verdict), not finding.open)
                )
                self.reckoning.show_figures(
                    station.readings(), findings, station.readings_before(), station.note(), self.store.job
                )

    def _state_words(self) -> str:
        job = self.store.job
        if job is None:
            return ""
        asked = f"permission {job.site.permission.state}" if job.mains.grid else "no grid"
        return f"{job.pack.title} · {job.site.place} · {asked} · Ctrl+K finds a command"

    def apply(self, remedy: Remedy) -> None:
        self.store.edit(remedy.name, *remedy.changes)

    def toggle_table(self) -> None:
        station = self.stations.get(self.station)
        if station is not None:
            station.table_button.toggle()

    def choose_look(self, name: str, keep: bool = True) -> None:
        """Put a look on; `keep` remembers it for the next start."""
        set_look(name)
        if keep:
            self.files.change_settings(look=current().name)
        self.restyle()

    def scale_text(self, step: float) -> None:
        set_text_scale(text_scale() + step)
        self.files.change_settings(text_scale=text_scale())
        self.restyle()

    def restyle(self) -> None:
        """Put the look and the text scale on everything."""
        self.setFont(font("text"))
        self.setStyleSheet(sheet(current()))
        self.staff.updateGeometry()
        if self.filled:
            self.reckoning.setFixedWidth(min(380, round(280 * max(1.0, text_scale() * 0.85))))
            if self.store.job is None:
                self.welcome.show_recent(self.files.settings.recent, self.files.settings.states)
            self.bar.refresh()
            self._refresh()
        for widget in self.findChildren(QWidget):
            widget.update()

    def _turn_hour(self, step: float) -> None:
        self.store.set_moment(hour=(self.store.moment.hour + step) % 24)

    def _turn_month(self, step: int) -> None:
        self.store.set_moment(month=(self.store.moment.month - 1 + step) % 12 + 1)


def _icon() -> bytes:
    from importlib import resources

    return (resources.files("lodestaff") / "assets" / "icons" / "lodestaff.svg").read_bytes()
