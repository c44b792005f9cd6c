"""The day on site as the window sees it: the journal, the register, the link, and the simulated site."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from lodestaff.desktop.settings import draft_path
from lodestaff.desktop.worker import Worker
from lodestaff.job import Job
from lodestaff.job.journal import Entry, Journal, append, journal_path, put_aside
from lodestaff.job.journal import load as load_journal
from lodestaff.job.journal import read as read_journal
from lodestaff.job.laying import take_journal
from lodestaff.quantities.errors import JobError
from lodestaff.register import Register, load_register, save_register

if TYPE_CHECKING:
    from lodestaff.commissioning.reading import Reading
    from lodestaff.commissioning.record import Proof
    from lodestaff.commissioning.step import Step
    from lodestaff.link import Link, PlantServer, Value
    from lodestaff.measuring.simulated import SimulatedVisit
    from lodestaff.topology import Topology

LIVE_MS = 1000


class SiteRecord(QObject):
    """What was read and taken. Entries only grow; a refusal of the disk is said, and nothing counts as
    recorded."""

    changed = Signal()
    live_changed = Signal()
    trouble = Signal(str, str)
    taken = Signal(object)  # a Reading that came over the link or from the simulated site

    def __init__(self, fault: Callable[[BaseException], None], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.entries: tuple[Entry, ...] = ()
        self.register = self._load_register()
        self.live: dict[str, Value] = {}
        self.links: dict[str, Link] = {}
        self.visit: SimulatedVisit | None = None
        self._server: PlantServer | None = None
        self._job: Job | None = None
        self._where: Path | None = None
        self._origin: Path | None = None
        self.may_record: Callable[[], bool] = lambda: True
        self._proof: tuple[object, Proof] | None = None
        self.worker = Worker(fault, self)
        self._timer = QTimer(self)
        self._timer.setInterval(LIVE_MS)
        self._timer.timeout.connect(self._ask_live)

    def _load_register(self) -> Register:
        try:
            return load_register()
        except JobError as trouble:
            QTimer.singleShot(
                0, lambda words=str(trouble): self.trouble.emit("register", f"Register not read. {words}")
            )
            return Register()

    # --- the journal -------------------------------------------------------------------------------------
    def open(self, job: Job, path: Path | None, origin: Path | None = None) -> None:
        """A job became the present one: its journal, or that of a job with no file of its own yet, which
        begins with that of the sample it came from."""
        self.disconnect_site()
        self._job, self._where, self._origin = job, path or draft_path(job.id), origin
        self._read()

    def follow(self, job: Job) -> None:
        """The design was changed; what was read stays."""
        self._job = job

    def put_away(self) -> None:
        """Begin the journal of a job without a file anew; the old one is kept under another name."""
        if self._where is not None:
            put_aside(self._where)
            self._read()

    def _read(self) -> None:
        self._proof = None
        try:
            journal = load_journal(self.where) if self.where else Journal()
        except JobError as trouble:
            self.entries = ()
            self.trouble.emit("journal", f"The journal can't be read. {trouble}")
        else:
            from lodestaff.commissioning.record import usable

            self.entries, wrong = usable(journal.entries)
            if journal.damaged or wrong:
                self.trouble.emit("journal", f"{'; '.join((*journal.damaged, *wrong))}.")
        self.changed.emit()

    @property
    def where(self) -> Path | None:
        """The job, the draft or the sample beside which the journal lies."""
        return self._origin if self.as_shipped else self._where

    @property
    def as_shipped(self) -> bool:
        """Whether the journal is a sample's, to which nothing was added."""
        return bool(self._origin and self._where and not journal_path(self._where).exists())

    def _begin(self, where: Path) -> None:
        """Before the first entry: the journal of the sample goes on beside the draft. Raises JobError or
        OSError."""
        where.parent.mkdir(parents=True, exist_ok=True)
        if self.where is not None and self.where != where:
            take_journal(self.where, where)

    def moved(self, path: Path) -> None:
        """The job was saved under a path, and its journal with it; that of a draft has done its duty."""
        old, self._where, self._origin = self._where, path, None
        if old is not None and self._job is not None and old == draft_path(self._job.id):
            with contextlib.suppress(OSError):
                journal_path(old).unlink()
        if old != path:
            self._read()

    def record(
        self, kind: str, text: str, by: str, data: dict[str, Any] | None = None, corrects: str | None = None
    ) -> bool:
        """Append an entry; when this returns True it is on disk."""
        if self._where is None or not self.may_record():
            return False
        try:
            self._begin(self._where)
            entry = append(self._where, kind, text=text, by=by, corrects=corrects, data=data)
        except (JobError, OSError) as trouble:
            self.trouble.emit("journal", f"Not recorded. {trouble}")
            return False
        self.entries = (*self.entries, entry)
        self._proof = None
        self.changed.emit()
        return True

    def bring(self, other: Path) -> bool:
        """What the journal of another copy of this job has besides; when this returns True it is on disk."""
        if self._where is None or not self.may_record():
            return False
        try:
            self._begin(self._where)
            take_journal(other, self._where)
        except (JobError, OSError) as trouble:
            self.trouble.emit("journal", f"Not brought. {trouble}")
            return False
        self._read()
        return True

    def read_anew(self) -> None:
        """The journal was added to, here or by another."""
        if self.where is not None and read_journal(self.where) != list(self.entries):
            self._read()

    def record_reading(self, step: Step, reading: Reading) -> bool:
        """Put a reading into the journal."""
        from lodestaff.commissioning.record import as_data, words_of

        return self.record("reading", words_of(step, reading), reading.by, as_data(reading))

    def proof(self, job: Job, topology: Topology) -> Proof:
        """The procedure as the journal leaves it."""
        from lodestaff.commissioning.record import Proof, proof_of

        key = (id(topology), job, len(self.entries))
        if self._proof is None or self._proof[0] != key:
            try:
                proof = proof_of(job, topology, self.entries)
            except JobError as trouble:
                self.trouble.emit("journal", f"The journal can't be used. {trouble}")
                proof = Proof(())
            self._proof = (key, proof)
        return self._proof[1]

    def change_register(self, register: Register) -> bool:
        """Keep the register."""
        try:
            save_register(register)
        except JobError as trouble:
            self.trouble.emit("register", f"Register not kept. {trouble}")
            return False
        self.register = register
        self.changed.emit()
        return True

    # --- the link ----------------------------------------------------------------------------------------
    @property
    def connected(self) -> bool:
        return bool(self.links)

    def connect_site(self, host: str, port: int) -> None:
        """Read the units of the present job at an address from now on."""
        from lodestaff.measuring.over_link import link_to

        if self._job is None:
            return
        self.disconnect_site()
        self.links = {unit.id: link_to(self._job, unit.id, host, port) for unit in self._job.units}
        self._timer.start()
        self._ask_live()
        self.changed.emit()

    def start_simulated(self, faults: tuple[str, ...] = ()) -> None:
        """Build the simulated site of the present job, off the window's thread, and read it."""
        job = self._job
        if job is None:
            return
        self.disconnect_site()

        def make() -> Any:
            from lodestaff.link import PlantServer
            from lodestaff.link.server import HOST
            from lodestaff.measuring.over_link import link_to
            from lodestaff.measuring.simulated import SimulatedVisit
            from lodestaff.plant import Plant, PlantStart
            from lodestaff.plant.faults import fault_named

            plant = Plant(job, PlantStart(faults=tuple(fault_named(name) for name in faults)))
            server = PlantServer(plant, speed=1.0).start()
            links = {unit.id: link_to(job, unit.id, HOST, server.port) for unit in job.units}
            visit = SimulatedVisit(plant, links, "")
            visit.begin()
            return job, server, links, visit

        self.worker.ask("simulated", make, self._connected, self._not_done)

    def disconnect_site(self) -> None:
        """Let go of the site, simulated or real."""
        self._timer.stop()
        self.worker.drop("live")
        self.worker.drop("simulated")
        server, links, self._server, self.links, self.visit, self.live = (
            self._server,
            self.links,
            None,
            {},
            None,
            {},
        )
        for link in links.values():
            link.close()
        if server is not None:
            server.stop()
        self.changed.emit()

    def take(self, step: Step, by: str, simulated: bool) -> None:
        """Take a step's reading, over the link or as a person at the simulated site; it arrives by
        `taken`."""
        job, visit, links = self._job, self.visit, self.links
        if job is None or (simulated and visit is None):
            return

        def read() -> Reading:
            from dataclasses import replace

            from lodestaff.measuring.over_link import take_over_link

            if simulated and visit is not None:
                return replace(visit.take(step), by=by)
            unit = step.measure.unit or job.units[0].id
            now = visit.plant.right_clock() if visit is not None else wall_clock(job)
            return take_over_link(links[unit], job, step, now, by)

        self.worker.ask("take", read, self.taken.emit, self._not_done)

    def write_setting(self, unit: str, key: str, value: Any, told: Callable[[Any], None]) -> None:
        """Write a setting over the link; `told` hears how it ended, on the window's thread."""
        link = self.links.get(unit)
        if link is not None:
            self.worker.ask("write", lambda: link.write_setting(key, value), told, self._not_done)

    def _ask_live(self) -> None:
        job, links = self._job, dict(self.links)
        if job is None or not links:
            return

        def read() -> dict[str, Value]:
            from lodestaff.link.definitions import AC, DC, STORAGE
            from lodestaff.measuring.over_link import read_meter

            first = job.units[0]
            link, ports = links[first.id], len(job.sheet_of(first).trackers)
            dc = link.read_all(DC, tuple(f"Prt.{index}.DCW" for index in range(ports)))
            meter = {"meter": read_meter(link)} if link.meters else {}
            return {**meter, "unit": link.read(AC, "W"), "charge": link.read(STORAGE, "SoC"), **dc}

        self.worker.ask("live", read, self._read_live, self._not_done)

    def _not_done(self, error: Exception) -> None:
        self.trouble.emit("link", f"Not done. {error}")

    def _read_live(self, live: dict[str, Value]) -> None:
        if self.links:
            self.live = live
            self.live_changed.emit()

    def _connected(self, made: tuple[Job, PlantServer, dict[str, Link], SimulatedVisit]) -> None:
        job, self._server, self.links, self.visit = made
        if job is not self._job:
            self.disconnect_site()
            return
        self._timer.start()
        self._ask_live()
        self.changed.emit()

    def close(self) -> None:
        """The window closes: end what runs."""
        self.disconnect_site()
        self.worker.stop()


def wall_clock(job: Job) -> datetime:
    """What a unit's clock ought to show now: the household's time, or standard time where the job says so."""
    from datetime import timedelta, timezone

    if job.limits.device_clock == "household":
        return datetime.now()
    return datetime.now(timezone(timedelta(hours=job.site.utc_offset_h))).replace(tzinfo=None)
