"""Surplus loads: they take what would be exported or lost, and leave the batteries as they were."""

import numpy as np
import pytest

from lodestaff.energy.calendar import STEPS, STEPS_PER_DAY
from lodestaff.energy.dispatch import Battery, Converter, simulate
from lodestaff.energy.surplus import SurplusLoad, _take, over, take, with_surplus

BANK = Battery(8, 0.1, 0.2, 1, 3, 3, 0.96, 0.96, 0.9, 0.3)
UNIT = Converter(0, 5, 5, 8, 0.02, 0.003, 0.04, 7, BANK)
HOURS = np.arange(STEPS) / 4 % 24


def sun():
    random = np.random.default_rng(4)
    shape = np.clip(np.sin((HOURS - 6) / 12 * np.pi), 0, None)
    return (shape * 5.5 * np.repeat(random.uniform(0.1, 1, 365), STEPS_PER_DAY))[None]


def load(**changes):
    usual = np.where(HOURS < 5, 1.0, 0.0)
    made = {"phase": 0, "running_kw": 1.5, "start_kw": 0.6, "stop_kw": 0.2, "min_soc": 0.9,
            "need_kwh": np.full(365, 4.0), "usual_kw": usual, "top_up": False}  # fmt: skip
    return SurplusLoad(**{**made, **changes})


@pytest.fixture(scope="module")
def plain():
    return simulate((UNIT,), sun(), np.full((1, STEPS), 0.5), export_kw=1.0)


def run(base):
    return simulate((UNIT,), sun(), base, export_kw=1.0)


def taking(taken):
    return run(0.5 + taken.sum(axis=0, keepdims=True))


def test_what_is_spare_is_export_and_curtailment(plain):
    """Derived: adding exactly the spare power as a load leaves neither export nor curtailment."""
    spare, _ = over(plain, (UNIT,))
    whole = run(np.full((1, STEPS), 0.5) + spare)
    assert whole.export_kw.sum() == pytest.approx(0, abs=1e-6)
    assert whole.series.curtailed_kw.sum() == pytest.approx(0, abs=1e-6)
    assert np.allclose(whole.series.energy_kwh, plain.series.energy_kwh, atol=1e-9)


def test_the_battery_goes_as_it_did_and_nothing_more_is_bought(plain):
    year = with_surplus((load(),), STEPS, 1, (UNIT,), taking)
    assert np.allclose(year.series.energy_kwh, plain.series.energy_kwh, atol=1e-9)
    assert year.import_kw.sum() == pytest.approx(plain.import_kw.sum())
    assert year.surplus_kw.sum() > 100
    assert year.surplus_kw.max() <= 1.5 + 1e-12
    assert year.load_kw == pytest.approx(0.5 + year.surplus_kw)


def test_a_day_takes_no_more_than_its_need(plain):
    year = with_surplus((load(),), STEPS, 1, (UNIT,), taking)
    of_day = year.surplus_kw.reshape(365, -1).sum(axis=1) / 4
    assert of_day.max() == pytest.approx(4.0)


def test_thresholds_switch_with_hysteresis_and_charge():
    """By hand: on above 1, off below 0.4; the seventh step has too little charge."""
    spare = np.array([0.9, 1.1, 0.6, 0.3, 0.6, 1.2, 1.2, 1.2])
    soc = np.array([1, 1, 1, 1, 1, 1, 0.5, 1.0])
    found = take(spare, soc, load(start_kw=1.0, stop_kw=0.4, running_kw=1.0), np.full(365, 99.0))
    assert found == pytest.approx([0, 1.0, 0.6, 0, 0, 1.0, 0, 1.0])


def test_the_compiled_loop_and_the_plain_one_agree():
    random = np.random.default_rng(2)
    spare, soc = random.uniform(0, 2, 960), random.uniform(0.7, 1, 960)
    room = np.full(365, 3.0)
    assert np.array_equal(
        take(spare, soc, load(), room), _take(spare, soc, 1.5, 0.6, 0.2, 0.9, room, 96, 0.25)
    )


def test_a_tank_with_two_supplies_gets_its_need_every_day():
    year = with_surplus((load(top_up=True),), STEPS, 1, (UNIT,), taking)
    drawn = (year.load_kw - 0.5).reshape(365, -1).sum(axis=1) / 4
    assert drawn.max() <= 4.0 + 1e-9  # never more
    assert np.median(drawn) == pytest.approx(4.0, abs=1e-6)
    assert drawn.sum() == pytest.approx(365 * 4.0, rel=0.02)
    from_mains = drawn.sum() - year.surplus_kw.sum() / 4
    assert 0 < from_mains < 365 * 4.0


def test_the_first_load_is_served_first():
    first, second = load(need_kwh=np.full(365, 1.0)), load()
    year = with_surplus((first, second), STEPS, 1, (UNIT,), taking)
    alone = with_surplus((first,), STEPS, 1, (UNIT,), taking)
    assert year.surplus_kw.sum() > alone.surplus_kw.sum()
