"""Run within a session bus and a display: opens the window in a process of its own, and reads it from outside
as a screen reader does. Prints what was found as JSON."""

import json
import os
import re
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass

PATIENCE_S = 60.0
ROOT = "/org/a11y/atspi/accessible/root"
ACCESSIBLE, ACTION = "org.a11y.atspi.Accessible", "org.a11y.atspi.Action"
APPLICATION = """
import json
from lodestaff.desktop.start import application
app = application()
from lodestaff.desktop.shell.window import Window
from lodestaff.desktop.shots import settle
window = Window()
window.show()
window.files.open_demo()
settle(app, window)
window.go("wire")
settle(app, window)
diagram = window.stations["wire"].diagram
store = window.store
store.state_changed.connect(lambda *_: print(json.dumps(store.state.name), flush=True))
print(json.dumps([item.name for item in diagram.spoken()]), flush=True)
app.exec()
"""


@dataclass(frozen=True)
class Bus:
    """The bus of assistive programs."""

    address: str
    service: str = "org.freedesktop.DBus"

    def call(self, path: str, method: str, *given: str) -> str:
        """What a method answers, as text."""
        asked = [
            "dbus-send",
            f"--bus={self.address}",
            "--print-reply",
            f"--dest={self.service}",
            path,
            method,
        ]
        return subprocess.run([*asked, *given], capture_output=True, text=True, check=False).stdout

    def children(self, path: str) -> list[str]:
        return re.findall(r'object path "([^"]+)"', self.call(path, f"{ACCESSIBLE}.GetChildren"))

    def name(self, path: str) -> str:
        asked = (f"string:{ACCESSIBLE}", "string:Name")
        return "".join(
            re.findall(r'string "(.*)"', self.call(path, "org.freedesktop.DBus.Properties.Get", *asked))
        )

    def role(self, path: str) -> str:
        return "".join(re.findall(r'string "(.*)"', self.call(path, f"{ACCESSIBLE}.GetRoleName")))

    def walk(self, path: str = ROOT) -> Iterator[str]:
        """Everything below, nearest first."""
        waiting = [path]
        while waiting:
            here = waiting.pop(0)
            yield here
            if self.role(here) not in ("table", "list"):
                waiting += self.children(here)


def main() -> int:
    ask = ["dbus-send", "--session", "--print-reply=literal", "--dest=org.a11y.Bus", "/org/a11y/bus"]
    found = subprocess.run([*ask, "org.a11y.Bus.GetAddress"], capture_output=True, text=True, check=False)
    if found.returncode:
        print(json.dumps({"skip": f"no bus of assistive programs: {found.stderr.strip()}"}))
        return 0
    environment = {**os.environ, "QT_QPA_PLATFORM": "xcb", "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"}
    app = subprocess.Popen(
        [sys.executable, "-c", APPLICATION], env=environment, stdout=subprocess.PIPE, text=True
    )
    try:
        first = app.stdout.readline() if app.stdout else ""
        if not first:
            print(json.dumps({"skip": "Qt opens no window under X here"}))
            return 0
        bus = Bus(found.stdout.strip())
        names = re.findall(r'"(:[\d.]+)"', bus.call("/", "org.freedesktop.DBus.ListNames"))
        bus = next(one for name in names if (one := Bus(bus.address, name)).children(ROOT))
        print(json.dumps(read(bus, json.loads(first), app)))
    finally:
        app.kill()
    return 0


def read(bus: Bus, said: list[str], app: "subprocess.Popen[str]") -> dict[str, object]:
    """The diagram's things as they are heard; the first switch is pressed, and what the program did."""
    until = time.monotonic() + PATIENCE_S
    heard: dict[str, str] = {}
    for path in bus.walk():
        heard[bus.name(path)] = path
        if {"Live diagram", "Stations"} <= set(heard) or time.monotonic() > until:
            break
    diagram, staff = heard["Live diagram"], heard["Stations"]
    things = [(bus.name(path), bus.role(path), path) for path in bus.children(diagram)]
    switch = next(path for _, role, path in things if role in ("button", "push button"))
    actions = re.findall(r'string "([^"]*)"', bus.call(switch, f"{ACTION}.GetActions"))
    asked = [
        bus.call(switch, f"{ACCESSIBLE}.{method}")
        for method in ("GetInterfaces", "GetState", "GetAttributes")
    ]
    bus.call(switch, f"{ACTION}.DoAction", "int32:0")
    line = app.stdout.readline() if app.stdout else ""
    return {
        "said": said,
        "stations": [bus.name(path) for path in bus.children(staff)],
        "answered": all(answer.startswith("method return") for answer in asked),
        "things": [name for name, *_ in things],
        "actions": actions,
        "after": json.loads(line),
    }


if __name__ == "__main__":
    raise SystemExit(main())
