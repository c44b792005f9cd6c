"""Opening, saving, printing and rescuing: what goes through the disk, with every refusal said in the
window."""

from collections import Counter
from dataclasses import replace
from datetime import date
from functools import partial
from pathlib import Path

from PySide6.QtCore import QByteArray, QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QFileDialog, QWidget

from lodestaff.desktop.rescue import Rescued, find_rescued
from lodestaff.desktop.settings import Settings, save_settings
from lodestaff.desktop.shell.notices import Choice, Notices
from lodestaff.desktop.store import Store
from lodestaff.job import Job, load_job
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.samples import DEMO, sample_path


def with_suffix(name: str, suffix: str) -> Path:
    """A file's path with its usual suffix where a person typed none."""
    path = Path(name)
    return path if path.suffix else path.with_name(f"{path.name}{suffix}")


class Files:
    """The verbs of the Job menu. Dialogs belong to `parent`; words go to `notices`."""

    def __init__(self, parent: QWidget, store: Store, notices: Notices, settings: Settings) -> None:
        self.parent, self.store, self.notices, self.settings = parent, store, notices, settings
        self.leaving = False

    def change_settings(self, **changes: object) -> None:
        """Set and keep settings."""
        self.settings = replace(self.settings, **changes)  # type: ignore[arg-type]
        save_settings(self.settings)

    def keep_view(self, geometry: QByteArray, splits: dict[str, list[int]]) -> None:
        """Keep where the window stood, and how drawings and tables shared the room."""
        seen = {name: sizes for name, sizes in splits.items() if sizes}
        where = bytes(geometry.toBase64().data()).decode()
        self.change_settings(window=where, splits={**self.settings.splits, **seen})

    def _title(self) -> str:
        return self.store.job.title if self.store.job else ""

    def open_path(self, path: Path) -> bool:
        """Open a job; a failure is said under the bar and the present job stays. Unsaved work asks first."""
        if self.store.changed:
            self.notices.show_notice(
                "open",
                f"{self._title()} has unsaved changes.",
                [
                    ("Save and open", lambda: self.save() and self._open(path)),
                    ("Discard and open", lambda: self._open(path)),
                ],
            )
            return False
        return self._open(path)

    def _open(self, path: Path) -> bool:
        try:
            self.store.open(path)
        except JobError as trouble:
            self.notices.show_notice("open", f"Not opened. {trouble}")
            return False
        self.notices.settle("open")
        self._remember(path)
        return True

    def _remember(self, path: Path) -> None:
        self.settings = self.settings.with_recent(path)
        save_settings(self.settings)

    def recent(self) -> list[Path]:
        """Recent jobs that are still there, newest first."""
        return [Path(name) for name in self.settings.recent if Path(name).is_file()]

    def open_demo(self) -> None:
        """The demo job, as a copy that has no file of its own yet."""
        self.open_sample(DEMO.removesuffix(".json"))

    def open_sample(self, name: str) -> None:
        """A sample job, as a copy that has no file of its own yet."""
        if self.store.changed:
            self.notices.show_notice(
                "open",
                f"{self._title()} has unsaved changes.",
                [("Discard and open the sample", lambda: self._take_sample(name))],
            )
            return
        self._take_sample(name)

    def _take_sample(self, name: str) -> None:
        try:
            self.store.take(load_job(sample_path(name)), None, origin=sample_path(name))
            self._offer_drafts()
        except JobError as trouble:
            self.notices.show_notice("open", f"Not opened. {trouble}")

    def begin(self, job: Job) -> None:
        """A new job, which has no file yet."""
        if self.store.changed:
            self.notices.show_notice(
                "open",
                f"{self._title()} has unsaved changes.",
                [("Discard and begin the new job", lambda: self._begin(job))],
            )
            return
        self._begin(job)

    def _begin(self, job: Job) -> None:
        self.notices.settle("open")
        self.store.take(job, None, unsaved=True)
        self._offer_drafts()

    def _offer_drafts(self) -> None:
        """Readings of a job without a file outlive the window; say so, and offer to begin anew."""
        if self.store.site.entries and not self.store.site.as_shipped:
            words = (
                f"{len(self.store.site.entries)} entries were recorded earlier for this job, which "
                "has no file yet."
            )
            self.notices.show_notice("draft", words, [("Put them away", self.store.site.put_away)])

    def browse(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.parent, "Open a job", "", "Jobs (*.json)")
        if name:
            self.open_path(Path(name))

    def save(self) -> bool:
        if self.store.path is None:
            return self.save_as()
        return self.store.save(self.store.path) and self._keep_state()

    def _keep_state(self) -> bool:
        """Keep in words how the job stood when it was saved: the first screen says it."""
        results, path = self.store.results, self.store.path
        if results is not None and path is not None:
            counts = Counter(finding.status for finding in results.findings)
            words = ", ".join(f"{counts[status]} {status}" for status in ("blocks", "warns", "open"))
            self.change_settings(states={**self.settings.states, str(path.resolve()): words})
        return True

    def save_as(self) -> bool:
        if self.store.job is None:
            return False
        suggestion = f"{self.store.job.id}.json"
        name, _ = QFileDialog.getSaveFileName(self.parent, "Save the job", suggestion, "Jobs (*.json)")
        path = with_suffix(name, ".json")
        if not name or not self.store.save(path):
            return False
        self._remember(path)
        return self._keep_state()

    def report(self) -> None:
        """Ask for a name and write the pack."""
        if self.store.job is None:
            return
        kinds = "PDF (*.pdf);;Workbook (*.xlsx);;Diagram (*.svg);;Drawing (*.dxf)"
        name, kind = QFileDialog.getSaveFileName(
            self.parent, "Write the pack", f"{self.store.job.id}.pdf", kinds
        )
        if name:
            self.write_pack(with_suffix(name, f".{kind.partition('*.')[2].rstrip(')') or 'pdf'}"))

    def labels(self) -> None:
        """Ask for a name and write the labels on sheets that print to size."""
        if self.store.job is None:
            return
        first = f"{self.store.job.id}-labels.pdf"
        name, _ = QFileDialog.getSaveFileName(self.parent, "Write the labels", first, "PDF (*.pdf)")
        if name:
            self.write_labels(with_suffix(name, ".pdf"))

    def write_labels(self, path: Path) -> None:
        """Make the sheets off the window's thread and say where they are."""
        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return

        def make() -> str:
            from lodestaff.exchange.label_sheet import label_sheet
            from lodestaff.reckoning.schedules import label_schedule

            rows = [(str(text), str(place)) for place, text, _ in label_schedule(reckoner, job).rows]
            try:
                write_whole(path, label_sheet(rows, job.pack.paper, job.title))
            except JobError as trouble:
                return f"Not written. {trouble}"
            return f"Written to {path}."

        self.store.worker.ask(
            "labels", make, self._written, lambda error: self._written(f"Not written. {error}")
        )

    def print_pack(self) -> None:
        """Make the pack and show how it will be printed."""
        job, reckoner, site = self.store.job, self.store.reckoner, self.store.site
        if job is None:
            return
        from lodestaff.exchange.pdf import pdf
        from lodestaff.handover import HandoverInput, pages

        given = HandoverInput(job, site.entries, site.register, date.today())

        def show(raw: bytes) -> None:
            from lodestaff.desktop.printing import preview_sheets

            preview_sheets(self.parent, job.title, raw)

        self.store.worker.ask(
            "print",
            lambda: pdf(reckoner, given, pages(reckoner, given)),
            show,
            lambda error: self._written(f"Not printed. {error}"),
        )

    def write_pack(self, path: Path) -> None:
        """Make the pack off the window's thread and say where it is."""
        job, reckoner, site = self.store.job, self.store.reckoner, self.store.site
        if job is None:
            return
        entries, register = site.entries, site.register

        def make() -> str:
            from lodestaff.exchange import written
            from lodestaff.handover import HandoverInput, pages

            given = HandoverInput(job, entries, register, date.today())
            try:
                write_whole(path, written(path, reckoner, given, pages(reckoner, given)))
            except JobError as trouble:
                return f"Not written. {trouble}"
            return f"Written to {path}."

        self.notices.show_notice("pack", "Writing the pack…")
        self.store.worker.ask(
            "pack",
            make,
            lambda words: self._written(words, path),
            lambda error: self._written(f"Not written. {error}"),
        )

    def _written(self, words: str, path: Path | None = None) -> None:
        """Say what was written, and open it or its folder when asked to."""
        there = path is not None and path.is_file() and words.startswith("Written")
        choices: list[Choice] = []
        if there and path is not None:
            choices = [
                ("Open", partial(QDesktopServices.openUrl, QUrl.fromLocalFile(str(path)))),
                ("Show in folder", partial(QDesktopServices.openUrl, QUrl.fromLocalFile(str(path.parent)))),
            ]
        self.notices.show_notice("pack", words, choices)

    def browse_pack(self) -> None:
        """Choose a pack of one's own to lay over the job's."""
        name, _ = QFileDialog.getOpenFileName(
            self.parent, "Lay a pack of your own over the job's", "", "Packs (*.json)"
        )
        if name:
            self.lay_pack(Path(name))

    def lay_pack(self, path: Path) -> bool:
        """Lay a pack over the job's, as one undoable step; one that is not sound is said and changes
        nothing."""
        from lodestaff.catalogue.overlay import laid_over, parse_overlay
        from lodestaff.job import Change
        from lodestaff.quantities.disk import read_whole

        job = self.store.job
        if job is None:
            return False
        try:
            overlay = parse_overlay(read_whole(path), path.name)
            pack = laid_over(job.pack, overlay, path.name)
        except JobError as trouble:
            self.notices.show_notice("own-pack", f"Not laid over. {trouble}")
            return False
        self.notices.settle("own-pack")
        return self.store.edit(
            f"Lay {overlay.name} over the rule pack", Change("pack", pack.model_dump(mode="json"))
        )

    def browse_other(self) -> None:
        """Choose a file to compare the job with."""
        name, _ = QFileDialog.getOpenFileName(self.parent, "Compare with", "", "Jobs (*.json)")
        if name:
            self.compare_with(Path(name))

    def compare_saved(self) -> None:
        """Compare the job with its file."""
        if self.store.path is None:
            self.notices.show_notice(
                "compare", "This job has no file yet; there is nothing saved to compare it with."
            )
        else:
            self.compare_with(self.store.path)

    def compare_with(self, path: Path) -> None:
        """Compare off the window's thread; the rows arrive through the worker under the name `compare`."""
        from lodestaff.job.attachments import read_attachment
        from lodestaff.reckoning import Reckoner
        from lodestaff.reckoning.compare import compare

        job, reckoner = self.store.job, self.store.reckoner
        if job is None:
            return
        try:
            other = load_job(path)
        except JobError as trouble:
            self.notices.show_notice("compare", f"Not compared. {trouble}")
            return
        theirs = Reckoner(lambda digest: read_attachment(path, digest))
        theirs.memo = reckoner.memo
        self.store.ask_compared(
            path.name, lambda: compare(theirs, other, reckoner, job), partial(self.compare_with, path)
        )

    def ask_before_closing(self) -> None:
        self.notices.show_notice(
            "close",
            f"{self._title()} has unsaved changes.",
            [
                ("Save and quit", lambda: self.save() and self.parent.close()),
                ("Discard and quit", self._discard),
            ],
        )

    def _discard(self) -> None:
        self.leaving = True
        self.parent.close()

    def offer_rescued(self) -> None:
        """Offer the newest work that a crash left behind; say where a damaged rescue file is kept."""
        rescues, damaged = find_rescued()
        for rescued in rescues[:1]:
            self._offer(rescued)
        if damaged:
            words = f"A rescue file was damaged and can't be read; it is kept as {damaged[0]}."
            self.notices.show_notice("damaged", words)

    def _offer(self, rescued: Rescued) -> None:
        self.notices.show_notice(
            "rescued",
            f"Unsaved work on {rescued.job.title} was kept when the program ended unexpectedly.",
            [
                ("Open it", lambda: self.take_rescued(rescued)),
                ("Throw it away", lambda: rescued.file.unlink(missing_ok=True)),
            ],
        )

    def take_rescued(self, rescued: Rescued) -> None:
        """Make rescued work the present job; its rescue file goes once a new one is written."""
        self.store.take(rescued.job, rescued.work.path, unsaved=True)
        if rescued.work.seen is not None:  # what lies there now may be another's
            self.store.disk.seen = rescued.work.seen
        if self.store.rescue.write_now():
            rescued.file.unlink(missing_ok=True)
