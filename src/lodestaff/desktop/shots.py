"""Pictures of the main views, taken from the demo job."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QApplication

from lodestaff.desktop.shell.window import Window
from lodestaff.desktop.stations.commission.station import CommissionStation
from lodestaff.desktop.stations.handover.station import HandoverStation
from lodestaff.desktop.stations.limits.station import LimitsStation
from lodestaff.desktop.stations.loads.station import LoadsStation
from lodestaff.desktop.stations.site.station import SiteStation
from lodestaff.desktop.stations.storage.map import MapView
from lodestaff.desktop.stations.storage.station import StorageStation
from lodestaff.job import Change, load_job
from lodestaff.quantities.errors import OurError
from lodestaff.register import load_register
from lodestaff.samples import DEMO, sample_path, samples_folder
from lodestaff.shelf.prices import load_prices, save_prices

SIZE = (1280, 800)
FAMILIES = ("larkmoor", "ludd-hall-annexe", "larch-fold-barn", "gannet-point-lodge", "tern-quay-boatshed")


class Shot(Protocol):
    """Saves a picture: of the window, or one that was made."""

    def __call__(self, name: str, picture: QPixmap | None = None) -> None: ...


PATIENCE_S = 120.0


def settle(app: QApplication, window: Window) -> None:
    """Run the event loop until the figures stand for the present job and moment, remedies costed."""
    store, until = window.store, time.monotonic() + PATIENCE_S
    while time.monotonic() < until:
        app.processEvents()
        results = store.results
        if (
            results is not None
            and results.deep
            and results.job == store.job
            and results.moment == store.moment
        ):
            break
        time.sleep(0.005)
    else:
        raise OurError("The figures did not come in time.")
    for _ in range(5):
        app.processEvents()


def take(app: QApplication, folder: Path) -> list[Path]:
    """Take every picture; returns the files written. Raises OSError where the folder refuses."""
    folder.mkdir(parents=True, exist_ok=True)
    window = Window()
    window.choose_look("day", keep=False)
    window.resize(*SIZE)
    window.show()
    written: list[Path] = []

    def shot(name: str, picture: QPixmap | None = None) -> None:
        path = folder / f"{name}.png"
        if not (picture or window.grab()).save(str(path)):
            raise OSError(5, "the picture was refused", str(path))
        written.append(path)

    _wait(app, lambda: all(card.drawing is not None for card in window.welcome.samples.cards))
    shot("welcome")
    window.files.open_demo()
    settle(app, window)
    shot("loads")
    window.store.set_moment(month=5)
    settle(app, window)
    loads = window.stations["loads"]
    assert isinstance(loads, LoadsStation)
    loads.day_button.setChecked(True)
    app.processEvents()
    shot("loads-day")
    loads.day_button.setChecked(False)
    window.store.set_moment(month=1)
    settle(app, window)
    window.go("site")
    settle(app, window)
    site = window.stations["site"]
    assert isinstance(site, SiteStation)
    site.show_row("site/supply/rating_a")
    app.processEvents()
    shot("site")
    window.go("array")
    window.store.set_moment(month=4, hour=9.5)
    settle(app, window)
    window.stations["array"].view.choose(("south-west", "m8"))  # type: ignore[attr-defined]
    app.processEvents()
    shot("array")
    window.store.set_moment(month=1, hour=18.75)
    settle(app, window)
    window.go("storage")
    storage = window.stations["storage"]
    assert isinstance(storage, StorageStation)
    _wait(app, lambda: not _map_of(window).stale and None not in (_map_of(window).sizes, storage.ride.rides))
    shot("storage")
    window.go("visits")
    settle(app, window)
    window.stations["visits"].view.choose(("cut-in", 1))  # type: ignore[attr-defined]
    app.processEvents()
    shot("visits")
    window.go("place")
    settle(app, window)
    window.stations["place"].view.choose("battery")  # type: ignore[attr-defined]
    app.processEvents()
    shot("place")
    _compare(app, window, shot)
    _side(app, window, shot)
    _shelf(app, window, shot)
    window.go("limits")
    window.store.set_moment(month=6, hour=13.0)
    settle(app, window)
    limits = window.stations["limits"]
    assert isinstance(limits, LimitsStation)
    _wait(app, lambda: limits.ranges.spread is not None)
    shot("limits")
    window.go("wire")
    settle(app, window)
    for state in window.store.states():
        if state.name == "island":
            window.store.set_state(state)
            settle(app, window)
            shot("wire-island")
    _site(app, window, shot)
    window.store.set_moment(grid=True, month=1, hour=18.75)
    window.go("loads")
    settle(app, window)
    _other_kinds(app, window, shot)
    window.files.leaving = True
    window.close()
    return written


def _side(app: QApplication, window: Window, shot: Shot) -> None:
    """Ways of backup side by side, and the meter's interval data."""
    save_prices(load_prices(samples_folder() / "register" / "prices.json"))
    window.side.open_backups()
    _wait(app, lambda: window.side.backups is not None and window.side.backups.strategies is not None)
    shot("backups")
    window.side.open_meter()
    _wait(app, lambda: window.side.meter is not None and window.side.meter.explained is not None)
    shot("meter")
    window.go("loads")


STEPS_DONE = 30


def _other_kinds(app: QApplication, window: Window, shot: Shot) -> None:
    """A large kind on two levels, and a new job being put together."""
    sample = sample_path("ocotillo-wash-centre")
    window.store.take(load_job(sample), None, origin=sample)
    settle(app, window)
    window.side.open_findings()
    app.processEvents()
    shot("findings")
    window.side.open_new()
    page = window.side.new
    assert page is not None
    page.points.setCurrentRow(8)
    page.refresh()
    app.processEvents()
    shot("new-job")
    page.closed.emit()
    shot("families", _families(app, window))


def _shelf(app: QApplication, window: Window, shot: Shot) -> None:
    """Hybrids on the shelf, with what fits this job."""
    save_prices(load_prices(samples_folder() / "register" / "prices.json"))
    window.side.open_parts()
    parts = window.side.parts
    assert parts is not None
    parts.kinds.setCurrentIndex(parts.kinds.findData("hybrid"))
    _wait(app, lambda: all(case.state != "unknown" for case in parts.gallery.cases))
    parts.gallery.choose("hybrid-3")
    shot("equipment")
    parts.closed.emit()


def _site(app: QApplication, window: Window, shot: Shot) -> None:
    """Most of the procedure at the simulated site; then the pack as it stands."""
    site = window.store.site
    site.register = load_register(samples_folder() / "register" / "register.json")
    window.store.set_moment(grid=True)
    window.go("commission")
    station = window.stations["commission"]
    assert isinstance(station, CommissionStation)
    site.start_simulated()
    _wait(app, lambda: bool(site.live))
    for _ in range(STEPS_DONE):
        before = len(site.entries)
        station.take(True)
        _wait(app, lambda before=before: len(site.entries) > before)  # type: ignore[misc]
    _wait(app, lambda: not window.store.site.worker.busy)
    station.at = "voc-string-1"  # a step with an instrument, its band and its reading
    station.refresh()
    shot("commission")
    window.go("handover")
    handover = window.stations["handover"]
    assert isinstance(handover, HandoverStation)
    _wait(app, lambda: bool(handover.pages))
    _wait(app, lambda: handover.rendered is not None)
    handover.list.setCurrentRow(1)
    _wait(app, lambda: handover.paper.sheets.shows(handover.pages[1].title))
    shot("handover")
    site.disconnect_site()


def _wait(app: QApplication, done: Callable[[], bool]) -> None:
    until = time.monotonic() + PATIENCE_S
    while not done() and time.monotonic() < until:
        app.processEvents()
        time.sleep(0.005)
    for _ in range(5):
        app.processEvents()


def _map_of(window: Window) -> MapView:
    station = window.stations["storage"]
    assert isinstance(station, StorageStation)
    return station.map


def _compare(app: QApplication, window: Window, shot: Shot) -> None:
    """The demo with a larger reserve against the demo as shipped."""
    window.store.edit("Set the reserve to 50 %", Change("limits/reserve_soc", 0.5))
    settle(app, window)
    window.files.compare_with(samples_folder() / DEMO)
    _wait(
        app,
        lambda: window.side.comparison is not None and window.pages.currentWidget() is window.side.comparison,
    )
    shot("comparison")
    window.store.undo()
    settle(app, window)


def _families(app: QApplication, window: Window) -> QPixmap:
    """The Array drawings of five families of converters, two beside each other, and their comparison on one
    roof."""
    cells = []
    for name in FAMILIES:
        sample = sample_path(name)
        window.store.take(load_job(sample), None, origin=sample)
        settle(app, window)
        window.go("array")
        window.store.set_moment(month=3, hour=9.0)
        settle(app, window)
        cells.append(window.stations["array"].grab())
    sample = sample_path("larch-fold-barn")
    window.store.take(load_job(sample), None, origin=sample)
    settle(app, window)
    window.side.open_roof()
    page = window.side.roof
    assert page is not None
    _wait(app, lambda: page.bars.on_roof is not None and not page.stop_button.isEnabled())
    cells.append(page.grab())
    page.closed.emit()
    wide = SIZE[0] // 2
    scaled = [cell.scaledToWidth(wide, Qt.TransformationMode.SmoothTransformation) for cell in cells]
    tall = max(cell.height() for cell in scaled)
    made = QPixmap(SIZE[0], tall * 3)
    made.fill(Qt.GlobalColor.white)
    painter = QPainter(made)
    for index, cell in enumerate(scaled):
        painter.drawPixmap(QPoint(index % 2 * wide, index // 2 * tall), cell)
    painter.end()
    return made
