"""The window as a screen reader on this system meets it: over AT-SPI, from another process."""

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from lodestaff.desktop.actions import STATIONS

TOOLS = ("xvfb-run", "dbus-run-session", "dbus-send")
LAUNCHERS = (Path("/usr/libexec/at-spi-bus-launcher"), Path("/usr/lib/at-spi2-core/at-spi-bus-launcher"))
CAN = all(map(shutil.which, TOOLS)) and any(launcher.exists() for launcher in LAUNCHERS)


@pytest.mark.skipif(not CAN, reason="needs xvfb, dbus and at-spi2-core on this system")
def test_the_live_diagram_is_heard_and_worked_from_outside():
    script = Path(__file__).with_name("at_spi.py")
    session = ["xvfb-run", "-a", "dbus-run-session", "--", sys.executable, str(script)]
    done = subprocess.run(session, capture_output=True, text=True, timeout=200, check=False)
    found = json.loads(done.stdout.splitlines()[-1])
    if "skip" in found:
        pytest.skip(found["skip"])
    assert found["things"] == found["said"]
    assert len(found["things"]) > 30
    assert found["answered"]  # a wrong answer within the program would end it
    assert [name.split(",")[0] for name in found["stations"]] == [station.name for station in STATIONS]
    assert found["actions"][0] == "Press"
    assert found["after"] == "own positions"  # the switch stands otherwise now
