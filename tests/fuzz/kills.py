"""Programs that are killed at any moment: what they said was kept is there, and what lies there is whole.

`python -m tests.fuzz.kills save 300` kills that many; the suite kills ten of each kind.
"""

import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from lodestaff.job import load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.job.journal import load
from lodestaff.samples import sample_path

LONGEST_S = 0.25  # after the first word that something was kept
MOST_BEHIND_S = 2.0

SAVE = """
import sys
from pathlib import Path
from lodestaff.job import Change, edit, load_job
from lodestaff.job.laying import lay
path = Path(sys.argv[1])
job = load_job(path)
for number in range(10**6):
    lay(edit(job, Change("limits/reserve_soc", 0.2 + number % 4000 / 1e4)), path, (path,), path)
    print(number, flush=True)
"""
RECORD = """
import sys
from pathlib import Path
from lodestaff.job.journal import append
for number in range(10**6):
    append(Path(sys.argv[1]), "reading", str(number))
    print(number, flush=True)
"""
ATTACH = """
import sys
from pathlib import Path
from lodestaff.job.attachments import attach
photo = Path(sys.argv[1]).with_name("photo")
for number in range(10**6):
    photo.write_bytes(b"a picture" * 5000 + str(number).encode())
    print(attach(Path(sys.argv[1]), photo), flush=True)
"""
WINDOW = """
import sys, time
from pathlib import Path
from PySide6.QtCore import QTimer
from lodestaff.desktop.start import application
from lodestaff.desktop.shell.window import Window
from lodestaff.job import Change
app = application()
window = Window()
window.files.open_path(Path(sys.argv[1]))
count = 0
def burst():
    global count
    for _ in range(3):
        count += 1
        window.store.edit("a", Change("limits/reserve_soc", 0.2 + count / 1e4))
    print(f"{time.time()} {count}", flush=True)
timer = QTimer()
timer.timeout.connect(burst)
timer.start(60)
app.exec()
"""


def _run(program: str, path: Path, longest_s: float, rnd: random.Random) -> list[str]:
    """What a program said before it was killed."""
    quiet = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    with subprocess.Popen(
        [sys.executable, "-c", program, str(path)], stdout=subprocess.PIPE, text=True, env=quiet
    ) as child:
        assert child.stdout is not None
        first = child.stdout.readline()
        time.sleep(rnd.uniform(0, longest_s))
        child.kill()
        said = [first, *child.stdout.read().splitlines(keepends=True)]
    return [line.strip() for line in said if line.endswith("\n")]


def _whole(path: Path) -> None:
    """Nothing half written is taken for a job, and the next writer sweeps what was left."""
    load_job(path)
    from lodestaff.job import save_job

    save_job(load_job(path), path)
    assert list(path.parent.glob(".*.part")) == []


def save(path: Path, rnd: random.Random) -> None:
    last = int(_run(SAVE, path, LONGEST_S, rnd)[-1])
    reserve = load_job(path).limits.reserve_soc
    assert round((reserve - 0.2) * 1e4) in (last % 4000, (last + 1) % 4000)
    _whole(path)


def record(path: Path, rnd: random.Random) -> None:
    last = int(_run(RECORD, path, LONGEST_S, rnd)[-1])
    texts = [entry.text for entry in load(path).entries]
    assert texts[: last + 1] == [str(number) for number in range(last + 1)]


def attach(path: Path, rnd: random.Random) -> None:
    for digest in _run(ATTACH, path, LONGEST_S, rnd):
        assert read_attachment(path, digest)
    _whole(path)


def window(path: Path, rnd: random.Random) -> None:
    """After a burst that goes on, at most two seconds of edits are missing from the rescue."""
    from lodestaff.desktop.rescue import find_rescued

    said = [line.split() for line in _run(WINDOW, path, 3.0, rnd)]
    found, damaged = find_rescued()
    assert damaged == []
    ended = float(said[-1][0])
    owed = max((int(count) for at, count in said if float(at) < ended - MOST_BEHIND_S), default=0)
    kept = max((round((one.job.limits.reserve_soc - 0.2) * 1e4) for one in found), default=0)
    assert kept >= owed, f"{kept} of {owed}"
    for one in found:
        one.file.unlink()
    load_job(path)


KINDS: dict[str, Callable[[Path, random.Random], None]] = {
    "save": save, "record": record, "attach": attach, "window": window,
}  # fmt: skip


def kill(kind: str, seed: int) -> None:
    """One program killed once, in a folder of its own."""
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "job.json"
        shutil.copy(sample_path("far-byre"), path)
        KINDS[kind](path, random.Random(seed))


def main(arguments: list[str]) -> int:
    kind, count = arguments[0], int(arguments[1])
    with tempfile.TemporaryDirectory() as home:
        for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME"):
            os.environ[name] = home
        failed = 0
        for seed in range(count):
            try:
                kill(kind, seed)
            except Exception as error:  # noqa: BLE001 - each is told, all are counted
                failed += 1
                print(json.dumps({"kind": kind, "seed": seed, "trouble": repr(error)[:300]}))
    print(json.dumps({"kind": kind, "kills": count, "failed": failed}))
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
