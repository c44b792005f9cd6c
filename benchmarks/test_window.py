"""The window: start to first paint in a process of its own, and how long its event loop is ever held."""

import subprocess
import sys
import time

import pytest
from PySide6.QtCore import QEventLoop, QTimer

from lodestaff.job import Change

FIRST_PAINT = """
import time
begins = time.perf_counter()
from PySide6.QtCore import QTimer
from lodestaff.desktop.start import application
app = application()
from lodestaff.desktop.shell.window import Window
class Painted(Window):
    def paintEvent(self, event):
        super().paintEvent(event)
        if not getattr(self, "seen", False):
            self.seen = True
            print(time.perf_counter() - begins)
            QTimer.singleShot(0, app.quit)
window = Painted(at_once=False)
window.show()
app.exec()
"""
BARE = """
import time
begins = time.perf_counter()
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
class Painted(QMainWindow):
    def paintEvent(self, event):
        print(time.perf_counter() - begins)
        QTimer.singleShot(0, app.quit)
window = Painted()
window.resize(1280, 800)
window.show()
app.exec()
"""


def painted_s(code):
    done = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, timeout=60, check=True
    )
    return float(done.stdout.split()[0])


def test_start_to_first_paint(benchmark):
    """Baseline: an empty Qt window in the same run."""
    painted_s(FIRST_PAINT)
    times = sorted(painted_s(FIRST_PAINT) for _ in range(5))
    bare = sorted(painted_s(BARE) for _ in range(5))
    benchmark.extra_info["first_paint_s"] = round(times[2], 3)
    benchmark.extra_info["times_a_bare_window"] = round(times[2] / bare[2], 2)
    print(
        f"\nfirst paint {times[2] * 1000:.0f} ms, {times[2] / bare[2]:.2f} x a bare Qt window "
        f"({bare[2] * 1000:.0f} ms)"
    )
    benchmark.pedantic(painted_s, args=(FIRST_PAINT,), rounds=1)


@pytest.fixture
def window():
    from lodestaff.desktop.shell.window import Window
    from lodestaff.desktop.shots import settle
    from lodestaff.desktop.start import application

    app = application()
    made = Window()
    made.show()
    made.files.open_demo()
    settle(app, made)
    yield app, made
    made.files.leaving = True
    made.close()


@pytest.mark.parametrize("station", ["loads", "limits", "wire"])
def test_event_loop_latency_while_editing(benchmark, window, station):
    """A 5 ms timer's longest gap while the reserve changes 30 times; baseline: the same loop left alone."""
    app, made = window
    made.go(station)

    def gaps(act):
        seen, last = [], [time.perf_counter()]

        def beat():
            now = time.perf_counter()
            seen.append(now - last[0])
            last[0] = now

        timer = QTimer()
        timer.timeout.connect(beat)
        timer.start(5)
        for step in range(30):
            act(step)
            until = time.perf_counter() + 0.05
            while time.perf_counter() < until:
                app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        timer.stop()
        return sorted(seen)

    quiet = gaps(lambda step: None)
    busy = gaps(lambda step: made.store.edit(f"step {step}", Change("limits/reserve_soc", 0.31 + step / 100)))
    worst, median = busy[-1], busy[len(busy) // 2]
    benchmark.extra_info["longest_gap_ms"] = round(worst * 1000, 1)
    benchmark.extra_info["times_the_quiet_loop"] = round(worst / quiet[-1], 2)
    print(
        f"\n{station}: longest gap {worst * 1000:.1f} ms (median {median * 1000:.1f}), quiet loop "
        f"{quiet[-1] * 1000:.1f} ms"
    )
    benchmark.pedantic(app.processEvents, rounds=5)


def test_edit_to_painted_figures(benchmark, window):
    """From an edit to the window's new figures, the event loop running; baseline: computing alone."""
    from lodestaff.job import edit
    from lodestaff.reckoning.results import compute

    app, made = window
    made.go("limits")
    numbers = iter(range(10_000))

    def change():
        made.store.edit("step", Change("limits/reserve_soc", 0.3 + (next(numbers) % 600) / 1000 + 0.001))
        while made.store.results is None or made.store.results.job is not made.store.job:
            app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)

    benchmark.pedantic(change, rounds=40, warmup_rounds=5)
    begins = time.perf_counter()
    for step in range(20):
        job = edit(made.store.job, Change("limits/reserve_soc", 0.4 + step / 1000 + 0.0005))
        compute(made.store.reckoner, job, made.store.moment, False)
    alone = (time.perf_counter() - begins) / 20
    median = benchmark.stats.stats.median
    benchmark.extra_info["times_computing_alone"] = round(median / alone, 2)
    print(
        f"\nedit to painted figures {median * 1000:.1f} ms, {median / alone:.2f} x computing alone "
        f"({alone * 1000:.1f} ms)"
    )
