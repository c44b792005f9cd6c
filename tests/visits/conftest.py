"""Jobs of every kind, their tasks and graphs, made once."""

import pytest

from lodestaff.job import Change, edit, load_job
from lodestaff.reckoning.visiting import tasks_of
from lodestaff.samples import sample_names, sample_path

GRANTED = (
    Change("site/permission/state", "granted"),
    Change("site/permission/parallel_state", "granted"),
    Change("site/permission/parallel_kva", {"value": 99.0, "known": "read on site"}),
    Change("site/permits", []),
    Change("visits", {}),
)


@pytest.fixture(scope="session")
def jobs():
    """Every sample, with all permissions and without days."""
    return {name: edit(load_job(sample_path(name)), *GRANTED) for name in sample_names()}


@pytest.fixture(scope="session")
def tasks(jobs, reckoner):
    return {name: tasks_of(reckoner, job) for name, job in jobs.items()}
