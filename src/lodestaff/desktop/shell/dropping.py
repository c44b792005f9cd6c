"""Files dropped on the window go where they belong: a job is opened; weather, horizon and interval data are
told by what stands in them; photos go to the part that is chosen at Site."""

from pathlib import Path

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QWidget

from lodestaff.desktop.shell.frame import Frame
from lodestaff.quantities.errors import JobError

PHOTOS = (".png", ".jpg", ".jpeg", ".webp")
CHOOSE = "Photos go to a part that was found: choose it at Site, then drop them again."
LOGS = (".csv", ".txt", ".xml", ".xlsx", ".gz")


def kind_of(path: Path) -> str:
    """What a file is for: job, photo, weather, horizon, meter; '' for nothing that is known."""
    suffix = path.suffix.lower()
    if suffix == ".json":
        return "job"
    if suffix in PHOTOS:
        return "photo"
    if suffix == ".epw":
        return "weather"
    if suffix not in LOGS:
        return ""
    return _told_by_content(path) if suffix in (".csv", ".txt") else "meter"


def _told_by_content(path: Path) -> str:
    """A table of numbers is a typical year, a horizon, else a log of the meter."""
    from lodestaff.energy.horizon import COUNTED_BELOW, read_horizon
    from lodestaff.energy.weather import read_file
    from lodestaff.quantities.disk import read_whole

    raw = read_whole(path)
    try:
        read_file(raw, "tmy3", path.name)
    except JobError:
        pass
    else:
        return "weather"
    try:
        read_horizon(raw, path.name)
    except JobError as trouble:
        return "horizon" if trouble.what == COUNTED_BELOW else "meter"
    return "horizon"


class Dropping(QObject):
    """Watches the window for files."""

    def __init__(self, window: QWidget, frame: Frame) -> None:
        super().__init__(window)
        self.frame = frame
        window.setAcceptDrops(True)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QDropEvent) and event.type() == QEvent.Type.Drop:
            event.acceptProposedAction()
            self.take([Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()])
            return True
        if isinstance(event, QDragEnterEvent) and event.mimeData().hasUrls():
            event.acceptProposedAction()
            return True
        return False

    def take(self, paths: list[Path]) -> None:
        """Bring each file to where it belongs; what can't be taken is said."""
        frame = self.frame
        frame.notices.settle("dropped")
        photos = [path for path in paths if path.suffix.lower() in PHOTOS]
        for path in (path for path in paths if path not in photos):
            try:
                self._one(path, kind_of(path))
            except JobError as trouble:
                frame.notices.show_notice("dropped", f"Not taken. {trouble}")
        if photos:
            self._photos(photos)

    def _one(self, path: Path, kind: str) -> None:
        frame = self.frame
        if not kind:
            right = "a job, a weather file, a horizon, interval data or a photo"
            raise JobError("is nothing that this window takes", path.name, right)
        if kind == "job":
            frame.files.open_path(path)
        elif frame.store.job is None:
            raise JobError("belongs to a job, and none is open", path.name, "open the job first")
        elif kind == "meter":
            frame.side.open_meter()
            assert frame.side.meter is not None
            frame.side.meter.read(path)
        else:
            frame.go("site")
            station = frame.stations["site"]
            take = {"weather": "attach_weather", "horizon": "take_horizon"}[kind]
            getattr(station, take)(path)

    def _photos(self, photos: list[Path]) -> None:
        frame = self.frame
        if frame.store.job is None or frame.station != "site":
            frame.notices.show_notice("dropped", CHOOSE)
            return
        site = frame.stations["site"]
        if not site.takes_photos():  # type: ignore[attr-defined]
            frame.notices.show_notice("dropped", CHOOSE)
        else:
            site.attach_photos(photos)  # type: ignore[attr-defined]
