"""The one store that the window observes: the job with its history, the moment, the results."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QPixmap

from lodestaff.desktop.on_disk import OnDisk
from lodestaff.desktop.rescue import Rescue, Work
from lodestaff.desktop.settings import draft_path
from lodestaff.desktop.site_record import SiteRecord
from lodestaff.desktop.worker import Worker
from lodestaff.job import Change, Job, edit, load_job
from lodestaff.job.attachments import attach, folder_of, read_attachment
from lodestaff.job.history import History
from lodestaff.job.laying import lay
from lodestaff.job.lock import Lock
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.results import Results, compute
from lodestaff.topology import Answer, State, Topology, answer
from lodestaff.topology.questions import shown_states, state_words

DEEP_AFTER_MS = 250


class Store(QObject):
    """Design, moment and results. Views read them and ask for edits; they keep no copy."""

    job_changed = Signal()
    saved_changed = Signal()
    moment_changed = Signal()
    results_changed = Signal()
    preview_changed = Signal()
    state_changed = Signal()
    busy_changed = Signal(bool)
    trouble = Signal(str, str)  # key, words; the same key replaces the older notice
    settled = Signal(str)  # the trouble under a key is over
    unexpected = Signal(object)  # a fault of the program
    compared = Signal(object, object)  # what was offered or with what; the rows
    not_writer = Signal()  # something was to be changed that another may change
    conflict = Signal()  # the file isn't what was opened: nothing was written

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history: History | None = None
        self.path: Path | None = None
        self.origin: Path | None = None  # the sample that a job without a file was taken from
        self.moment = Moment()
        self.results: Results | None = None
        self.preview: Results | None = None
        self.state = State("grid")
        self.in_view = "loads"  # the station whose findings a try-out shows
        self.with_promise = True  # whether the station in view asks what the promise costs
        self._thumbnails: dict[str, QPixmap | None] = {}
        self._answered: tuple[Topology, Answer] | None = None
        self.reckoner = Reckoner(self._attachment)
        self.site = SiteRecord(self.unexpected.emit, self)
        self.site.trouble.connect(self.trouble)
        self.disk = OnDisk(self)
        self.site.may_record = lambda: self.may_write or self._refused()
        self.disk.journal_grew.connect(self.site.read_anew)
        self.rescue = Rescue(self._unsaved, self.unexpected.emit, self)
        self.rescue.refused.connect(lambda words: self.trouble.emit("rescue", words))
        self.rescue.kept.connect(lambda: self.settled.emit("rescue"))
        self.worker = Worker(self.unexpected.emit, self)
        self.compared_again: Callable[[], object] | None = None
        self.worker.busy_changed.connect(self.busy_changed)
        self._deep = self._timer(DEEP_AFTER_MS, lambda: self._ask("deep", True))

    def _timer(self, milliseconds: int, action: Any) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(milliseconds)
        timer.timeout.connect(action)
        return timer

    # --- the job -----------------------------------------------------------------------------------
    @property
    def job(self) -> Job | None:
        return self.history.job if self.history else None

    @property
    def changed(self) -> bool:
        return bool(self.history and self.history.changed)

    def open(self, path: Path) -> None:
        """Open a job file. Raises JobError and keeps the present job where that fails."""
        self.take(load_job(path), path)

    def take(self, job: Job, path: Path | None, unsaved: bool = False, origin: Path | None = None) -> None:
        """Make a job the present one; `origin` is the sample whose attachments it shares."""
        self.origin = origin
        self.history = History(job)
        if unsaved:
            self.history.mark_unsaved()
        self.path = path
        self.results = self.preview = None
        self.state = self._usual_state(True)
        self.moment = self.moment.moved(grid=self.state.grid_present)
        self.rescue.clear()
        self.disk.open(path)
        self.site.open(job, path, origin)
        self._after_change()

    @property
    def may_write(self) -> bool:
        """Whether the job may be changed here: no other window holds its file."""
        return self.disk.mine

    def _refused(self) -> bool:
        self.not_writer.emit()
        return False

    def read_anew(self) -> None:
        """Another wrote the file: show what it says. Raises JobError and keeps the present job where that
        fails."""
        if self.path is not None:
            self.history = History(load_job(self.path))
            self.disk.note()
            self.rescue.clear()
            self._after_change()

    def edit(self, name: str, *changes: Change) -> bool:
        """Change the job under a name; False, with a notice, where the change can't be."""
        if self.history is None:
            return False
        if not self.may_write:
            return self._refused()
        try:
            job = edit(self.history.job, *changes)
        except JobError as trouble:
            self.trouble.emit("edit", f"Not changed. {trouble}")
            return False
        self.settled.emit("edit")
        if self.history.apply(name, job):
            self._after_change()
        return True

    @contextmanager
    def together(self, name: str) -> Iterator[None]:
        """What is edited meanwhile is one step to undo."""
        history, before = self.history, self.history.steps if self.history is not None else 0
        yield
        if history is not None and history is self.history:
            history.join(before, name)

    def undo(self, steps: int = 1) -> None:
        """Take back so many steps."""
        if self.history and [name for _ in range(steps) if (name := self.history.undo())]:
            self._after_change()

    def redo(self) -> None:
        if self.history and self.history.redo():
            self._after_change()

    def save(self, path: Path, over: bool = False) -> bool:
        """Save to a path; False, with a standing notice, where that can't be. The job stays as it is.

        A file that another changed since it was opened is left alone, unless `over`.
        """
        if self.history is None:
            return False
        if path == self.path and not self.may_write:
            return self._refused()
        job = self.history.job
        if path == self.path and not over and self.disk.differs():
            self.rescue.write_now()
            self.conflict.emit()
            return False
        try:
            lock = self._lock_of(path)
            laid = lay(job, path, self.homes(), self.site.where)
        except (JobError, OSError) as trouble:
            words = f"{path}: {trouble.strerror}" if isinstance(trouble, OSError) else str(trouble)
            self.trouble.emit("save", f"Not saved. {words}. Your work is still here and in the rescue file.")
            self.rescue.write_now()
            return False
        if laid.words:
            self.trouble.emit("attachments", f"{laid.words}.")
        self.site.moved(path)
        self.path = path
        self.disk.moved(lock, path)
        self.history.mark_saved(job)
        self.settled.emit("save")
        self.rescue.clear()
        self.saved_changed.emit()
        return True

    def _lock_of(self, path: Path) -> Lock | None:
        """The lock of another path, held; None for the present one. Raises JobError where another has it."""
        if path == self.path:
            return None
        lock = Lock(path)
        if lock.take() or lock.read_only:
            return lock
        holder = lock.holder()
        who = holder.words if holder else "another window"
        raise JobError(f"is open in {who}", str(path), "close it there")

    def close(self) -> None:
        """End of the window: no work waits, nothing needs a rescue."""
        self._deep.stop()
        self.worker.stop()
        self.site.close()
        self.rescue.close()
        self.disk.close()

    @property
    def home(self) -> Path | None:
        """Where the present job lies, or its draft."""
        return self.path or (draft_path(self.history.job.id) if self.history else None)

    def homes(self) -> tuple[Path, ...]:
        """Where attachments of the present job may lie: beside its file, beside its draft, beside its
        sample."""
        draft = draft_path(self.history.job.id) if self.history else None
        return tuple(home for home in (self.path, draft, self.origin) if home is not None)

    def _attachment(self, digest: str) -> bytes:
        for home in self.homes():
            if (folder_of(home) / digest).exists():
                return read_attachment(home, digest)
        raise JobError(
            "the attachment is not at hand", digest[:12], "open the job from its folder, or attach it again"
        )

    def thumbnail(self, digest: str) -> QPixmap | None:
        """A photo of the job, small; None where it is missing or no picture."""
        if digest not in self._thumbnails:
            picture = QPixmap()
            try:
                picture.loadFromData(self._attachment(digest))
            except JobError:
                return None
            size = Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
            self._thumbnails[digest] = (
                None if picture.isNull() else picture.scaled(160, 120, *size).copy(0, 0, 160, 120)
            )
        return self._thumbnails[digest]

    def attach(self, source: Path) -> str | None:
        """Lay a file beside the job, or beside its draft; its SHA-256, or None with a notice where that
        fails."""
        if self.history is None or not (self.may_write or self._refused()):
            return None
        home = self.home
        assert home is not None
        try:
            home.parent.mkdir(parents=True, exist_ok=True)
            digest = attach(home, source)
        except (JobError, OSError) as trouble:
            self.trouble.emit("attach", f"Not attached. {trouble}")
            return None
        self.settled.emit("attach")
        return digest

    def _after_change(self) -> None:
        self.preview = None
        self.worker.drop("preview")
        if self.history is not None:
            self.site.follow(self.history.job)
        if self.changed:
            self.rescue.soon()
        else:  # back at what is on disk
            self.rescue.clear()
        self.job_changed.emit()
        self.saved_changed.emit()
        self._ask("quick", False)
        self._deep.start()

    def _unsaved(self) -> Work | None:
        if self.history is None or not self.history.changed:
            return None
        return Work(self.history.job, self.path, self.disk.seen)

    # --- the moment and the switching state -----------------------------------------------------------
    def set_moment(self, **changes: Any) -> None:
        """Change the moment; grid on or off also sets the switching state. Where there is no grid, none
        comes on."""
        if self.job is not None and not self.job.mains.grid:
            changes.pop("grid", None)
        moment = self.moment.moved(**changes)
        if moment == self.moment:
            return
        self.moment = moment
        if "grid" in changes:
            self.set_state(self._usual_state(moment.grid))
        self.moment_changed.emit()
        self._ask("quick", False)
        self._deep.start()

    def set_state(self, state: State) -> None:
        """Choose a switching state; the moment's grid follows it."""
        if state == self.state:
            return
        self.state = state
        if self.moment.grid != state.grid_present:
            self.moment = self.moment.moved(grid=state.grid_present)
            self.moment_changed.emit()
            self._ask("quick", False)
            self._deep.start()
        self.state_changed.emit()

    def _usual_state(self, grid: bool) -> State:
        """With the grid or on the island; where there is no grid, the island."""
        with_grid = State("grid")
        return with_grid if grid and with_grid in self.states() else State("island", grid_present=False)

    def states(self) -> tuple[State, ...]:
        return shown_states(self.reckoner.wiring(self.job).topology) if self.job else ()

    def state_words(self, state: State) -> str:
        """The name that a switching state is shown under."""
        return state_words(self.reckoner.wiring(self.job).topology, state.name) if self.job else state.name

    def answer(self) -> Answer | None:
        """What the present switching state makes of the installation (quick: the graph is cached)."""
        if self.job is None:
            return None
        topology = self.reckoner.wiring(self.job).topology
        if (
            self._answered is None
            or self._answered[0] is not topology
            or self._answered[1].state != self.state
        ):
            self._answered = (topology, answer(topology, self.state))
        return self._answered[1]

    # --- results ---------------------------------------------------------------------------------------
    def try_out(self, *changes: Change) -> None:
        """Compute what a change would bring, without making it. A change that can't be is passed over."""
        if self.history is None:
            return
        try:
            job = edit(self.history.job, *changes)
        except JobError:
            return
        moment, reckoner, promise = self.moment, self.reckoner, self.with_promise
        stations = frozenset([self.in_view])
        self.worker.ask(
            "preview",
            lambda: compute(
                reckoner, job, moment=moment, deep=False, with_promise=promise, stations=stations
            ),
            then=self._tried,
            wrong=lambda _: self.end_try(),  # what was tried can't be reckoned; the job's own figures stand
        )

    def end_try(self) -> None:
        self.worker.drop("preview")
        if self.preview is not None:
            self.preview = None
            self.preview_changed.emit()

    def _ask(self, name: str, deep: bool) -> None:
        if self.history is None:
            return
        job, moment, reckoner = self.history.job, self.moment, self.reckoner
        promise = deep or self.with_promise
        self.worker.ask(
            name, lambda: compute(reckoner, job, moment, deep, promise), self._computed, self._not_computed
        )

    def ask_compared(self, what: object, compared: Callable[[], object], again: Callable[[], object]) -> None:
        """Two versions side by side, off the window's thread: they arrive by `compared` with what was
        offered. `again` asks anew when the job has changed."""
        self.compared_again = again
        self.worker.ask(
            "compare",
            compared,
            then=lambda rows: self.compared.emit(what, rows),
            wrong=lambda error: self.trouble.emit("compare", f"Not compared. {error}"),
        )

    def _not_computed(self, error: Exception) -> None:
        self.results = None
        self.trouble.emit("figures", f"The figures can't be computed. {error}")
        self.results_changed.emit()

    def _tried(self, results: Results) -> None:
        self.settled.emit("figures")
        self.preview = results
        self.preview_changed.emit()

    def _computed(self, results: Results) -> None:
        self.settled.emit("figures")
        if results.job == self.job and results.moment == self.moment:
            self.results = results
            self.results_changed.emit()
