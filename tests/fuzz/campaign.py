"""Damaged inputs over every reader: none with a trace, a hang, too much memory, or a file written outside.

`python -m tests.fuzz.campaign --count 10000 --seed 1` says what failed, one JSON object a line, and how many
were tried. Runs in a process of its own: it watches every file that is opened to be written.
"""

import argparse
import json
import os
import random
import resource
import shutil
import signal
import sys
import tempfile
import time
import traceback
import warnings
from pathlib import Path
from types import FrameType
from typing import Any, NoReturn

from lodestaff.energy import kept
from lodestaff.quantities.errors import MOST_SIGNS, JobError
from tests.fuzz.damage import damaged
from tests.fuzz.readers import READERS, Reader, in_turn

LONGEST_S = 5.0
A_FEW = 2000  # inputs, for which not all sound ones are read first
MOST_BYTES = 500 * 1024**2
OWN = ("__pycache__", ".nbi", ".nbc", os.devnull)


class HungError(Exception):
    """A reader took too long."""


def _hung(_number: int, _frame: FrameType | None) -> NoReturn:
    raise HungError


def _memory() -> int:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


class Watch:
    """Files opened to be written, renamed or removed outside a folder and the person's own cache."""

    def __init__(self, folder: str) -> None:
        self.folder, self.cache, self.outside = folder, str(kept.folder()), set[str]()
        sys.addaudithook(self._seen)

    def _seen(self, event: str, given: tuple[Any, ...]) -> None:
        if event == "open" and isinstance(given[0], str):
            mode, flags = given[1], given[2]
            writes = any(sign in (mode or "") for sign in "wax+") or (flags or 0) & (os.O_WRONLY | os.O_RDWR)
            if writes:
                self._told(given[0])
        elif event in ("os.rename", "os.remove", "os.mkdir", "os.rmdir", "os.link", "os.symlink"):
            for one in given[:2]:
                if isinstance(one, str | Path):
                    self._told(str(one))

    def _told(self, path: str) -> None:
        whole = os.path.abspath(path)  # noqa: PTH100 - an audit hook must not follow links
        if not whole.startswith((self.folder, self.cache)) and not any(part in whole for part in OWN):
            self.outside.add(whole)


def attempt(reader: Reader, raw: bytes, folder: Path, watch: Watch) -> str:
    """What went wrong with one input; '' where nothing did."""
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir()
    before, watch.outside = _memory(), set()
    signal.setitimer(signal.ITIMER_REAL, LONGEST_S)
    try:
        reader.read(raw, folder)
    except JobError as trouble:
        if len(str(trouble)) > MOST_SIGNS or "\n" in str(trouble):
            return f"a message of {len(str(trouble))} signs"
    except HungError:
        return f"took more than {LONGEST_S:g} s"
    except BaseException as error:  # noqa: BLE001 - whatever it is, it is what is looked for
        places = traceback.extract_tb(error.__traceback__)
        last = next((one for one in reversed(places) if "/lodestaff/" in one.filename), places[-1])
        return f"{type(error).__name__}: {str(error)[:200]} at {Path(last.filename).name}:{last.lineno}"
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
    if _memory() - before > MOST_BYTES:
        return f"took {(_memory() - before) / 1e6:.0f} MB"
    return f"wrote outside: {sorted(watch.outside)[:3]}" if watch.outside else ""


def campaign(
    count: int, seed: int, seconds: float, only: str, place: Path
) -> tuple[int, list[dict[str, object]]]:
    """Inputs tried, and what failed: each kind of failure once, with its input in a file."""
    signal.signal(signal.SIGALRM, _hung)
    warnings.simplefilter("ignore")
    watch, failures, seen = Watch(str(place)), [], set[tuple[str, str]]()
    os.chdir(place)
    for reader in READERS:  # what is loaded or compiled once is no reader's
        for raw in reader.sound()[: None if count > A_FEW else 2]:
            warmed = place / "warmed"
            shutil.rmtree(warmed, ignore_errors=True)
            warmed.mkdir()
            reader.read(raw, warmed)
    end = time.monotonic() + seconds
    tried = 0
    for reader in in_turn():
        if only not in ("", reader.name):
            continue
        if tried >= count or time.monotonic() > end:
            break
        rnd = random.Random(f"{seed}:{tried}")
        raw = damaged(rnd.choice(reader.sound()), rnd)
        trouble = attempt(reader, raw, place / "input", watch)
        if trouble and (reader.name, trouble) not in seen:
            seen.add((reader.name, trouble))
            failures.append({"reader": reader.name, "number": tried, "seed": seed, "trouble": trouble})
        tried += 1
    return tried, failures


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=10**9)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--seconds", type=float, default=1e9)
    parser.add_argument("--only", default="", help="one reader, by its name")
    options = parser.parse_args(arguments)
    with tempfile.TemporaryDirectory() as place:
        for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME", "TMPDIR"):
            os.environ[name] = place
        tempfile.tempdir = place
        tried, failures = campaign(
            options.count, options.seed, options.seconds, options.only, Path(place).resolve()
        )
        os.chdir("/")
    for one in failures:
        print(json.dumps(one))
    print(json.dumps({"tried": tried, "failed": len(failures)}))
    return 1 if failures else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
