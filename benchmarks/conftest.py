"""The demo job and a warm reckoner for every benchmark."""

import os
import time
from pathlib import Path

import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


@pytest.fixture(scope="session")
def job():
    from lodestaff.job import load_job

    return load_job(Path(__file__).parents[1] / "samples" / "larkmoor.json")


@pytest.fixture(scope="session")
def reckoner(job):
    from lodestaff.reckoning import Moment, Reckoner
    from lodestaff.reckoning.results import compute

    made = Reckoner()
    compute(made, job, Moment(), True, True)
    return made


def seconds_of(action, times):
    """Mean seconds of some runs."""
    begins = time.perf_counter()
    for _ in range(times):
        action()
    return (time.perf_counter() - begins) / times


def note(benchmark, name, baseline_s):
    """Write the ratio to a baseline beside the row."""
    ratio = baseline_s / benchmark.stats.stats.median
    benchmark.extra_info[name] = round(ratio, 2)
    print(
        f"\n{benchmark.name}: median {benchmark.stats.stats.median * 1000:.2f} ms, {ratio:.1f} x faster "
        f"than {name} "
        f"({baseline_s * 1000:.1f} ms)"
    )


@pytest.fixture
def seconds():
    return seconds_of


@pytest.fixture
def noted():
    return note
