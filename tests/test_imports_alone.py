"""Modules that a command may load as the first of the reckoning: none needs another before it."""

import subprocess
import sys

import pytest


@pytest.mark.parametrize("name", ["costing", "schedules", "standings", "built", "records.label_ratings"])
def test_it_can_be_the_first(name):
    asked = [sys.executable, "-c", f"import lodestaff.reckoning.{name}"]
    done = subprocess.run(asked, capture_output=True, text=True, timeout=120, check=False)
    assert done.returncode == 0, done.stderr
