"""Whole commands, as ratios to a bare `python -c 'import numpy'` in the same run."""

import subprocess
import sys
import time

import pytest

from lodestaff.samples import sample_path

RUNS = 5
LODESTAFF = (sys.executable, "-m", "lodestaff.main")
COMMANDS = {
    "--version": ("--version",),
    "--help": ("--help",),
    "completion": ("completion", "bash"),
    "wire": ("wire", "JOB"),
    "settings": ("settings", "JOB"),
    "procedure": ("procedure", "JOB"),
    "check": ("check", "JOB"),
}


def least_s(*command: str) -> float:
    """The shortest of a few runs, for others of the machine only add to it."""
    times = []
    for _ in range(RUNS):
        begun = time.perf_counter()
        subprocess.run(command, capture_output=True, check=True)
        times.append(time.perf_counter() - begun)
    return min(times)


@pytest.fixture(scope="module")
def bare_s():
    return least_s(sys.executable, "-c", "import numpy")


@pytest.mark.parametrize("name", COMMANDS)
def test_a_command(benchmark, bare_s, name):
    words = [str(sample_path("larkmoor")) if word == "JOB" else word for word in COMMANDS[name]]
    took = benchmark.pedantic(least_s, args=(*LODESTAFF, *words), rounds=1)
    print(f"\n{name}: {took:.2f} s, {took / bare_s:.1f} times a bare numpy ({bare_s:.2f} s)")
