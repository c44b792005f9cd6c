"""A verdict names the likely cause of a reading outside its bounds (common practice)."""

import pytest

from lodestaff.commissioning.expect import Conditions, string_voc
from lodestaff.commissioning.reading import NOT_MEASURED, Reading, Status, judge
from lodestaff.commissioning.rules import (
    Between,
    LoadSeen,
    LoadUnseen,
    SettingIs,
    ShareOfLoad,
    StringAmps,
    StringVolts,
    SunPower,
)
from lodestaff.commissioning.step import Measure, Step

WARM = Conditions(800.0, 45.0)
CLAMP = Conditions(voltage_v=230.0, load_kw=3.0)


@pytest.fixture(scope="module")
def module(larkmoor):
    return larkmoor.sheets.modules["module-440"]


def words(rule, value, conditions=NOT_MEASURED, kind="confirm"):
    step = Step("s", "function", "A step.", rule, measure=Measure(kind))
    found = judge(step, Reading("s", (value,), conditions=conditions, by="Ann"), {})
    assert found.status is Status.FAILED
    assert found.words.startswith("outside its bounds: ")
    return found.words


def test_a_string_the_wrong_way_round_reads_below_zero(module):
    volts = string_voc(module, 8, WARM)
    assert "polarity reversed" in words(StringVolts(((module, 8),)), -volts, WARM)
    assert "isn't the string's volts" in words(StringVolts(((module, 8),)), -0.5 * volts, WARM)


@pytest.mark.parametrize(
    ("there", "said"),
    [(7, "1 of 8 modules is missing"), (6, "2 of 8 modules are missing"), (9, "1 modules more than drawn")],
)
def test_modules_are_counted_from_the_volts(module, there, said):
    volts = string_voc(module, there, WARM)
    assert said in words(StringVolts(((module, 8),)), volts, WARM)


def test_another_strings_volts_are_recognised(module):
    rule = StringVolts(((module, 8),), others=(("2", ((module, 10),)),))
    assert "volts of string 2" in words(rule, string_voc(module, 10, WARM), WARM)


def test_an_open_string_says_so(module):
    assert "open" in words(StringVolts(((module, 8),)), 0.3, WARM)
    assert "open at a connector" in words(StringAmps(module), 0.0, WARM)


def test_power_that_is_held_back(module):
    rule = SunPower(4000.0, -0.34, 6.0)
    assert "nothing comes" in words(rule, 0.01, WARM)
    assert "holds it back" in words(rule, 1.5, WARM)


@pytest.mark.parametrize(
    ("shown", "said"),
    [
        (-3.0, "wrong way round"), (0.0, "sees nothing"), (1.5, "ratio is set wrong: it shows 0.5 times"),
        (30.0, "10 times the load"), (-1.5, "another leg or phase"), (2.2, "another leg or phase"),
    ],
)  # fmt: skip
def test_a_transformers_faults_are_told_apart(shown, said):
    assert said in words(LoadSeen(), shown, CLAMP)


def test_a_transformer_that_sees_too_much():
    assert "which conductor" in words(LoadUnseen(), 3.0, Conditions(load_kw=0.2))


def test_a_current_by_another_way():
    assert "second bond" in words(ShareOfLoad(0.01, 0.2, 230.0, "x"), 3.0, Conditions(load_kw=2.3))


@pytest.mark.parametrize(("off_s", "said"), [(43_210.0, "twelve hours off"), (-43_190.0, "twelve hours off"),
                                             (3598.0, "an hour off"), (900.0, "set it again")])  # fmt: skip
def test_a_clock_by_hand_is_a_reading(off_s, said):
    assert said in words(SettingIs("clock", (0.0,), 60.0, "s"), off_s)


def test_a_limit_in_another_unit():
    assert "10 times what was set" in words(SettingIs("export_kw", (3.68,), 0.0005, "kW"), 36.8)
    assert "0.001 times what was set" in words(SettingIs("export_kw", (3.68,), 0.0005, "kW"), 0.00368)


@pytest.mark.parametrize(
    ("kind", "rule", "value", "said"),
    [
        ("island loop", Between(1.0, "ohm", None, 5.0, "x"), 1999.0, "no bond is made"),
        ("neutral to earth", Between(1000.0, "ohm", 1000.0, None, "x"), 0.1, "isn't drawn"),
        ("neutral to earth", Between(0.1, "ohm", None, 0.5, "x"), 1999.0, "isn't made"),
        ("same leg", Between(0.0, "V", None, 15.0, "x"), 398.0, "are exchanged"),
        ("battery v", Between(51.0, "V", 45.0, 57.0, "x"), -51.0, "polarity reversed"),
        ("electrode", Between(100.0, "ohm", None, 100.0, "x"), 160.0, "moist ground"),
        ("meter lost", Between(0.0, "kW", None, 0.2, "x"), 3.0, "goes on feeding"),
        ("array off", Between(0.0, "V", None, 30.0, "x"), 410.0, "stay live"),
    ],
)
def test_other_readings_say_what_to_look_at(kind, rule, value, said):
    assert said in words(rule, value, kind=kind)
