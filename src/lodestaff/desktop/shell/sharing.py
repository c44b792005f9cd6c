"""Several windows and one file: who may write is said, and two versions are never laid over one another."""

from pathlib import Path

from lodestaff.desktop.on_disk import beside
from lodestaff.desktop.shell.files import Files
from lodestaff.desktop.shell.notices import Choice, Notices
from lodestaff.desktop.store import Store
from lodestaff.job.laying import lay
from lodestaff.quantities.errors import JobError


class Sharing:
    """Says in the notices what another program does with the present file, and what can be done about it."""

    def __init__(self, files: Files, store: Store, notices: Notices) -> None:
        self.files, self.store, self.notices = files, store, notices
        store.job_changed.connect(self._opened)
        store.not_writer.connect(lambda: self.say_writer("Not changed. "))
        store.conflict.connect(self._two_versions)
        store.disk.writer_changed.connect(self._writer_changed)
        store.disk.changed.connect(self._changed_there)
        self._said: Path | None = None

    def _opened(self) -> None:
        """Once for each file: whether it is opened to read."""
        if self.store.path != self._said:
            self._said = self.store.path
            self.notices.settle("writer")
            if not self.store.may_write:
                self.say_writer("")

    def say_writer(self, first: str) -> None:
        """Who may write, and how to."""
        disk = self.store.disk
        copy: Choice = ("Save a copy…", self.files.save_as)
        if disk.read_only:
            words = f"{first}Opened to read: another window writes this job ({disk.holder})."
        words = f"{first}Opened to read: another window writes this job ({disk.holder})."
        self.notices.show_notice("writer", words, [("Take over", self.take_over), copy])

    def take_over(self) -> None:
        """Write here from now on; the other window opens it to read."""
        try:
            if not self.store.changed:
                self.store.read_anew()
            self.store.disk.take_over()
        except JobError as trouble:
            self.notices.show_notice("writer", f"Not taken over. {trouble}")

    def _writer_changed(self) -> None:
        if self.store.may_write:
            self.notices.settle("writer")
        elif self.store.disk.holder == "nobody any more":
            words = "The window that wrote this job let it go."
            self.notices.show_notice("writer", words, [("Write here", self.take_over)])
        else:
            self.notices.settle("disk")
            kept = "Your changes are still here: save a copy of them. " if self.store.changed else ""
            self.say_writer(f"Taken over. {kept}")

    def _changed_there(self) -> None:
        """The file was written by another: follow, or leave the choice where there is unsaved work."""
        if self.store.changed:
            words = "This job was changed on disk meanwhile. Saving will keep both versions."
            self.notices.show_notice("disk", words, [("See the differences", self.files.compare_saved)])
            return
        try:
            self.store.read_anew()
        except JobError as trouble:
            self.notices.show_notice("disk", f"Changed on disk, and can't be read: {trouble}")
        else:
            self.notices.settle("disk")
            if self.store.may_write:
                self.notices.show_notice("disk", "This job was changed on disk and was read anew.")

    def _two_versions(self) -> None:
        """Saving found another version: keep mine beside it, and show both."""
        path, job = self.store.path, self.store.job
        if path is None or job is None:
            return
        mine = beside(path, "mine")
        try:
            lay(job, mine, (path,), path)
        except JobError as trouble:
            self.notices.show_notice("disk", f"Not saved: the file was changed by another. {trouble}")
            return
        words = f"Not saved over another version: {path.name} was changed meanwhile. Yours is {mine.name}."
        choices: list[Choice] = [
            ("Save mine, keep theirs beside", lambda: self._over(path)),
            ("Take theirs", self._take_theirs),
        ]
        self.notices.show_notice("disk", words, choices)
        self.files.compare_saved()

    def _over(self, path: Path) -> None:
        try:
            theirs = self.store.disk.set_beside("theirs")
        except JobError as trouble:
            self.notices.show_notice("disk", f"Not saved. {trouble}")
            return
        if self.store.save(path, over=True):
            self.notices.show_notice("disk", f"Saved. The other version is kept as {theirs.name}.")

    def _take_theirs(self) -> None:
        try:
            self.store.read_anew()
        except JobError as trouble:
            self.notices.show_notice("disk", f"Not read. {trouble}")
