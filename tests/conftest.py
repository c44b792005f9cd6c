"""Fixtures of all tests: offscreen Qt, a throw-away home, the demo job."""

import gc
import os
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings

from lodestaff.energy import kept

# A slow machine is no fault of a property: no deadline, and the first, cold draw may take its time.
settings.register_profile("any machine", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("any machine")

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
gc.set_threshold(50_000, 20, 20)  # looking for what is garbage took a sixteenth of the tests' time

ROOT = Path(__file__).parents[1]


@pytest.fixture(autouse=True)
def throw_away_home(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> Path:
    """No test sees or touches the person's own settings, recent files or rescues."""
    home = Path(tempfile.mkdtemp(prefix="home", dir=tmp_path_factory.getbasetemp()))
    for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME"):
        monkeypatch.setenv(name, str(home / name.lower()))
    whole_run = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:  # years that one worker made serve the other
        whole_run = whole_run.parent
    monkeypatch.setenv("XDG_CACHE_HOME", str(whole_run / "cache"))
    monkeypatch.setattr(kept, "MOST_FILES", 2000)  # the years of all samples, for one test after the other
    return home


@pytest.fixture(autouse=True, scope="session")
def one_memory() -> Iterator[None]:
    """All reckoners of a worker share what they reckoned: it is pure, and found by all that it rests on.
    Those without attachments share among themselves."""
    from lodestaff.reckoning import Reckoner
    from lodestaff.reckoning.memo import Memo

    shared, make = {given: Memo(256 * 1024**2) for given in (False, True)}, Reckoner.__init__

    def sharing(self: Reckoner, *given: Any) -> None:
        make(self, *given)
        self.memo = shared[bool(given)]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Reckoner, "__init__", sharing)
        yield


@pytest.fixture(autouse=True)
def every_fault_is_seen(monkeypatch: pytest.MonkeyPatch) -> None:
    """No test passes because a check that failed was set apart; those of the isolation turn it on."""
    from lodestaff.reckoning.findings import ISOLATION

    monkeypatch.setattr(ISOLATION, "on", False)


@pytest.fixture(scope="session")
def larkmoor_path() -> Path:
    return ROOT / "samples" / "larkmoor.json"


@pytest.fixture(scope="session")
def larkmoor(larkmoor_path: Path):
    from lodestaff.job import load_job

    return load_job(larkmoor_path)


@pytest.fixture(scope="session")
def reckoner():
    """One reckoner for all tests of a worker: its results are pure and cached by what they rest on."""
    from lodestaff.job.attachments import read_attachment
    from lodestaff.reckoning import Reckoner

    return Reckoner(lambda digest: read_attachment(ROOT / "samples" / "larkmoor.json", digest))
