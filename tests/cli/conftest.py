"""A job in a file, for the commands."""

import pytest

from lodestaff.job import save_job


@pytest.fixture
def job(larkmoor, tmp_path):
    path = tmp_path / "job.json"
    save_job(larkmoor, path)
    return str(path)
