"""Without a sun meter strings are held against each other and the count of their modules: proven less, said
so, and no wall before the rest (common practice)."""

import pytest

from lodestaff.commissioning.expect import Conditions, string_voc
from lodestaff.commissioning.reading import Reading, Status, judge
from lodestaff.commissioning.record import BUILT_ON
from lodestaff.commissioning.rules import StringAmps, StringVolts, SunPower
from lodestaff.commissioning.step import Step


@pytest.fixture(scope="module")
def module(larkmoor):
    return larkmoor.sheets.modules["module-440"]


def judged(rule, value, readings=None, at="2026-11-20T11:00:00+00:00"):
    step = Step("voc-1", "strings", "A string.", rule)
    reading = Reading("voc-1", (value,), by="Ann", instrument="tester", calibrated_until="2027-01-01", at=at)
    return judge(step, reading, {}, readings or {})


def beside(module, count, value, step="voc-2", at="2026-11-20T11:05:00+00:00"):
    return {step: Reading(step, (value,), at=at)}, ((step, count * module.voc_v, "string 2"),)


@pytest.mark.parametrize("cell_c", [0.0, 25.0, 60.0])
def test_a_whole_string_passes_in_any_warmth_and_is_marked(module, cell_c):
    found = judged(StringVolts(((module, 8),)), string_voc(module, 8, Conditions(800.0, cell_c)))
    assert found.status is Status.DOUBTFUL
    assert "weaker proof" in found.words
    assert found.status in BUILT_ON  # it holds nothing back


def test_three_modules_of_eight_missing_show_by_the_count_alone(module):
    found = judged(StringVolts(((module, 8),)), string_voc(module, 5, Conditions(800.0, 30.0)))
    assert found.status is Status.FAILED


def test_one_module_missing_shows_against_another_string(module):
    """10 modules at 37.4 V each beside 7 of 8 drawn: 12.5 % apart, and 13 with no place behind it."""
    volts = string_voc(module, 1, Conditions(700.0, 40.0))
    readings, others = beside(module, 10, 10 * volts)
    rule = StringVolts(((module, 8),), others)
    assert judged(rule, 8 * volts, readings).status is Status.DOUBTFUL
    assert "like 1 other string" in judged(rule, 8 * volts, readings).words
    found = judged(rule, 7 * volts, readings)
    assert found.status is Status.FAILED
    assert "unlike string 2 by -13 %" in found.words
    assert "module missing" in found.words


def test_another_days_string_is_no_comparison(module):
    volts = string_voc(module, 1, Conditions(700.0, 40.0))
    readings, others = beside(module, 10, 10 * volts, at="2026-11-19T11:00:00+00:00")
    assert judged(StringVolts(((module, 8),), others), 7 * volts, readings).status is Status.DOUBTFUL


def test_a_string_the_wrong_way_round_fails_without_a_sun_meter_too(module):
    found = judged(StringVolts(((module, 8),)), -296.0)
    assert found.status is Status.FAILED
    assert "polarity reversed" in found.words


def test_current_and_power_in_daylight_that_nobody_measured(module):
    assert judged(StringAmps(module), 6.0).status is Status.DOUBTFUL
    assert judged(StringAmps(module), 0.0).status is Status.FAILED
    assert judged(StringAmps(module), 25.0).status is Status.FAILED
    readings = {"isc-2": Reading("isc-2", (9.0,), at="2026-11-20T11:05:00+00:00")}
    rule = StringAmps(module, (("isc-2", module.isc_a, "string 2"),))
    assert judged(rule, 8.9, readings).status is Status.DOUBTFUL
    assert judged(rule, 6.0, readings).status is Status.FAILED
    assert judged(SunPower(4000.0, -0.34, 6.0), 1.0).status is Status.DOUBTFUL
    assert judged(SunPower(4000.0, -0.34, 6.0), 0.0).status is Status.FAILED


def test_a_second_face_is_read_by_itself(module):
    """3 kW in 800 W/m² at 45 °C and 1 kW in 300 W/m² at 25 °C, gamma -0.34 %/K, 3.5 % derated (derived)."""
    rule = SunPower(3000.0, -0.34, 6.0, 1000.0)
    both = Conditions(800.0, 45.0, poa_2_w_m2=300.0, module_2_c=25.0)
    expected = 0.965 * (3.0 * 0.8 * (1 - 0.0034 * 20) + 1.0 * 0.3)
    assert rule.expected(both).value == pytest.approx(expected)
