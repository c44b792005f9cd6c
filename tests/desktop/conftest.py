"""A window with the demo job, its figures computed, in a throw-away home."""

import pytest

from lodestaff.desktop import store
from lodestaff.desktop.shell.window import Window
from lodestaff.desktop.shots import settle
from lodestaff.desktop.start import application


@pytest.fixture(scope="session")
def qapp():
    return application()


@pytest.fixture(autouse=True)
def deep_at_once(monkeypatch):
    """What takes long is asked for at once, not when a person pauses: a test needn't wait for that."""
    monkeypatch.setattr(store, "DEEP_AFTER_MS", 10)


@pytest.fixture(scope="session")
def warm_reckoner():
    """Figures that every window may share: they are pure."""
    from lodestaff.job.attachments import read_attachment
    from lodestaff.reckoning import Reckoner
    from lodestaff.samples import sample_path

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
