"""A window with the demo job, its figures computed, in a throw-away home."""

from dataclasses import replace
from functools import cache, partial

import pytest

from lodestaff.desktop import store
from lodestaff.desktop.shell import files
from lodestaff.desktop.shell.window import Window
from lodestaff.desktop.shots import settle
from lodestaff.desktop.start import application
from lodestaff.job import load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.sunlit import Sunlit
from lodestaff.samples import sample_names, sample_path

SHIPPED = {name: sample_path(name) for name in sample_names()}


@pytest.fixture(scope="session")
def qapp():
    return application()


@pytest.fixture(autouse=True)
def deep_at_once(monkeypatch):
    """What takes long is asked for at once, not when a person pauses: a test needn't wait for that."""
    monkeypatch.setattr(store, "DEEP_AFTER_MS", 10)


@pytest.fixture(scope="session")
def read_once():
    """The shipped samples as they were read: a job never changes."""
    return cache(load_job)


@pytest.fixture(scope="session")
def known_results():
    """What was computed of untouched samples, by moment and depth: it is pure, so windows may share it."""
    return {}


@pytest.fixture(autouse=True)
def samples_computed_once(monkeypatch, read_once, known_results):
    real = store.compute

    def compute(reckoner, job, moment, deep=True, with_promise=False, stations=None):
        ask = partial(real, reckoner, job, moment, deep, with_promise, stations)
        if job.id not in SHIPPED or job != read_once(SHIPPED[job.id]):
            return ask()
        key = (job.id, moment, deep, with_promise, stations)
        if key not in known_results:
            known_results[key] = ask()
        return replace(known_results[key], job=job)

    monkeypatch.setattr(store, "compute", compute)


@pytest.fixture(scope="session")
def warm_reckoner():
    """Figures that every window may share: they are pure."""
    return Reckoner(lambda digest: read_attachment(sample_path("larkmoor"), digest))


@pytest.fixture
def empty(qtbot, qapp, warm_reckoner, read_once, monkeypatch):
    monkeypatch.setattr(
        files, "load_job", lambda path: (read_once if path in SHIPPED.values() else load_job)(path)
    )
    window = Window()
    reckoner = window.store.reckoner
    reckoner.memo, reckoner._of_job = warm_reckoner.memo, warm_reckoner._of_job
    reckoner.sunlit = Sunlit(reckoner, reckoner._of_job)
    qtbot.addWidget(window)
    window.show()
    yield window
    window.files.leaving = True
    window.close()


@pytest.fixture
def window(empty, qapp):
    empty.files.open_demo()
    settle(qapp, empty)
    return empty


@pytest.fixture
def reckoned(qtbot):
    """Wait until the quick figures stand: what takes long may go on."""

    def wait(window):
        store = window.store
        qtbot.waitUntil(lambda: store.results is not None and store.results.job == store.job, timeout=60_000)

    return wait


@pytest.fixture
def settled(qapp):
    """Wait until the figures stand."""
    return lambda window: settle(qapp, window)
