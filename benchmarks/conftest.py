"""The demo job and a warm reckoner for every benchmark."""

import os
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
