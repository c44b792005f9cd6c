"""Which process this is, told so that no later one is taken for it: host, boot, number and start."""

import os
import socket
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from lodestaff.quantities.disk import runs

BOOT = Path("/proc/sys/kernel/random/boot_id")


@dataclass(frozen=True)
class Process:
    """A process of some host. `boot` and `space` tell apart what runs under the same number elsewhere."""

    host: str
    boot: str
    space: str
    pid: int
    start: str

    @classmethod
    def of_data(cls, data: Any) -> "Process | None":
        """A process from its data; None where that says none."""
        if not isinstance(data, dict):
            return None
        host, boot, space, start = (str(data.get(key, "")) for key in ("host", "boot", "space", "start"))
        pid = data.get("pid")
        return cls(host, boot, space, pid, start) if host and isinstance(pid, int) and pid > 0 else None

    def as_data(self) -> dict[str, Any]:
        return asdict(self)

    @property
    def may_run(self) -> bool:
        """Whether it runs, as far as this host can tell; that of another host may."""
        mine = this_process()
        if self.host != mine.host:
            return True
        if self.boot != mine.boot:
            return False
        return self.space != mine.space or (runs(self.pid) and _start(self.pid) in (self.start, ""))

    @property
    def words(self) -> str:
        here = self.host == this_process().host
        return f"process {self.pid}" if here else f"process {self.pid} on {self.host}"


def this_process() -> Process:
    """This one."""
    pid = os.getpid()
    return Process(socket.gethostname(), boot=_read(BOOT), space=_space(), pid=pid, start=_start(pid))


def _read(path: Path) -> str:
    try:
        return path.read_text(encoding="ascii").strip()
    except (OSError, ValueError):
        return ""


def _space() -> str:
    """The space that its number counts in."""
    try:
        return str(Path("/proc/self/ns/pid").readlink())
    except OSError:
        return ""


def _start(pid: int) -> str:
    """When a process started, in ticks after the boot; '' where that can't be told."""
    after_name = _read(Path(f"/proc/{pid}/stat")).rpartition(")")[2].split()
    return after_name[19] if len(after_name) > 19 else ""
