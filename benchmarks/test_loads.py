"""Loads and the meter: frames of a drag, the best split of forty circuits, a year of intervals, surplus
loads."""

import csv
import itertools
import random
from datetime import datetime, timedelta

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from lodestaff.electrical.choose import Candidate, HoldLimits, broken, choose
from lodestaff.energy.metering import read_intervals, recognise
from lodestaff.energy.surplus import _take, take
from lodestaff.reckoning.strategies import compare_strategies


@pytest.fixture(scope="module")
def window():
    from lodestaff.desktop.shell.window import Window
    from lodestaff.desktop.shots import settle
    from lodestaff.desktop.start import application

    app = application()
    made = Window()
    made.resize(1280, 800)
    made.show()
    made.files.open_sample("ocotillo-wash-centre")
    settle(app, made)
    made.go("loads")
    settle(app, made)
    yield made
    made.files.leaving = True
    made.close()


def bare(window):
    """The baseline: a repaint of the same surface's ground alone."""
    from lodestaff.desktop.stations.surface import Surface

    class Empty(Surface):
        def paint(self, painter):
            return

    empty = Empty(window.store, "", "")
    empty.resize(820, 700)
    return empty


def test_a_frame_of_a_drag_on_the_rails(benchmark, window, noted, seconds):
    """A mouse move with a circuit in hand and the repaint, on the sample with most rails; noted beside a
    bare repaint."""
    view = window.stations["loads"].rails
    start = view.rails.block_of("lab").rect.center().toPoint()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    steps = itertools.cycle(range(1, 60))

    def frame():
        QTest.mouseMove(view, start + QPoint(3 * next(steps), 5))
        view.repaint()

    benchmark(frame)
    QTest.keyClick(view, Qt.Key.Key_Escape)
    empty = bare(window)
    noted(benchmark, "a bare repaint", seconds(empty.repaint, 50))


def test_a_frame_of_a_drag_on_the_day(benchmark, window, noted, seconds):
    station = window.stations["loads"]
    station.day_button.setChecked(True)
    view = station.day
    view.refresh()
    box = max(view.plan.layer_of("lab").boxes, key=lambda one: one.height())
    start = box.center().toPoint()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    steps = itertools.cycle(range(1, 60))

    def frame():
        QTest.mouseMove(view, start + QPoint(3 * next(steps), 0))
        view.repaint()

    benchmark(frame)
    QTest.keyClick(view, Qt.Key.Key_Escape)
    station.day_button.setChecked(False)
    noted(benchmark, "a bare repaint", seconds(bare(window).repaint, 50))


LIMITS = HoldLimits((6000.0, 6000.0), 9000.0, 14000.0, 18.0)


def candidates(count):
    dice = random.Random(11)
    return tuple(
        Candidate(
            str(n),
            dice.randint(1, 10),
            (w := dice.uniform(20, 2500), 0.0) if n % 2 else (0.0, w := dice.uniform(20, 2500)),
            w,
            w * dice.choice([1, 1, 3, 5]),
            dice.random() * 2,
        )
        for n in range(count)
    )


def test_the_best_split_of_forty_circuits(benchmark, noted, seconds):
    """The exact optimum; baseline: every set of sixteen of them, scaled by 2^24."""
    ones, few = candidates(40), candidates(16)
    benchmark(choose, ones, LIMITS, 1.0)

    def every():
        best = 0.0
        for size in range(len(few) + 1):
            for chosen in itertools.combinations(few, size):
                if not broken(chosen, LIMITS):
                    best = max(best, sum(one.points for one in chosen))
        return best

    noted(benchmark, "every set", seconds(every, 1) * 2.0**24)


def test_a_year_of_half_hours(benchmark, noted, seconds):
    """Recognised and read; baseline: the same file split by csv and its stamps parsed by datetime, nothing
    checked."""
    start = datetime(2025, 1, 1)
    lines = [
        f"{start + timedelta(minutes=30 * n):%Y-%m-%d %H:%M},{0.2 + n % 48 / 100:.2f}" for n in range(17_520)
    ]
    text = "\n".join(["Start,Import (kWh)", *lines])
    raw = text.encode()

    def read():
        shape = recognise(raw, "m.csv", "", 0.0).shape
        return read_intervals(raw, "m.csv", shape, "", 0.0)

    benchmark.pedantic(read, rounds=3)

    def plain():
        return [
            (datetime.strptime(a, "%Y-%m-%d %H:%M"), float(b)) for a, b in csv.reader(text.splitlines()[1:])
        ]

    noted(benchmark, "csv and strptime unchecked", seconds(plain, 3))


def test_what_a_surplus_load_takes(benchmark, noted, seconds):
    """A year of one load; baseline: the same loop in plain Python."""
    from types import SimpleNamespace

    dice = np.random.default_rng(1)
    spare, soc, room = dice.uniform(0, 3, 35_040), dice.uniform(0.5, 1, 35_040), np.full(365, 5.0)
    load = SimpleNamespace(running_kw=1.5, start_kw=0.6, stop_kw=0.2, min_soc=0.9)
    take(spare, soc, load, room)
    benchmark(take, spare, soc, load, room)
    noted(
        benchmark, "plain Python", seconds(lambda: _take(spare, soc, 1.5, 0.6, 0.2, 0.9, room, 96, 0.25), 2)
    )


def test_ways_of_backup_side_by_side(benchmark, job, reckoner, noted, seconds):
    """Four ways, each with 5,840 outages; baseline: the same with a cold reckoner."""
    from lodestaff.reckoning import Reckoner

    benchmark(compare_strategies, reckoner, job)
    noted(benchmark, "computing all anew", seconds(lambda: compare_strategies(Reckoner(), job), 2))
