"""The same job gives the same bytes, however busy the machine is."""

import subprocess
import sys

from lodestaff.samples import sample_path
from tests.cli.running import run

BUSY = "while True: sum(range(10_000))"


def test_a_busy_machine_changes_no_figure(capsys):
    """Seen on this job: a solver that was stopped by the clock ended in an assertion."""
    words = ["check", str(sample_path("juniper-draw-ranch")), "--json"]
    _, alone, _ = run(capsys, *words)
    others = [subprocess.Popen([sys.executable, "-c", BUSY]) for _ in range(2)]
    try:
        command = [sys.executable, "-m", "lodestaff.main", *words]
        busy = subprocess.run(command, capture_output=True, timeout=200, check=False, encoding="utf-8").stdout
    finally:
        for one in others:
            one.kill()
            one.wait()
    assert busy == alone
    assert '"findings"' in alone
