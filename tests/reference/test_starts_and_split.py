"""Motor starts and the split of circuits, against values computed twice elsewhere."""

import pytest

from lodestaff.electrical.split import Running, motor_start, totals


def test_motor_start_on_a_running_load():
    """Source: common practice."""
    motor = motor_start(1.1, 0.78, 0.8, 230, 6)
    assert motor.input_kw == pytest.approx(1.410, rel=1e-3)
    assert motor.running_kva == pytest.approx(1.763, rel=1e-3)
    assert motor.running_a == pytest.approx(7.664, rel=1e-3)
    assert motor.start_a == pytest.approx(45.99, rel=1e-3)
    assert motor.start_kva == pytest.approx(10.58, rel=1e-3)
    base = Running("base", 1.3, 1, 1.3)
    hard = totals((base, Running("motor", motor.input_kw, 0.8, motor.start_kva)))
    soft = totals((base, Running("motor", motor.input_kw, 0.8, 2.5 * motor.running_kva)))
    assert hard.worst_kva == pytest.approx(11.88, rel=1e-3)
    assert hard.worst_kva > 10
    assert soft.worst_kva == pytest.approx(5.707, rel=1e-3)


def test_largest_motor_on_a_backup_board():
    """Source: common practice."""
    run = [180, 750, 60, 1200, 420, 250]
    start = [900, 3600, 60, 1200, 2100, 250]
    board = totals(
        tuple(Running(f"load {i}", r / 1000, 1, s / 1000) for i, (r, s) in enumerate(zip(run, start)))
    )
    assert board.kw == pytest.approx(2.860)
    assert board.worst_kva == pytest.approx(5.710)
    assert board.worst_name == "load 1"
    assert board.together_kva == pytest.approx(8.110)
    assert board.kw <= 3.0
    assert board.worst_kva <= 6.0 < board.together_kva


CIRCUITS = {  # running W, start W, overnight kWh
    "fridge-freezer": (160, 950, 1.3), "lights": (240, 240, 0.9), "router and alarm": (45, 45, 0.5),
    "boiler and pumps": (210, 620, 1.4), "kettle": (2800, 2800, 0.6), "office sockets": (520, 520, 1.7),
    "well pump": (1050, 5200, 1.1), "medical chair": (380, 760, 0.9), "heat pump": (1900, 3900, 4.8),
    "television": (130, 130, 0.5),
}  # fmt: skip


def test_limits_of_the_best_backup_set():
    """Source: derived (brute force): the set of most points within 5 kW, 8 kW of surge, 9 kWh."""
    left_out = ("kettle", "heat pump")
    chosen = {name: values for name, values in CIRCUITS.items() if name not in left_out}
    held = totals(tuple(Running(n, r / 1000, 1, s / 1000) for n, (r, s, _) in chosen.items()))
    assert held.kw == pytest.approx(2.735)
    assert held.worst_kva == pytest.approx(6.885)
    assert sum(kwh for *_, kwh in chosen.values()) == pytest.approx(8.3)
    for name in left_out:
        r, s, kwh = CIRCUITS[name]
        more = totals(
            (
                *(Running(n, a / 1000, 1, b / 1000) for n, (a, b, _) in chosen.items()),
                Running(name, r / 1000, 1, s / 1000),
            )
        )
        assert more.kw > 5 or more.worst_kva > 8 or 8.3 + kwh > 9, f"{name} would have fitted"
