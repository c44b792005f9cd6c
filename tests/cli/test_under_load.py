"""The same job gives the same bytes, however busy the machine is."""

import subprocess
import sys

from lodestaff.samples import sample_path

BUSY = "while True: sum(range(10_000))"


def checked(name):
    command = [sys.executable, "-m", "lodestaff.main", "check", str(sample_path(name)), "--json"]
    return subprocess.run(command, capture_output=True, timeout=200, check=False).stdout


def test_a_busy_machine_changes_no_figure():
    """Seen on this job: a solver that was stopped by the clock ended in an assertion."""
    alone = checked("juniper-draw-ranch")
    others = [subprocess.Popen([sys.executable, "-c", BUSY]) for _ in range(6)]
    try:
        busy = checked("juniper-draw-ranch")
    finally:
        for one in others:
            one.kill()
            one.wait()
    assert busy == alone
    assert b'"findings"' in alone
