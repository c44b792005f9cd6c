"""A window with the demo job, its figures computed, in a throw-away home."""

from dataclasses import replace
from functools import partial

import pytest

from lodestaff.desktop import store
from lodestaff.desktop.shell.window import Window
from lodestaff.desktop.shots import settle
from lodestaff.desktop.start import application
from lodestaff.job import load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.reckoning import Reckoner
from lodestaff.samples import sample_path


@pytest.fixture(scope="session")
def qapp():
    return application()


@pytest.fixture(autouse=True)
def deep_at_once(monkeypatch):
    """What takes long is asked for at once, not when a person pauses: a test needn't wait for that."""
    monkeypatch.setattr(store, "DEEP_AFTER_MS", 10)


@pytest.fixture(scope="session")
def demo_results():
    """What was computed of the untouched demo, by moment and depth: it is pure, so windows may share it."""
    return load_job(sample_path("larkmoor")), {}


@pytest.fixture(autouse=True)
def demo_computed_once(monkeypatch, demo_results):
    demo, known = demo_results
    real = store.compute

    def compute(reckoner, job, moment, deep=True, with_promise=False, stations=None):
        ask = partial(real, reckoner, job, moment, deep, with_promise, stations)
        if job != demo:
            return ask()
        key = (moment, deep, with_promise, stations)
        if key not in known:
            known[key] = ask()
        return replace(known[key], job=job)

    monkeypatch.setattr(store, "compute", compute)


@pytest.fixture(scope="session")
def warm_reckoner():
    """Figures that every window may share: they are pure."""
    return Reckoner(lambda digest: read_attachment(sample_path("larkmoor"), digest))


@pytest.fixture
def empty(qtbot, qapp, warm_reckoner):
    window = Window()
    window.store.reckoner.memo = warm_reckoner.memo
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
def settled(qapp):
    """Wait until the figures stand."""
    return lambda window: settle(qapp, window)
